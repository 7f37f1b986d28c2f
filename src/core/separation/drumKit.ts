import { percussionNames } from '../midi/generalMidi'

/** Keys that belong to one instrument of a drum kit, by General MIDI percussion key. Common practice, no source. */
const instruments: readonly { readonly name: string; readonly keys: readonly number[] }[] = [
  { name: 'Bass drum', keys: [35, 36] },
  { name: 'Snare drum', keys: [37, 38, 40] },
  { name: 'Hi-hat', keys: [42, 44, 46] },
  { name: 'Toms', keys: [41, 43, 45, 47, 48, 50] },
  { name: 'Ride cymbal', keys: [51, 53, 59] },
  { name: 'Crash cymbals', keys: [49, 52, 55, 57] },
  { name: 'Bongos', keys: [60, 61] },
  { name: 'Congas', keys: [62, 63, 64] },
  { name: 'Timbales', keys: [65, 66] },
  { name: 'Agogo', keys: [67, 68] },
  { name: 'Whistle', keys: [71, 72] },
  { name: 'Guiro', keys: [73, 74] },
  { name: 'Wood blocks', keys: [76, 77] },
  { name: 'Cuica', keys: [78, 79] },
  { name: 'Triangle', keys: [80, 81] },
]

/** The instrument of a kit that a key belongs to: the hi-hat's keys and its pedal are one. */
export function drumOf(key: number): string {
  const known = instruments.find(({ keys }) => keys.includes(key))
  return known?.name ?? strokeOf(key)
}

/** What a key of a kit is called. */
export function strokeOf(key: number): string {
  return percussionNames[key] ?? `Percussion key ${key}`
}
