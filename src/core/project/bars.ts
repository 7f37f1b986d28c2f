import type { ControllerEvent, Note } from '../event/note'
import { byOnset, type NoteId, noteEndTicks } from '../event/note'
import type { Measure } from '../time/meterMap'
import { lastTick, type Ticks } from '../time/units'
import { contextOf } from './context'
import { projectEndTicks } from './create'
import type { Clip, Project, Track } from './schema'

/** Bars by their numbers, counted from 1, both included. */
export interface Bars {
  readonly first: number
  readonly last: number
}

/** What became of the notes when bars were moved about. */
export interface BarsResult {
  readonly project: Project
  /** Notes that begin somewhere else now, that are gone, and that were cut short. */
  readonly moved: number
  readonly removed: number
  readonly shortened: number
  /** Why nothing was done; null when it was. */
  readonly problem: string | null
}

const refused = (project: Project, problem: string): BarsResult => ({
  project,
  moved: 0,
  removed: 0,
  shortened: 0,
  problem,
})

function ticksOf(project: Project, { first, last }: Bars): { startTicks: Ticks; endTicks: Ticks } {
  const { meterMap } = contextOf(project)
  const end = meterMap.measure(last - 1)
  return { startTicks: meterMap.measure(first - 1).startTicks, endTicks: end.startTicks + end.lengthTicks }
}

/** The number of the last bar that anything sounds in; 1 for an empty piece. */
export function lastBar(project: Project): number {
  const end = projectEndTicks(project)
  return end === 0 ? 1 : contextOf(project).meterMap.measureAt(end - 1).index + 1
}

/**
 * Inserts empty bars before a bar, through all tracks: everything from there on moves by their length, in the meter that is there.
 * A note that sounds over the place keeps its length.
 */
export function insertBars(project: Project, beforeBar: number, count: number): BarsResult {
  if (beforeBar < 1 || count < 1)
    return refused(project, 'Bars are counted from 1, and one at least is put in.')
  const { meterMap } = contextOf(project)
  const at = meterMap.measure(beforeBar - 1)
  const byTicks = lengthBefore(at, meterMap.measure(Math.max(0, beforeBar - 2)), beforeBar) * count
  if (projectEndTicks(project) + byTicks > lastTick)
    return refused(project, 'The piece would be longer than can be kept. Nothing was changed.')
  let moved = 0
  const place = (tick: Ticks) => (tick >= at.startTicks ? tick + byTicks : tick)
  const next = mapTime(project, place, (notes, counts) =>
    notes.map((note) => {
      if (note.onsetTicks < at.startTicks) return note
      moved += counts
      return { ...note, onsetTicks: note.onsetTicks + byTicks }
    }),
  )
  return { project: next, moved, removed: 0, shortened: 0, problem: null }
}

/** Bars that are put in have the length of the bar they come before; behind a change of meter too. */
function lengthBefore(at: Measure, before: Measure, beforeBar: number): Ticks {
  const isChange = at.numerator !== before.numerator || at.denominator !== before.denominator
  return isChange && beforeBar > 1 ? before.lengthTicks : at.lengthTicks
}

/**
 * Takes bars out of all tracks: what begins in them is gone, what comes after closes up, and a note that sounds into them ends where
 * they began.
 */
export function removeBars(project: Project, bars: Bars): BarsResult {
  if (bars.first < 1 || bars.last < bars.first) return refused(project, 'The last bar lies before the first.')
  const { startTicks, endTicks } = ticksOf(project, bars)
  const byTicks = endTicks - startTicks
  let [moved, removed, shortened] = [0, 0, 0]
  const place = (tick: Ticks) => (tick < startTicks ? tick : tick < endTicks ? startTicks : tick - byTicks)
  const next = mapTime(
    project,
    place,
    (notes, counts) =>
      notes.flatMap((note): Note[] => {
        if (note.onsetTicks >= endTicks) {
          moved += counts
          return [{ ...note, onsetTicks: note.onsetTicks - byTicks }]
        }
        if (note.onsetTicks >= startTicks) {
          removed += counts
          return []
        }
        if (noteEndTicks(note) <= startTicks) return [note]
        shortened += counts
        const reachesTicks = Math.max(0, noteEndTicks(note) - endTicks)
        return [{ ...note, durationTicks: startTicks - note.onsetTicks + reachesTicks }]
      }),
    (tick) => tick >= startTicks && tick < endTicks,
  )
  return { project: next, moved, removed, shortened, problem: null }
}

/** Copies bars of all tracks to before another bar: they are put in there, with their notes, curves, tempi and meters. */
export function copyBars(project: Project, bars: Bars, beforeBar: number): BarsResult {
  return carryBars(project, bars, beforeBar, false)
}

