import type { Note, NoteId } from '../../event/note'
import type { Measure } from '../../time/meterMap'
import { MeterMap } from '../../time/meterMap'
import { TICKS_PER_QUARTER, type Ticks } from '../../time/units'
import type { Stand } from '../amendments/amendMarks'
import type { CleanNotes } from '../clean'
import type { StaffClefs } from '../clefs'
import type { Dynamics } from '../dynamics'
import type { Ornamented } from '../ornaments/ornamented'
import type { PedalSpan } from '../pedal'
import { placeNow } from '../placeNow'
import { type WrittenNote, writeRhythm } from '../rhythm/rhythm'
import type { Articulation } from '../score'
import type { ScoreSource } from '../scoreSource'
import type { LineSlur } from '../slurs'
import { headsOf, type Manuscript, type ManuscriptHead } from './manuscript'

/** The rhythm of a part as it was told. */
interface ToldRhythm {
  readonly written: readonly WrittenNote[]
  readonly ornaments: Ornamented
  readonly clean: CleanNotes
}

/**
 * Reads a part whose notes have a manuscript: each stands where it was told, as long as it is played so, or was moved along the grid.
 * What was changed or added since is read from how it is played, among what is told.
 *
 * @param notes in order of onset
 */
export function readAsTold(manuscript: Manuscript, source: ScoreSource, notes: readonly Note[]): ToldRhythm {
  const byId = new Map(notes.map((note) => [note.id, note]))
  const written: WrittenNote[] = []
  const placed = new Set<NoteId>()
  for (const head of headsOf(manuscript)) {
    const note = byId.get(head.noteId)
    if (!note || note.durationTicks !== head.heardDurationTicks) continue
    const onsetTicks = placeOf(head, note.onsetTicks)
    if (onsetTicks === null) continue
    placed.add(note.id)
    written.push({ note, onsetTicks, endTicks: onsetTicks + head.durationTicks, isShort: false })
  }
  const mergedInto = new Map<NoteId, readonly NoteId[]>()
  let merged = 0
  for (const [main, ...ids] of manuscript.within) {
    if (!placed.has(main!)) continue
    const there = ids.filter((id) => byId.has(id))
    merged += there.length
    for (const id of there) placed.add(id)
    if (there.length > 0) mergedInto.set(main!, there)
  }
  const graces = new Map<NoteId, readonly Note[]>()
  for (const {
    ids: [main, ...ids],
  } of manuscript.graces) {
    if (!placed.has(main!)) continue
    const there = ids.flatMap((id) => byId.get(id) ?? [])
    for (const { id } of there) placed.add(id)
    if (there.length > 0) graces.set(main!, there)
  }
  const rest = notes.filter(({ id }) => !placed.has(id))
  if (rest.length > 0) written.push(...readAmong(rest, notes, source))
  written.sort((a, b) => a.onsetTicks - b.onsetTicks || a.note.key - b.note.key)
  return {
    written,
    ornaments: {
      notes,
      absorbed: mergedInto,
      graces,
      signs: new Map(),
      glissandi: glissandiOf(manuscript, byId),
    },
    clean: { notes, mergedInto, merged, filtered: [] },
  }
}

/** By this a note is moved on the page; one that was moved off this grid is read anew. */
const stepTicks: Ticks = TICKS_PER_QUARTER / 8

const placeOf = (head: ManuscriptHead, nowTicks: Ticks) =>
  (nowTicks - head.heardTicks) % stepTicks === 0 ? placeNow(head, nowTicks, stepTicks) : null

function glissandiOf({ glissandi }: Manuscript, byId: ReadonlyMap<NoteId, Note>) {
  return glissandi.flatMap(([from, to]) => (byId.has(from) && byId.has(to) ? [{ from, to }] : []))
}

/** Notes that nothing is told of, read with what is played in their bars. */
function readAmong(rest: readonly Note[], notes: readonly Note[], source: ScoreSource): WrittenNote[] {
  const meterMap = new MeterMap(source.meters)
  const bars = new Set(rest.map(({ onsetTicks }) => meterMap.barStartTicks(onsetTicks)))
  const around = notes.filter(({ onsetTicks }) => bars.has(meterMap.barStartTicks(onsetTicks)))
  const wanted = new Set(rest.map(({ id }) => id))
  return writeRhythm(around, source, source.settings, (note) => note.staff ?? 1).written.filter(({ note }) =>
    wanted.has(note.id),
  )
}

