import { TICKS_PER_QUARTER, type Ticks } from '../time/units'

/** A tempo of the piece, with what is printed where it begins. */
export interface TempoMark {
  readonly tick: Ticks
  readonly tempoBpm: number
  /** What a metronome mark says, where that is rounder. */
  readonly printedBpm?: number
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
    const lastPlayed = playedFrom(tempos, index)
    if (lastPlayed !== null) {
      const played = marksOfPlayed(tempos.slice(index, lastPlayed + 1), printedBpm)
      marks.push(...played.marks)
      printedBpm = played.printedBpm
      beforeRunBpm = null
      index = lastPlayed + 1
      continue
    }
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

/** So many changes at every beat or two are the tempo of a player, not of a writer. */
const leastPlayed = 12
/** Half of the stretch that a played tempo is heard over. */
const heardTicks: Ticks = 2 * TICKS_PER_QUARTER
/** A played tempo is another one from this share on, and the same again within that. */
const leavesFrom = 0.16
const returnsWithin = 0.08
/** What lasts for longer is a new tempo, not a turn of phrase. */
const newTempoTicks: Ticks = 12 * TICKS_PER_QUARTER

/** Index of the last change of a tempo that was played, which begins here; null where none does. */
function playedFrom(tempos: Parameters<typeof tempoMarksOf>[0], first: number): number | null {
  let last = first
  // What leads in to it has a tempo of its own, for as long as it may be silent.
  while (
    last + 1 < tempos.length &&
    (last === 0 || tempos[last + 1]!.tick - tempos[last]!.tick <= nextWithinTicks)
  )
    last++
  return last - first + 1 >= leastPlayed ? last : null
}

/**
 * What a copyist prints of a tempo that was played: about how fast it is, a word where it is left and one where it comes back, a new
 * mark where it stays elsewhere.
 */
function marksOfPlayed(
  all: Parameters<typeof tempoMarksOf>[0],
  before: number,
): { marks: TempoMark[]; printedBpm: number } {
  const marks: TempoMark[] = all.map((tempo) => ({ ...tempo, print: null }))
  // Nobody hears how fast the silence is that leads in.
  const isLeadIn = all[1]!.tick - all[0]!.tick > nextWithinTicks
  const tempos = isLeadIn ? [{ ...all[0]!, tempoBpm: all[1]!.tempoBpm }, ...all.slice(1)] : all
  const heard = heardTempos(tempos)
  const print = (index: number, mark: Pick<TempoMark, 'print' | 'printedBpm'>) => {
    marks[index] = { ...marks[index]!, ...mark }
  }
  let printedBpm = usualTempo(heard, 0)
  if (!isLike(printedBpm, before)) print(0, { print: 'metronome', printedBpm })
  else printedBpm = before
  let leftAt: number | null = null
  for (const [index, bpm] of heard.entries()) {
    const away = Math.abs(bpm - printedBpm) / printedBpm
    if (leftAt === null) {
      if (away < leavesFrom || index === 0) continue
      // It is left where the way there began.
      leftAt = index
      while (
        leftAt > 1 &&
        marks[leftAt]!.print === null &&
        Math.sign(heard[leftAt]! - heard[leftAt - 1]!) === Math.sign(bpm - printedBpm) &&
        Math.abs(heard[leftAt - 1]! - printedBpm) / printedBpm > noticed
      )
        leftAt--
      print(leftAt, { print: bpm < printedBpm ? 'rit.' : 'accel.' })
    } else if (away <= returnsWithin) {
      print(index, { print: 'a tempo' })
      leftAt = null
    } else if (tempos[index]!.tick - tempos[leftAt]!.tick >= newTempoTicks) {
      printedBpm = usualTempo(heard, index)
      print(index, { print: 'metronome', printedBpm })
      leftAt = null
    }
  }
  return { marks, printedBpm: leftAt === null ? printedBpm : 0 }
}

/** How fast it is around each change: the time of the stretch around it, not one beat. */
function heardTempos(tempos: Parameters<typeof tempoMarksOf>[0]): number[] {
  let first = 0
  return tempos.map(({ tick }) => {
    let [minutes, ticks] = [0, 0]
    while (first + 1 < tempos.length && tempos[first + 1]!.tick <= tick - heardTicks) first++
    for (let index = first; index < tempos.length && tempos[index]!.tick < tick + heardTicks; index++) {
      const each = tempos[index]!
      const from = Math.max(each.tick, tick - heardTicks)
      const to = Math.min(tempos[index + 1]?.tick ?? each.tick + TICKS_PER_QUARTER, tick + heardTicks)
      if (to <= from) continue
      ticks += to - from
      minutes += (to - from) / TICKS_PER_QUARTER / each.tempoBpm
    }
    return ticks / TICKS_PER_QUARTER / minutes
  })
}

/** The middle of the tempi from a place on, for as long as a new one would have to last, as a metronome has it. */
function usualTempo(heard: readonly number[], from: number): number {
  const near = heard.slice(from, from + 48).sort((a, b) => a - b)
  return Math.round(near[near.length >> 1]!)
}
