import { choice, noteValues, number } from '../effects/settings'
import { noteEndTicks } from '../event/note'
import type { Ticks } from '../time/units'
import { shortestTicks } from './lengths'
import { defineOperation, editEach, withNote } from './operation'

const grids = ['1/1', '1/2', '1/4', '1/8', '1/16', '1/32'] as const
const tuplets = {
  none: [1, 1],
  '3 for 2': [2, 3],
  '5 for 4': [4, 5],
  '6 for 4': [4, 6],
  '7 for 4': [4, 7],
} as const

/**
 * Moves starts, ends or both towards a grid: by a strength, with every second line late (swing), as tuplets, and only what is off by
 * more than so much.
 */
export const quantise = defineOperation({
  title: 'Quantise',
  group: 'time',
  says: 'towards a grid: starts, ends or both',
  balance: 'stays',
  fields: {
    grid: choice('grid', grids, '1/16'),
    tuplet: choice('tuplets', ['none', '3 for 2', '5 for 4', '6 for 4', '7 for 4'], 'none'),
    what: choice('move', ['starts', 'ends', 'both'], 'starts'),
    strength: number('strength', [0, 100], 100, '%'),
    swing: number('swing, 50 is even', [50, 75], 50, '%'),
    beyondMs: number('only if off by more than', [0, 100], 0, 'ms'),
  },
  edit(notes, { grid, tuplet, what, strength, swing, beyondMs }, context) {
    const [normal, actual] = tuplets[tuplet]
    const gridTicks = (noteValues[grid] * normal) / actual
    const { tempoMap, meterMap } = context
    const towards = (tick: Ticks): Ticks => {
      // Grids begin anew with each bar: odd meters do not push them off.
      const startTicks = meterMap.barStartTicks(tick)
      const target = startTicks + nearestLine(tick - startTicks, gridTicks, swing / 100)
      const isNear = beyondMs > 0 && Math.abs(tempoMap.msAt(target) - tempoMap.msAt(tick)) <= beyondMs
      return isNear ? tick : Math.round(tick + ((target - tick) * strength) / 100)
    }
    return editEach(notes, context, (note) => {
      const onsetTicks = what === 'ends' ? note.onsetTicks : Math.max(0, towards(note.onsetTicks))
      if (what === 'starts') return withNote(note, { onsetTicks })
      const endTicks = towards(noteEndTicks(note))
      const durationTicks = endTicks - onsetTicks
      // A note that would vanish keeps one step of the grid.
      return withNote(note, {
        onsetTicks,
        durationTicks: durationTicks < shortestTicks ? Math.round(gridTicks) : durationTicks,
      })
    })
  },
})

/** The nearest line of a grid whose every second line lies at a share of two steps: a half is straight, two thirds is a triplet. */
export function nearestLine(tick: Ticks, gridTicks: Ticks, swingShare: number): Ticks {
  const pair = gridTicks * 2
  const base = Math.floor(tick / pair) * pair
  const [middle, next] = [base + pair * swingShare, base + pair]
  if (tick - base <= middle - tick) return Math.round(base)
  return Math.round(tick - middle <= next - tick ? middle : next)
}
