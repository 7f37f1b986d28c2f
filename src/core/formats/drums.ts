import { percussionPlace } from '../notation/percussion'
import type { ScorePart } from '../notation/score'

/** The percussion keys that are struck in a part, in order. */
export function drumsOf(part: ScorePart): number[] {
  const keys = new Set<number>()
  for (const measure of part.measures)
    for (const voice of measure)
      for (const element of voice.elements)
        if (element.kind === 'chord')
          for (const note of [...element.graces, ...element.notes]) keys.add(note.key)
  return [...keys].sort((a, b) => a - b)
}

/** The same from the lowest place of the staff up. */
export function drumsByPlace(part: ScorePart): number[] {
  const height = (key: number) => {
    const { step, octave } = percussionPlace(key)
    return octave * 7 + 'CDEFGAB'.indexOf(step)
  }
  return drumsOf(part).sort((a, b) => height(a) - height(b) || a - b)
}
