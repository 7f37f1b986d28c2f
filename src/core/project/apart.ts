import { mostLines, type Note, type NoteId } from '../event/note'
import { nameWith } from '../text/bounded'
import type { Stretch } from '../time/timeSchemas'
import { changeNotes } from './commands'
import { newClip, newTrack, notesAsPlayed, soundingControllers, soundingNotes } from './create'
import { atRest, replacedBy } from './madeFrom'
import type { Project, Track } from './schema'
import { isWithin } from './stretch'
import { carryWords } from './words'

/** What of a track is taken apart: all of it, what begins in a stretch, or chosen notes. */
export type Scope =
  | { readonly kind: 'track' }
  | { readonly kind: 'stretch'; readonly stretch: Stretch }
  | { readonly kind: 'notes'; readonly noteIds: ReadonlySet<NoteId> }

/** The notes of a track that are in the scope, in order of onset. */
export function notesInScope(track: Track, scope: Scope): readonly Note[] {
  const notes = soundingNotes(track)
  switch (scope.kind) {
    case 'track':
      return notes
    case 'stretch':
      return notes.filter((note) => isWithin(scope.stretch, note.onsetTicks))
    case 'notes':
      return notes.filter((note) => scope.noteIds.has(note.id))
  }
}

/** A part of what was taken apart. */
export interface NamedPart {
  readonly name: string
  readonly noteIds: ReadonlySet<NoteId>
}

export interface ApartResult {
  readonly project: Project
  readonly trackIds: readonly string[]
  /** Notes on the new tracks by the notes they come from. */
  readonly carried: ReadonlyMap<NoteId, NoteId>
}

/**
 * Puts each part of a track on a track of its own right below it, with every curve, the effects, the sound and the level of the
 * track; what is in no part goes to one more. The track itself rests: nothing of it is lost, and it comes back with one press.
 */
export function putOnTracks(project: Project, trackId: string, parts: readonly NamedPart[]): ApartResult {
  const source = project.tracks.find((track) => track.id === trackId)
  const carried = new Map<NoteId, NoteId>()
  if (!source) return { project, trackIds: [], carried }
  const notes = notesAsPlayed(source)
  const inParts = new Set(parts.flatMap(({ noteIds }) => [...noteIds]))
  const rest = notes.filter(({ id }) => !inParts.has(id))
  const all = [
    ...parts.map(({ name, noteIds }) => ({ name, notes: notes.filter(({ id }) => noteIds.has(id)) })),
    { name: 'the rest', notes: rest },
  ].filter((part) => part.notes.length > 0)
  if (all.length === 0) return { project, trackIds: [], carried }
  const channels = channelsOf(all.map((part) => part.notes))
  const controllers = soundingControllers(source)
  const created: Track[] = []
  let next: Project = { ...project, tracks: replacedBy(project.tracks, [source.id], 'separation') }
  for (const [index, part] of all.entries()) {
    let serial = next.nextSerial
    const clipId = `clip-${serial++}`
    const own = part.notes.map((note) => {
      carried.set(note.id, serial)
      return carriedNote(note, serial++)
    })
    const { instrument, volume, pan, tuningCents, keyNames, snapping, offsetMs, writtenAs } = source
    // To a port all parts go on the channel that the track went on.
    const sendTo = source.sendTo && { ...source.sendTo, channel: source.sendTo.channel ?? source.channel }
    const { effects, effectChanges, doEffectsRest } = source
    const result = newTrack(
      { ...next, nextSerial: serial },
      {
        name: nameWith(source.name, `, ${part.name}`),
        instrument,
        volume,
        pan,
        tuningCents,
        keyNames,
        writtenAs,
        snapping,
        sendTo,
        offsetMs,
        effects,
        effectChanges,
        doEffectsRest,
        isArmed: false,
        ...(instrument.kind === 'drums' && { channel: source.channel }),
        ...(channels && { channel: channels[index]! }),
        madeFrom: { trackIds: [source.id], by: 'separation' },
        clips: [newClip(clipId, 'Taken apart', own, { controllers })],
      },
    )
    created.push(result.track)
    next = result.project
  }
  return {
    project: carryWords(
      { ...next, tracks: placedBelow(next.tracks, [source.id], created) },
      [source.id],
      created,
    ),
    trackIds: created.map(({ id }) => id),
    carried,
  }
}

