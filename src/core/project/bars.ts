import { byOnset, type Note, type NoteId, noteEndTicks } from '../event/note'
import { type Amendment, isOfNote, type NoteAmendment } from '../notation/amendments/amendment'
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
  if (projectEndTicks(project) + byTicks > lastTick) return refused(project, tooLong)
  const place = (tick: Ticks) => (tick >= at.startTicks ? tick + byTicks : tick)
  return onNewTime(project, {
    placesOf: (tick) => [place(tick)],
    lengthOf: ({ durationTicks }) => durationTicks,
    tempos: withoutRepeats(mapPlaces(project.tempos, 'tick', place)),
    meters: withoutRepeats(mapPlaces(project.meters, 'tick', place)),
    keys: withoutRepeats(mapPlaces(project.keys, 'tick', place)),
  })
}

const tooLong = 'The piece would be longer than can be kept. Nothing was changed.'

/** Bars that are put in have the length of the bar they come before; behind a change of meter too. */
function lengthBefore(at: Measure, before: Measure, beforeBar: number): Ticks {
  const isChange = at.numerator !== before.numerator || at.denominator !== before.denominator
  return isChange && beforeBar > 1 ? before.lengthTicks : at.lengthTicks
}

/**
 * Takes bars out of all tracks: what begins in them is gone, what comes after closes up, and a note that sounds into them is
 * shorter by what lay in them.
 */
export function removeBars(project: Project, bars: Bars): BarsResult {
  if (bars.first < 1 || bars.last < bars.first) return refused(project, 'The last bar lies before the first.')
  const { startTicks, endTicks } = ticksOf(project, bars)
  const byTicks = endTicks - startTicks
  const isGone = (tick: Ticks) => tick >= startTicks && tick < endTicks
  const place = (tick: Ticks) => (tick < startTicks ? tick : isGone(tick) ? startTicks : tick - byTicks)
  return onNewTime(project, {
    placesOf: (tick) => (isGone(tick) ? [] : [place(tick)]),
    lengthOf: (note) => place(noteEndTicks(note)) - place(note.onsetTicks),
    // What was in force in bars that are gone is in force for what comes after them.
    tempos: withoutRepeats(mapPlaces(project.tempos, 'tick', place)),
    meters: withoutRepeats(mapPlaces(project.meters, 'tick', place)),
    keys: withoutRepeats(mapPlaces(project.keys, 'tick', place)),
  })
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
  const atTicks = contextOf(project).meterMap.measure(beforeBar - 1).startTicks
  if (Math.max(projectEndTicks(project), atTicks) + byTicks > lastTick) return refused(project, tooLong)
  const isCarried = (tick: Ticks) => tick >= startTicks && tick < endTicks
  /** Where a bar that stays lies afterwards: first room is made, then, of bars that move, their old place closes. */
  const afterRoom = (tick: Ticks) => (tick >= atTicks ? tick + byTicks : tick)
  const oldStart = afterRoom(startTicks)
  const place = (tick: Ticks): Ticks => {
    const roomy = afterRoom(tick)
    return !isMove || roomy < oldStart ? roomy : roomy - byTicks
  }
  const newStart = isMove && startTicks < atTicks ? atTicks - byTicks : atTicks
  const carriedTo = (tick: Ticks) => newStart + tick - startTicks
  const way = { startTicks, endTicks, newStart, isMove, place }
  return onNewTime(project, {
    placesOf: (tick) =>
      isCarried(tick) ? (isMove ? [carriedTo(tick)] : [place(tick), carriedTo(tick)]) : [place(tick)],
    // A note that sounds on beyond the carried bars ends with them where they are now.
    lengthOf: (note, onsetTicks) =>
      isCarried(note.onsetTicks) && onsetTicks === carriedTo(note.onsetTicks)
        ? Math.min(note.durationTicks, endTicks - note.onsetTicks)
        : note.durationTicks,
    tempos: carryChanges(project.tempos, way),
    meters: carryChanges(project.meters, way),
    keys: project.keys.length === 0 ? [] : carryChanges(project.keys, way),
  })
}

/** Where the bars of a piece lie afterwards. */
interface NewTime {
  /** Where what lay at a place lies now: nowhere, in one place, or also where it was copied to. */
  placesOf(tick: Ticks): readonly Ticks[]
  /** How long a note is at one of its places. */
  lengthOf(note: Note, onsetTicks: Ticks): Ticks
  readonly tempos: Project['tempos']
  readonly meters: Project['meters']
  readonly keys: Project['keys']
}

