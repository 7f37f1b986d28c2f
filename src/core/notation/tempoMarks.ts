import { TICKS_PER_QUARTER, type Ticks } from '../time/units'

/** A tempo of the piece, with what is printed where it begins. */
export interface TempoMark {
  readonly tick: Ticks
  readonly tempoBpm: number
  /** A metronome mark, a word, or nothing: the tempo is followed and not printed. */
  readonly print: 'metronome' | 'rit.' | 'accel.' | 'a tempo' | null
}

/** A change that is smaller than this share is not noticed, and not printed. */
const noticed = 0.03
/** So many changes one after the other, the same way, at most this far apart, and by this share in all, are one gradual change. */
const leastSteps = 3
const nextWithinTicks: Ticks = 2.1 * TICKS_PER_QUARTER
const leastRun = 0.05

/**
 * What is printed of the tempi of a piece: one mark where one is meant. A run of small changes is a word, with the tempi behind it
 * followed and not printed; what comes back to the tempo before the run is "a tempo".
 */
export function tempoMarksOf(
  tempos: readonly { readonly tick: Ticks; readonly tempoBpm: number }[],
): TempoMark[] {
  const marks: TempoMark[] = []
  let printedBpm = 0
  let beforeRunBpm: number | null = null
  for (let index = 0; index < tempos.length; ) {
    const { tick, tempoBpm } = tempos[index]!
    const last = runFrom(tempos, index)
    if (last !== null) {
      beforeRunBpm ??= tempos[index - 1]!.tempoBpm
      const word = tempoBpm < tempos[index - 1]!.tempoBpm ? 'rit.' : 'accel.'
      for (; index <= last; index++)
        marks.push({
          ...tempos[index]!,
          print: marks.at(-1)?.tick !== tick && tempos[index]!.tick === tick ? word : null,
        })
      printedBpm = 0
      continue
    }
    let print: TempoMark['print'] = null
    if (beforeRunBpm !== null && isLike(tempoBpm, beforeRunBpm)) print = 'a tempo'
    else if (!isLike(tempoBpm, printedBpm)) print = 'metronome'
    if (print) {
      printedBpm = print === 'a tempo' ? beforeRunBpm! : tempoBpm
      beforeRunBpm = null
    }
    marks.push({ tick, tempoBpm, print })
    index++
  }
  return marks
}

const isLike = (a: number, b: number) => Math.abs(a - b) <= noticed * Math.max(a, b)

/** Index of the last change of a gradual one that begins here; null where none does. */
function runFrom(tempos: Parameters<typeof tempoMarksOf>[0], first: number): number | null {
  if (first === 0) return null
  const from = tempos[first - 1]!.tempoBpm
  const way = Math.sign(tempos[first]!.tempoBpm - from)
  if (way === 0) return null
  let last = first
  while (
    last + 1 < tempos.length &&
    tempos[last + 1]!.tick - tempos[last]!.tick <= nextWithinTicks &&
    Math.sign(tempos[last + 1]!.tempoBpm - tempos[last]!.tempoBpm) === way
  )
    last++
  const change = Math.abs(tempos[last]!.tempoBpm - from) / from
  return last - first + 1 >= leastSteps && change >= leastRun ? last : null
}
