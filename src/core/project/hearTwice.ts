import type { Amendment, AmendmentOf } from '../notation/amendments/amendment'
import type { Ticks } from '../time/units'
import { copyBars } from './bars'
import { contextOf } from './context'
import type { Project } from './schema'

type Repeat = AmendmentOf<'repeat'>

/** Repeats that were written by hand and are there once in what is played. */
export function heardOnce({ amendments }: Pick<Project, 'amendments'>): Repeat[] {
  return amendments.flatMap((each) =>
    each.aspect === 'repeat' && each.timesThere === undefined ? [each] : [],
  )
}

/** The bars of a repeat by their numbers, without the ending of the first time, and the last bar of all. */
export function barsOfRepeat(
  project: Project,
  { tick, lastBarTick }: Repeat,
): { readonly first: number; readonly last: number; readonly lastOfAll: number } {
  const { meterMap } = contextOf(project)
  const barOf = (at: Ticks) => meterMap.measureAt(at).index + 1
  const ending = project.amendments.find(
    (each): each is AmendmentOf<'ending'> =>
      each.aspect === 'ending' && each.time === 1 && each.lastBarTick === lastBarTick,
  )
  const lastOfAll = barOf(lastBarTick)
  return { first: barOf(tick), last: ending ? barOf(ending.tick) - 1 : lastOfAll, lastOfAll }
}

/**
 * A piece in which a repeat that was written by hand is played twice: its bars are there a second time behind the first, through all
 * tracks, and are still written once.
 *
 * @returns the piece, or why nothing was done
 */
export function hearTwice(project: Project, repeat: Repeat): Project | { readonly problem: string } {
  const { first, last, lastOfAll } = barsOfRepeat(project, repeat)
  if (last < first)
    return { problem: 'An ending begins where the repeat does: there is nothing to be played again.' }
  const { meterMap } = contextOf(project)
  const from = meterMap.measure(first - 1).startTicks
  const lengthTicks = meterMap.measure(last).startTicks - from
  const atTicks = meterMap.measure(lastOfAll).startTicks
  const { project: longer, problem } = copyBars(project, { first, last }, lastOfAll + 1)
  if (problem !== null) return { problem }
  /** The second time has no signs of its own. */
  const isInCopy = (tick: Ticks) => tick >= atTicks && tick < atTicks + lengthTicks
  return {
    ...longer,
    amendments: longer.amendments.flatMap((each): Amendment[] => {
      if (each.aspect !== 'repeat' && each.aspect !== 'ending') return [each]
      if (isInCopy(each.tick)) return []
      return [each.aspect === 'repeat' && each.tick === repeat.tick ? { ...each, timesThere: 2 } : each]
    }),
  }
}