/** The channel of each part, where each has one and no two the same: they were told apart by it. */
function channelsOf(parts: readonly (readonly Note[])[]): number[] | null {
  const own = parts.map((notes) => [...new Set(notes.map(({ channel }) => channel))])
  const isTold = own.length > 1 && own.every(({ length }) => length === 1)
  return isTold && new Set(own.flat()).size === own.length ? own.flat() : null
}

/** A note on another track: the same, under a number of its own, with its origin; a line of its own needs no voice. */
export function carriedNote(note: Note, id: NoteId): Note {
  const { voice: _voice, staff: _staff, isVoiceByHand: _byHand, ...plain } = note
  return { ...plain, id, origin: { kind: 'carried', fromNoteId: note.id } }
}

/** New tracks right below the last of their sources, which rest. */
export function placedBelow(
  tracks: readonly Track[],
  sourceIds: readonly string[],
  created: readonly Track[],
): Track[] {
  const lastId = tracks.filter(({ id }) => sourceIds.includes(id)).at(-1)?.id
  return tracks
    .filter((track) => !created.includes(track))
    .flatMap((track) => {
      const placed = sourceIds.includes(track.id) ? atRest(track) : track
      return track.id === lastId ? [placed, ...created] : [placed]
    })
}

/** Where a note of a part belongs on the page. */
export interface Line {
  readonly noteIds: ReadonlySet<NoteId>
  readonly voice?: number
  readonly staff?: 1 | 2
}

/** Tells notes of a track which voice or staff they belong to; what is not told of them stays as it was. */
export function tellLines(project: Project, trackId: string, lines: readonly Line[]): Project {
  const lineOf = new Map<NoteId, Line>()
  for (const line of lines) for (const id of line.noteIds) lineOf.set(id, line)
  return changeNotes(project, trackId, (notes) =>
    notes.map((note) => {
      const line = lineOf.get(note.id)
      if (!line) return note
      const { voice = note.voice, staff = note.staff } = line
      return voice === note.voice && staff === note.staff
        ? note
        : { ...note, ...(voice !== undefined && { voice }), ...(staff !== undefined && { staff }) }
    }),
  )
}

/** Keys that are written on each of two staves with few ledger lines. */
const quietKeys = { upper: [59, 84], lower: [36, 62] } as const
/** Two lines to a staff can be read easily; each further one is worth so many ledger lines. */
const furtherLine = 1000

/**
 * The lines of a part, from the highest down, as voices of one part. On two staves no more than two share one where it can be
 * helped, and each is where it needs fewer ledger lines.
 */
export function asVoices(
  notes: readonly Note[],
  parts: readonly { readonly members: readonly number[]; readonly voice?: number }[],
  isOnTwoStaves: boolean,
): Line[] {
  const written = parts.slice(0, mostLines)
  const onUpper = isOnTwoStaves ? linesOnUpper(notes, written) : null
  return written.map(
    ({ members, voice }, index): Line => ({
      noteIds: new Set(members.map((member) => notes[member]!.id)),
      voice: voice ?? index + 1,
      ...(onUpper !== null && { staff: index < onUpper ? 1 : 2 }),
    }),
  )
}

/** How many of the lines, from the highest, are written on the upper of two staves. */
function linesOnUpper(
  notes: readonly Note[],
  lines: readonly { readonly members: readonly number[] }[],
): number {
  const outside = (members: readonly number[], [low, high]: readonly [number, number]) =>
    members.reduce((sum, member) => {
      const { key } = notes[member]!
      return sum + Math.max(0, low - key) + Math.max(0, key - high)
    }, 0) / Math.max(1, members.length)
  const costs = Array.from({ length: lines.length + 1 }, (_, upper) => {
    const crowd = Math.max(0, upper - 2) + Math.max(0, lines.length - upper - 2)
    return lines.reduce(
      (sum, { members }, index) => sum + outside(members, index < upper ? quietKeys.upper : quietKeys.lower),
      crowd * furtherLine,
    )
  })
  return costs.indexOf(Math.min(...costs))
}

/** Forgets which voices and staves the notes of a track were told to belong to. */
export function forgetLines(project: Project, trackId: string): Project {
  return changeNotes(project, trackId, (notes) =>
    notes.map((note) => {
      if (note.voice === undefined && note.staff === undefined) return note
      const { voice: _voice, staff: _staff, isVoiceByHand: _byHand, ...plain } = note
      return plain
    }),
  )
}
