/** Open strings of common instruments in their common tunings, from the lowest; keys, 60 being middle C. */
export const stringTunings = [
  { id: 'guitar', name: 'guitar', strings: [40, 45, 50, 55, 59, 64] },
  { id: 'guitarDropD', name: 'guitar, low string to D', strings: [38, 45, 50, 55, 59, 64] },
  { id: 'guitarHalfDown', name: 'guitar, half a tone down', strings: [39, 44, 49, 54, 58, 63] },
  { id: 'guitarOpenG', name: 'guitar, open G', strings: [38, 43, 50, 55, 59, 62] },
  { id: 'guitarDadgad', name: 'guitar, D A D G A D', strings: [38, 45, 50, 55, 57, 62] },
  { id: 'bass', name: 'bass, four strings', strings: [28, 33, 38, 43] },
  { id: 'bassFive', name: 'bass, five strings', strings: [23, 28, 33, 38, 43] },
  { id: 'ukulele', name: 'ukulele', strings: [67, 60, 64, 69] },
  { id: 'mandolin', name: 'mandolin', strings: [55, 62, 69, 76] },
  { id: 'violin', name: 'violin', strings: [55, 62, 69, 76] },
  { id: 'viola', name: 'viola', strings: [48, 55, 62, 69] },
  { id: 'cello', name: 'cello', strings: [36, 43, 50, 57] },
  { id: 'doubleBass', name: 'double bass', strings: [28, 33, 38, 43] },
] as const satisfies readonly { id: string; name: string; strings: readonly number[] }[]

export type StringTuningId = (typeof stringTunings)[number]['id']

/** The string that is nearest to what is heard. */
export function nearestString(strings: readonly number[], place: number): number {
  return strings.reduce((best, key) => (Math.abs(key - place) < Math.abs(best - place) ? key : best))
}