/** A piece on another time: everything that has a place on it is put where it lies now. */
function onNewTime(project: Project, { placesOf, lengthOf, tempos, meters, keys }: NewTime): BarsResult {
  let serial = project.nextSerial
  let [moved, removed, shortened] = [0, 0, 0]
  /** A note that lies in several clips is one note, and its copy too. */
  const copies = new Map<NoteId, NoteId>()
  const copyOf = (id: NoteId): NoteId => {
    const copy = copies.get(id) ?? serial++
    copies.set(id, copy)
    return copy
  }
  const placed = (note: Note, counts: boolean): Note[] => {
    const places = placesOf(note.onsetTicks)
    if (counts && places.length === 0) removed++
    return places.map((onsetTicks, copy) => {
      const durationTicks = lengthOf(note, onsetTicks)
      if (counts && (copy > 0 || onsetTicks !== note.onsetTicks)) moved++
      if (counts && durationTicks < note.durationTicks) shortened++
      const isSame = copy === 0 && onsetTicks === note.onsetTicks && durationTicks === note.durationTicks
      return isSame
        ? note
        : { ...note, id: copy === 0 ? note.id : copyOf(note.id), onsetTicks, durationTicks }
    })
  }
  const spread = <Element extends { readonly tick: Ticks }>(elements: readonly Element[]): Element[] =>
    elements.flatMap((element) => placesOf(element.tick).map((tick) => ({ ...element, tick }))).sort(byTick)
  const clipOnNewTime = (clip: Clip): Clip => ({
    ...clip,
    notes: clip.notes.flatMap((note) => placed(note, clip.isSounding)).sort(byOnset),
    controllers: spread(clip.controllers),
    combinedFrom:
      clip.combinedFrom === null
        ? null
        : clip.combinedFrom.flatMap((pick) =>
            placesOf(pick.barStartTicks).map((barStartTicks) => ({ ...pick, barStartTicks })),
          ),
  })
  const tracks = project.tracks.map(
    (track): Track => ({
      ...track,
      clips: track.clips.map(clipOnNewTime),
      effectChanges: spread(track.effectChanges),
    }),
  )
  return {
    project: {
      ...project,
      nextSerial: serial,
      tracks,
      tempos,
      meters,
      keys,
      words: spread(project.words),
      amendments: amendmentsOnNewTime(project, placesOf, copies),
      // A name is of one place: bars that are copied have none of their own.
      sections: project.sections
        .flatMap((section) =>
          placesOf(section.tick)
            .slice(0, 1)
            .map((tick) => ({ ...section, tick })),
        )
        .sort(byTick),
      recording: withStretchOn(project.recording, placesOf),
    },
    moved,
    removed,
    shortened,
    problem: null,
  }
}

/**
 * Changes of the page by hand go with their bars and notes, and are copied with them. What goes over several bars holds for those of them
 * that are left.
 *
 * @param copies of notes that lie in two places now, the new by the old
 */
function amendmentsOnNewTime(
  project: Project,
  placesOf: NewTime['placesOf'],
  copies: ReadonlyMap<NoteId, NoteId>,
): Amendment[] {
  const { meterMap } = contextOf(project)
  return project.amendments.flatMap((amendment): Amendment[] => {
    if (isOfNote(amendment)) {
      const copy = copies.get(amendment.noteId)
      return [
        movedInTime(amendment, placesOf, 0),
        ...(copy === undefined ? [] : [movedInTime(copied(amendment, copy, copies), placesOf, 1)]),
      ]
    }
    if (!('lastBarTick' in amendment)) return placesOf(amendment.tick).map((tick) => ({ ...amendment, tick }))
    const bars: (readonly Ticks[])[] = []
    for (let tick = amendment.tick; tick <= amendment.lastBarTick; ) {
      const { startTicks, lengthTicks } = meterMap.measureAt(tick)
      bars.push(placesOf(startTicks))
      tick = startTicks + lengthTicks
    }
    const left = bars.filter((places) => places.length > 0)
    const [first, last] = [left[0], left.at(-1)]
    if (!first || !last) return []
    return first.flatMap((tick, copy) => {
      const lastBarTick = last[copy]
      return lastBarTick === undefined ? [] : [{ ...amendment, tick, lastBarTick }]
    })
  })
}

/** A change of the same kind at the copy of its note; where it leads to another note, at the copy of that. */
function copied(
  amendment: NoteAmendment,
  noteId: NoteId,
  copies: ReadonlyMap<NoteId, NoteId>,
): NoteAmendment {
  switch (amendment.aspect) {
    case 'slur':
      return {
        ...amendment,
        noteId,
        toNoteId: amendment.toNoteId === null ? null : (copies.get(amendment.toNoteId) ?? amendment.toNoteId),
      }
    case 'hairpin':
      return {
        ...amendment,
        noteId,
        to: amendment.to && {
          ...amendment.to,
          noteId: copies.get(amendment.to.noteId) ?? amendment.to.noteId,
        },
      }
    default:
      return { ...amendment, noteId }
  }
}

/** A written place moves as far as the note it is of. */
function movedInTime(amendment: NoteAmendment, placesOf: NewTime['placesOf'], copy: number): NoteAmendment {
  if (amendment.aspect !== 'time') return amendment
  const heardTicks = placesOf(amendment.heardTicks)[copy]
  if (heardTicks === undefined) return amendment
  const onsetTicks = Math.max(0, amendment.onsetTicks + heardTicks - amendment.heardTicks)
  return { ...amendment, heardTicks, onsetTicks }
}

/** The marked stretch holds what it held, as long as any of it is there and in one piece. */
function withStretchOn(recording: Project['recording'], placesOf: NewTime['placesOf']): Project['recording'] {
  const { stretch } = recording
  if (!stretch) return recording
  const [startTicks] = placesOf(stretch.startTicks)
  const [last] = placesOf(stretch.endTicks - 1)
  return startTicks === undefined || last === undefined || last < startTicks
    ? { ...recording, stretch: null, isLooping: false }
    : { ...recording, stretch: { startTicks, endTicks: last + 1 } }
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