/** What a manuscript says of a part beside the places of its notes, as it stands now. */
export interface ToldMarks {
  readonly dynamics: Dynamics
  readonly slurs: readonly LineSlur[]
  /** By staff. */
  readonly clefs: readonly StaffClefs[]
  readonly signs: Map<NoteId, readonly Articulation[]>
  readonly pedals: readonly PedalSpan[]
  readonly reached: ReadonlySet<NoteId>
  readonly names: ReadonlyMap<NoteId, number>
  readonly fingerings: readonly (readonly [NoteId, string])[]
  readonly endTicks: Ticks
}

/** Puts everything that was told by a note where this note stands now; without the note it is not on the page. */
export function toldMarks(
  manuscript: Manuscript,
  notes: readonly Note[],
  stands: ReadonlyMap<NoteId, Stand>,
  measures: readonly Measure[],
): ToldMarks {
  const tickOf = ([noteId, offsetTicks]: readonly [NoteId, Ticks]): Ticks | null => {
    const stand = stands.get(noteId)
    return stand ? Math.max(0, stand.onsetTicks + offsetTicks) : null
  }
  const spanOf = (from: readonly [NoteId, Ticks], to: readonly [NoteId, Ticks]) => {
    const [startTicks, endTicks] = [tickOf(from), tickOf(to)]
    return startTicks === null || endTicks === null || endTicks <= startTicks
      ? []
      : [{ startTicks, endTicks }]
  }
  const signs = new Map<NoteId, readonly Articulation[]>()
  for (const [id, sign] of manuscript.signs) signs.set(id, [...(signs.get(id) ?? []), sign])
  const keys = new Map(notes.map(({ id, key }) => [id, key]))
  const names = new Map<NoteId, number>()
  for (const { noteId, key, fifths } of headsOf(manuscript))
    if (keys.get(noteId) === key) names.set(noteId, fifths)
  for (const { ids, fifths } of manuscript.graces)
    for (const [index, name] of fifths.entries()) names.set(ids[index + 1]!, name)
  return {
    dynamics: {
      levels: manuscript.levels
        .flatMap(([anchor, mark]) => {
          const tick = tickOf(anchor)
          return tick === null ? [] : [{ tick, mark }]
        })
        .sort((a, b) => a.tick - b.tick),
      hairpins: manuscript.hairpins
        .flatMap(([from, to, kind]) => spanOf(from, to).map((span) => ({ ...span, kind })))
        .sort((a, b) => a.startTicks - b.startTicks),
      accented: new Set(),
    },
    slurs: manuscript.slurs
      .flatMap(([from, to]): LineSlur[] => {
        const [start, end] = [stands.get(from), stands.get(to)]
        const isOne = start && end && start.staffIndex === end.staffIndex && start.lineIndex === end.lineIndex
        if (!isOne || end.onsetTicks <= start.onsetTicks) return []
        const { staffIndex, lineIndex } = start
        return [{ staffIndex, lineIndex, startTicks: start.onsetTicks, endTicks: end.onsetTicks }]
      })
      .sort(
        (a, b) => a.staffIndex - b.staffIndex || a.lineIndex - b.lineIndex || a.startTicks - b.startTicks,
      ),
    clefs: manuscript.clefs.map(
      (clef, index): StaffClefs => ({
        clef,
        changes: manuscript.clefChanges
          .filter(([, staff]) => staff === index + 1)
          .flatMap(([anchor, , changed]) => {
            const tick = tickOf(anchor)
            const bar = tick === null ? -1 : measures.findLastIndex(({ startTicks }) => startTicks <= tick)
            if (tick === null || bar < 0 || tick === 0) return []
            const offsetTicks = tick - measures[bar]!.startTicks
            return [{ bar, clef: changed, ...(offsetTicks > 0 && { offsetTicks }) }]
          })
          .sort((a, b) => a.bar - b.bar || (a.offsetTicks ?? 0) - (b.offsetTicks ?? 0)),
        octaveLines: manuscript.octaveLines
          .filter(([, , staff]) => staff === index + 1)
          .flatMap(([from, to, , octaves]) => spanOf(from, to).map((span) => ({ ...span, octaves })))
          .sort((a, b) => a.startTicks - b.startTicks),
      }),
    ),
    signs,
    pedals: manuscript.pedals
      .flatMap(([from, to]) => spanOf(from, to))
      .sort((a, b) => a.startTicks - b.startTicks),
    reached: new Set(manuscript.reached.filter((id) => stands.has(id))),
    names,
    fingerings: manuscript.fingerings.filter(([id]) => stands.has(id)),
    endTicks: tickOf(manuscript.end) ?? 0,
  }
}