/** Moves bars of all tracks to before another bar. */
export function moveBars(project: Project, bars: Bars, beforeBar: number): BarsResult {
  if (beforeBar >= bars.first && beforeBar <= bars.last + 1)
    return refused(project, 'They are there already.')
  return carryBars(project, bars, beforeBar, true)
}

function carryBars(project: Project, bars: Bars, beforeBar: number, isMove: boolean): BarsResult {
  if (bars.first < 1 || bars.last < bars.first) return refused(project, 'The last bar lies before the first.')
  if (beforeBar < 1) return refused(project, 'Bars are counted from 1.')
  const { startTicks, endTicks } = ticksOf(project, bars)
  const byTicks = endTicks - startTicks
  const { meterMap } = contextOf(project)
  const atTicks = meterMap.measure(beforeBar - 1).startTicks
  if (Math.max(projectEndTicks(project), atTicks) + byTicks > lastTick)
    return refused(project, 'The piece would be longer than can be kept. Nothing was changed.')
  let serial = project.nextSerial
  /** A note that lies in several clips is one note, and its copy too. */
  const copies = new Map<NoteId, NoteId>()
  const copyOf = (id: NoteId): NoteId => {
    const copy = copies.get(id) ?? serial++
    copies.set(id, copy)
    return copy
  }
  let [moved, shortened] = [0, 0]
  /** Where a bar that stays lies afterwards: first room is made, then, of bars that move, their old place closes. */
  const afterRoom = (tick: Ticks) => (tick >= atTicks ? tick + byTicks : tick)
  const oldStart = afterRoom(startTicks)
  const isOld = (tick: Ticks) => tick >= startTicks && tick < endTicks
  const place = (tick: Ticks): Ticks => {
    const roomy = afterRoom(tick)
    if (!isMove || roomy < oldStart) return roomy
    return roomy < oldStart + byTicks ? oldStart : roomy - byTicks
  }
  const newStart = isMove && startTicks < atTicks ? atTicks - byTicks : atTicks
  const carriedTo = (tick: Ticks) => newStart + tick - startTicks
  const changeNotes = (notes: readonly Note[], counts: 0 | 1): Note[] =>
    notes
      .flatMap((note): Note[] => {
        const isInside = isOld(note.onsetTicks)
        const out: Note[] = []
        if (!(isInside && isMove)) {
          const onsetTicks = place(note.onsetTicks)
          if (onsetTicks !== note.onsetTicks) moved += counts
          out.push(onsetTicks === note.onsetTicks ? note : { ...note, onsetTicks })
        }
        if (isInside) {
          // A note that sounds on beyond the bars ends with them where they are now.
          const durationTicks = Math.min(note.durationTicks, endTicks - note.onsetTicks)
          if (durationTicks < note.durationTicks) shortened += counts
          moved += counts
          const id = isMove ? note.id : copyOf(note.id)
          out.push({ ...note, id, onsetTicks: carriedTo(note.onsetTicks), durationTicks })
        }
        return out
      })
      .sort(byOnset)
  const tracks = project.tracks.map((track) => ({
    ...track,
    clips: track.clips.map((clip): Clip => {
      const inside = clip.controllers.filter(({ tick }) => isOld(tick))
      const outside = isMove ? clip.controllers.filter(({ tick }) => !isOld(tick)) : clip.controllers
      return {
        ...clip,
        notes: changeNotes(clip.notes, clip.isSounding ? 1 : 0),
        controllers: [
          ...outside.map((event) => ({ ...event, tick: place(event.tick) })),
          ...inside.map((event) => ({ ...event, tick: carriedTo(event.tick) })),
        ].sort(byTick),
        combinedFrom: clip.combinedFrom && mapPlaces(clip.combinedFrom, 'barStartTicks', place),
      }
    }),
    effectChanges: mapPlaces(track.effectChanges, 'tick', place),
  }))
  const tempos = carryChanges(project.tempos, { startTicks, endTicks, newStart, isMove, place })
  const meters = carryChanges(project.meters, { startTicks, endTicks, newStart, isMove, place })
  const sections = [
    ...project.sections
      .filter(({ tick }) => !isMove || !isOld(tick))
      .map((each) => ({ ...each, tick: place(each.tick) })),
    ...(isMove
      ? project.sections
          .filter(({ tick }) => isOld(tick))
          .map((each) => ({ ...each, tick: carriedTo(each.tick) }))
      : []),
  ].sort(byTick)
  return {
    project: { ...project, nextSerial: serial, tracks, tempos, meters, sections: oneEach(sections) },
    moved,
    removed: 0,
    shortened,
    problem: null,
  }
}

const byTick = (a: { readonly tick: Ticks }, b: { readonly tick: Ticks }) => a.tick - b.tick

