import { chance } from '../effects/chance'
import { choice, number } from '../effects/settings'
import { type Note, noteEndTicks } from '../event/note'
import { firstIndex } from '../time/firstIndex'
import { beatUnitTicks, type MeterMap } from '../time/meterMap'
import { lastTick, type Ticks } from '../time/units'
import { shortestTicks } from './lengths'
import { defineOperation, editEach, inOrder, withNote } from './operation'

/** A note that begins elsewhere, with other values besides; null where there is no such place. */
export function beginningAt(note: Note, onsetTicks: number, fields: Partial<Note> = {}): Note | null {
  const onset = Math.round(onsetTicks)
  return onset < 0 || onset > lastTick ? null : withNote(note, { ...fields, onsetTicks: onset })
}

const beforeBeginning = 'at the beginning or the end'

export const shift = defineOperation({
  title: 'Shift',
  group: 'time',
  says: 'earlier or later by milliseconds and ticks (10,080 to the quarter)',
  balance: 'stays',
  leftWhy: beforeBeginning,
  fields: { ms: number('by', [-500, 500], 0, 'ms'), ticks: number('and', [-40_320, 40_320], 0, 'ticks') },
  edit: (notes, { ms, ticks }, context) =>
    editEach(notes, context, (note) => {
      const shifted =
        ms === 0 ? note.onsetTicks : context.tempoMap.ticksAt(context.tempoMap.msAt(note.onsetTicks) + ms)
      return beginningAt(note, shifted + ticks)
    }),
})

const factors = { 'half as long': 0.5, 'two thirds': 2 / 3, 'three halves': 1.5, 'twice as long': 2 } as const

export const stretchTime = defineOperation({
  title: 'Twice or half as long',
  group: 'time',
  says: 'places and lengths together, from where the selection begins',
  balance: 'stays',
  leftWhy: beforeBeginning,
  fields: {
    factor: choice(
      'make it',
      ['twice as long', 'half as long', 'three halves', 'two thirds'],
      'twice as long',
    ),
  },
  edit(notes, { factor: name }, context) {
    const factor = factors[name]
    const { startTicks } = context.range
    return editEach(notes, context, (note) => {
      const durationTicks = Math.round(note.durationTicks * factor)
      return beginningAt(note, startTicks + (note.onsetTicks - startTicks) * factor, {
        durationTicks: Math.min(lastTick, Math.max(shortestTicks, durationTicks)),
      })
    })
  },
})

export const backwards = defineOperation({
  title: 'Backwards',
  group: 'time',
  says: 'the last note first, within the bounds of the selection',
  balance: 'stays',
  leftWhy: beforeBeginning,
  fields: {},
  edit(notes, _, context) {
    const { startTicks, endTicks } = context.range
    return editEach(notes, context, (note) => beginningAt(note, startTicks + endTicks - noteEndTicks(note)))
  },
})

export const repeat = defineOperation({
  title: 'Repeat',
  group: 'time',
  says: 'the selection again and again behind itself, in whole beats',
  balance: 'grows',
  leftWhy: 'beyond the end',
  fields: { times: number('times in all', [2, 100], 2) },
  edit(notes, { times }, context) {
    const lengthTicks = lengthInBeats(context.range.startTicks, context.range.endTicks, context)
    const chosen = notes.filter(({ id }) => context.ids.has(id))
    const repeated = [...notes]
    let [changed, left] = [0, 0]
    for (let turn = 1; turn < times; turn++)
      for (const note of chosen) {
        const again = beginningAt(note, note.onsetTicks + turn * lengthTicks)
        if (!again) {
          left++
          continue
        }
        changed++
        repeated.push({ ...again, id: context.nextId() })
      }
    return { notes: inOrder(repeated), changed, left }
  },
})

/** A length in whole beats, in whole bars where it is a bar or more: what is repeated stays in time. */
export function lengthInBeats(
  startTicks: Ticks,
  endTicks: Ticks,
  { meterMap }: { readonly meterMap: MeterMap },
): Ticks {
  const measure = meterMap.measureAt(startTicks)
  const barTicks = measure.lengthTicks
  const beatTicks = beatUnitTicks(measure)
  const lengthTicks = Math.max(1, endTicks - startTicks)
  // A last note that is held a little over the bar belongs to it.
  const slackTicks = beatTicks / 4
  const unit = lengthTicks > barTicks - beatTicks ? barTicks : beatTicks
  return Math.max(unit, Math.ceil((lengthTicks - slackTicks) / unit) * unit)
}

export const humanise = defineOperation({
  title: 'Humanise',
  group: 'time',
  says: 'a little earlier and later, softer and louder, by chance',
  balance: 'stays',
  leftWhy: beforeBeginning,
  fields: { ms: number('timing', [0, 100], 12, '± ms'), velocity: number('velocity', [0, 60], 8, '±') },
  edit: (notes, { ms, velocity }, context) =>
    editEach(notes, context, (note) => {
      // Numbers of a note's own: an edit elsewhere throws nothing else for it.
      const [first, second] = [chance(context.seed, note.id, 0), chance(context.seed, note.id, 1)]
      const atMs = context.tempoMap.msAt(note.onsetTicks) + (first * 2 - 1) * ms
      const force = Math.round(note.velocity + (second * 2 - 1) * velocity)
      return beginningAt(note, context.tempoMap.ticksAt(Math.max(0, atMs)), {
        velocity: Math.max(1, Math.min(127, force)),
      })
    }),
})

export const layTiming = defineOperation({
  title: 'Timing of another track',
  group: 'time',
  says: 'notes begin where that track plays, wherever it plays near them',
  balance: 'stays',
  leftWhy: 'with nothing near them',
  needsTiming: true,
  fields: {
    nearMs: number('near is', [5, 400], 90, 'ms', 5),
    strength: number('strength', [0, 100], 100, '%'),
  },
  edit(notes, { nearMs, strength }, context) {
    const { tempoMap, timing } = context
    return editEach(notes, context, (note) => {
      const next = firstIndex(timing.length, (index) => timing[index]! >= note.onsetTicks)
      const atMs = tempoMap.msAt(note.onsetTicks)
      let nearest: Ticks | null = null
      let offMs = Number.POSITIVE_INFINITY
      for (const candidate of [timing[next - 1], timing[next]]) {
        if (candidate === undefined) continue
        const distanceMs = Math.abs(tempoMap.msAt(candidate) - atMs)
        if (distanceMs <= nearMs && distanceMs < offMs) [nearest, offMs] = [candidate, distanceMs]
      }
      return nearest === null
        ? null
        : beginningAt(note, note.onsetTicks + ((nearest - note.onsetTicks) * strength) / 100)
    })
  },
})
