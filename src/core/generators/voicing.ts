import type { ChartChord } from './chordChart'

export const voicings = ['close', 'spread', 'dropped second', 'without root'] as const
export type Voicing = (typeof voicings)[number]

/**
 * The keys of a chord, led from the chord before with as little movement as it goes (common practice, no source): of all
 * inversions around the middle, the one whose keys are nearest to those before.
 */
export function voice(
  chord: ChartChord,
  voicing: Voicing,
  middleKey: number,
  before: readonly number[],
): number[] {
  const classes =
    voicing === 'without root' && chord.pitchClasses.length > 3
      ? chord.pitchClasses.slice(1)
      : chord.pitchClasses
  let best: number[] = []
  let bestCost = Number.POSITIVE_INFINITY
  for (let inversion = 0; inversion < classes.length; inversion++) {
    const turned = [...classes.slice(inversion), ...classes.slice(0, inversion)]
    for (const octave of [-12, 0, 12]) {
      const keys = opened(stacked(turned, middleKey - 6 + octave), voicing)
      const centre = keys.reduce((sum, each) => sum + each, 0) / keys.length
      const moved =
        before.length === 0
          ? 0
          : keys.reduce((sum, each) => sum + Math.min(...before.map((old) => Math.abs(old - each))), 0)
      const cost = moved + Math.abs(centre - middleKey) * 0.7
      if (cost < bestCost) [best, bestCost] = [keys, cost]
    }
  }
  return best.filter((each) => each >= 0 && each <= 127)
}

/** Each note above the one before, the first at or above a key. */
function stacked(classes: readonly number[], fromKey: number): number[] {
  const keys: number[] = []
  let above = fromKey
  for (const pitchClass of classes) {
    const key = above + ((((pitchClass - above) % 12) + 12) % 12)
    keys.push(key)
    above = key + 1
  }
  return keys
}

function opened(keys: number[], voicing: Voicing): number[] {
  if (voicing === 'spread')
    return keys.map((key, index) => (index % 2 === 1 ? key + 12 : key)).sort((a, b) => a - b)
  if (voicing === 'dropped second' && keys.length > 2)
    return keys.map((key, index) => (index === keys.length - 2 ? key - 12 : key)).sort((a, b) => a - b)
  return keys
}
