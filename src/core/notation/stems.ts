import type { VoiceInMeasure } from './score'

/**
 * Where a staff carries several voices, the highest has its stems up and the others down; alone, a voice has both. On a percussion
 * staff the first voice is the hands', and up.
 */
export function stemDirections(
  voices: readonly VoiceInMeasure[],
  isPercussion = false,
): Map<number, 'up' | 'down'> {
  const directions = new Map<number, 'up' | 'down'>()
  for (const staff of new Set(voices.map((voice) => voice.staff))) {
    const sounding = voices
      .filter((voice) => voice.staff === staff)
      .map(({ voice, elements }) => {
        const keys = elements.flatMap((element) =>
          element.kind === 'chord' ? element.notes.map((note) => note.key) : [],
        )
        return { voice, count: keys.length, height: keys.reduce((sum, key) => sum + key, 0) / keys.length }
      })
      .filter(({ count }) => count > 0)
      .sort((a, b) => (isPercussion ? 0 : b.height - a.height))
    if (sounding.length > 1)
      for (const [place, { voice }] of sounding.entries()) directions.set(voice, place === 0 ? 'up' : 'down')
  }
  return directions
}
