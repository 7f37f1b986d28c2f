import { firstIndex } from '../../time/firstIndex'
import { isSounding, type LineNote } from './strokes'
import { lineWeights as weights } from './weights'

/**
 * The notes whose voice is in doubt: those that could go to another voice, by themselves or in exchange with the note struck there
 * at the same time, for hardly more than their own voice costs.
 *
 * @returns indexes, in the order the notes were given
 */
export function unsureNotes(
  notes: readonly LineNote[],
  voiceOf: readonly number[],
  togetherQuarters: number,
): number[] {
  const lines = new Map<number, number[]>()
  const order = notes
    .map((_, index) => index)
    .sort((a, b) => notes[a]!.onsetQuarters - notes[b]!.onsetQuarters)
  const placeOf = new Array<number>(notes.length)
  for (const index of order) {
    const line = lines.get(voiceOf[index]!) ?? []
    placeOf[index] = line.push(index) - 1
    lines.set(voiceOf[index]!, line)
  }
  const step = (from: number | undefined, to: number | undefined): number => {
    if (from === undefined || to === undefined) return 0
    const [a, b] = [notes[from]!, notes[to]!]
    const pause = Math.max(0, b.onsetQuarters - a.endQuarters)
    const overlap = isSounding(
      { endQuarters: a.endQuarters, lengthQuarters: a.endQuarters - a.onsetQuarters },
      b.onsetQuarters,
      togetherQuarters,
    )
    const leap = weights.leap * Math.min(weights.mostLeap, Math.abs(b.key - a.key))
    return leap + weights.pause * Math.log2(1 + pause) + (overlap ? weights.overlap : 0)
  }
  return order
    .filter((index) => {
      const own = lines.get(voiceOf[index]!)!
      const [before, after] = [own[placeOf[index]! - 1], own[placeOf[index]! + 1]]
      for (const [voice, line] of lines) {
        if (voice === voiceOf[index]) continue
        const { onsetQuarters } = notes[index]!
        let next = placeFrom(line, notes, onsetQuarters - togetherQuarters)
        const together =
          line[next] !== undefined && notes[line[next]!]!.onsetQuarters <= onsetQuarters + togetherQuarters
            ? line[next]!
            : undefined
        const [otherBefore, otherAfter] = [line[next - 1], line[together === undefined ? next : ++next]]
        const now = step(before, index) + step(index, after)
        if (together === undefined) {
          const other = step(otherBefore, otherAfter)
          const moved = step(before, after) + step(otherBefore, index) + step(index, otherAfter)
          if (moved - (now + other) < weights.unsure) return true
          continue
        }
        const other = step(otherBefore, together) + step(together, otherAfter)
        const exchanged =
          step(before, together) + step(together, after) + step(otherBefore, index) + step(index, otherAfter)
        if (exchanged - (now + other) < weights.unsure - weights.crossingStroke) return true
      }
      return false
    })
    .sort((a, b) => a - b)
}

function placeFrom(line: readonly number[], notes: readonly LineNote[], quarters: number): number {
  return firstIndex(line.length, (place) => notes[line[place]!]!.onsetQuarters >= quarters)
}