/** What is in force in the carried bars is in force where they are now, and what was there goes on after them. */
function carryChanges<Change extends { readonly tick: Ticks }>(
  changes: readonly Change[],
  {
    startTicks,
    endTicks,
    newStart,
    isMove,
    place,
  }: {
    readonly startTicks: Ticks
    readonly endTicks: Ticks
    readonly newStart: Ticks
    readonly isMove: boolean
    place(tick: Ticks): Ticks
  },
): Change[] {
  const inForce = (tick: Ticks) => changes.filter((change) => change.tick <= tick).at(-1) ?? changes[0]!
  const isOld = (tick: Ticks) => tick >= startTicks && tick < endTicks
  const carried = [
    { ...inForce(startTicks), tick: newStart },
    ...changes
      .filter(({ tick }) => isOld(tick) && tick > startTicks)
      .map((change) => ({ ...change, tick: newStart + change.tick - startTicks })),
  ]
  const lengthTicks = endTicks - startTicks
  const outside = changes
    .filter(({ tick }) => !isMove || !isOld(tick))
    .map((change) => ({ ...change, tick: place(change.tick) }))
  // Behind them, what was in force at that place before; where they were taken from, what was in force after them.
  const resumed: Change[] = []
  const resume = (atNow: Ticks, before: Ticks) => {
    if (![...outside, ...carried].some(({ tick }) => tick === atNow))
      resumed.push({ ...inForce(before), tick: atNow })
  }
  const insertedBefore = isMove && newStart >= startTicks ? newStart + lengthTicks : newStart
  resume(newStart + lengthTicks, insertedBefore)
  if (isMove) resume(place(endTicks), endTicks)
  return withoutRepeats([...outside, ...carried, ...resumed].sort(byTick))
}

/** One change at a place, the last that was told, and none that changes nothing. */
function withoutRepeats<Change extends { readonly tick: Ticks }>(changes: readonly Change[]): Change[] {
  const kept: Change[] = []
  for (const change of oneEach(changes)) {
    const { tick: _tick, ...now } = change
    const { tick: _before, ...before } = kept.at(-1) ?? change
    if (kept.length === 0 || JSON.stringify(now) !== JSON.stringify(before)) kept.push(change)
  }
  return kept.map((change, index) => (index === 0 ? { ...change, tick: 0 } : change))
}

function oneEach<Change extends { readonly tick: Ticks }>(changes: readonly Change[]): Change[] {
  return [...new Map(changes.map((change) => [change.tick, change])).values()]
}

function mapPlaces<Name extends string, Element extends { readonly [name in Name]: Ticks }>(
  elements: readonly Element[],
  name: Name,
  place: (tick: Ticks) => Ticks,
): Element[] {
  return elements.map((element) => ({ ...element, [name]: place(element[name]) }))
}

/**
 * A piece on another time: everything that has a place on it is put where `place` says.
 *
 * @param isGone places that are no more: curves and sections there go with them
 */
function mapTime(
  project: Project,
  place: (tick: Ticks) => Ticks,
  notesOf: (notes: readonly Note[], counts: 0 | 1) => readonly Note[],
  isGone: (tick: Ticks) => boolean = () => false,
): Project {
  const curves = (events: readonly ControllerEvent[]): ControllerEvent[] =>
    mapPlaces(
      events.filter(({ tick }) => !isGone(tick)),
      'tick',
      place,
    )
  const tracks = project.tracks.map(
    (track): Track => ({
      ...track,
      clips: track.clips.map((clip) => ({
        ...clip,
        notes: notesOf(clip.notes, clip.isSounding ? 1 : 0),
        controllers: curves(clip.controllers),
        combinedFrom:
          clip.combinedFrom &&
          oneEachBar(
            mapPlaces(
              clip.combinedFrom.filter(({ barStartTicks }) => !isGone(barStartTicks)),
              'barStartTicks',
              place,
            ),
          ),
      })),
      effectChanges: mapPlaces(track.effectChanges, 'tick', place),
    }),
  )
  const { stretch } = project.recording
  const moved = stretch && { startTicks: place(stretch.startTicks), endTicks: place(stretch.endTicks) }
  const isEmpty = moved !== null && moved.endTicks <= moved.startTicks
  return {
    ...project,
    tracks,
    // The first tempo and meter stay at the beginning.
    tempos: withoutRepeats([...mapPlaces(project.tempos, 'tick', place)]),
    meters: withoutRepeats([...mapPlaces(project.meters, 'tick', place)]),
    sections: oneEach(
      mapPlaces(
        project.sections.filter(({ tick }) => !isGone(tick)),
        'tick',
        place,
      ),
    ),
    recording: {
      ...project.recording,
      stretch: isEmpty ? null : moved,
      isLooping: project.recording.isLooping && !isEmpty,
    },
  }
}

function oneEachBar(picks: NonNullable<Clip['combinedFrom']>): NonNullable<Clip['combinedFrom']> {
  return [...new Map(picks.map((pick) => [pick.barStartTicks, pick])).values()]
}
