import type { Fields, SettingsOf } from '../effects/settings'
import { byOnset, type Note, type NoteId } from '../event/note'
import type { MeterMap } from '../time/meterMap'
import type { TempoMap } from '../time/tempoMap'
import type { Stretch } from '../time/timeSchemas'
import type { Ticks } from '../time/units'

/** What an operation may know besides the notes and its settings. */
export interface EditContext {
  /** The notes it is for; a set of them, or whatever knows which they are. */
  readonly ids: { has(id: NoteId): boolean }
  /** From the first onset to the last end of all that is selected, in all tracks. */
  readonly range: Stretch
  readonly tempoMap: TempoMap
  readonly meterMap: MeterMap
  /** Where the piece stands. */
  readonly positionTicks: Ticks
  /** Onsets of the track whose timing is laid on, in order; empty where none was chosen. */
  readonly timing: readonly Ticks[]
  /** The number of a note that is new. */
  nextId(): NoteId
  /** Of chance: the same seed gives the same result. */
  readonly seed: number
}

/** What an operation did. */
export interface Edited {
  /** All notes of the track, in order of onset. */
  readonly notes: readonly Note[]
  /** How many of the chosen notes are different now, or gone. */
  readonly changed: number
  /** How many had to be left as they were. */
  readonly left: number
}

/** Something that can be done to notes: pure, told once for the bench, the finder, the tests and the help. */
export interface NoteOperation<F extends Fields = Fields> {
  readonly title: string
  readonly group: OperationGroup
  /** What it does, in a line. */
  readonly says: string
  readonly fields: F
  /** Whether the number of notes stays, or can grow or shrink. */
  readonly balance: 'stays' | 'grows' | 'shrinks'
  /** Why notes are left as they were: "at the edge". */
  readonly leftWhy?: string
  /** It lays the timing of another track on. */
  readonly needsTiming?: true
  edit(notes: readonly Note[], settings: SettingsOf<F>, context: EditContext): Edited
}

export const operationGroups = ['time', 'length', 'pitch', 'force', 'clean'] as const
export type OperationGroup = (typeof operationGroups)[number]

export function defineOperation<const F extends Fields>(operation: NoteOperation<F>): NoteOperation {
  return operation as unknown as NoteOperation
}

/** Changes each chosen note by itself; null leaves it as it was, and that is counted. */
export function editEach(
  notes: readonly Note[],
  { ids }: Pick<EditContext, 'ids'>,
  change: (note: Note) => Note | null,
): Edited {
  let [changed, left] = [0, 0]
  const edited = notes.map((note) => {
    if (!ids.has(note.id)) return note
    const next = change(note)
    if (next === null) {
      left++
      return note
    }
    if (next !== note) changed++
    return next
  })
  return { notes: inOrder(edited), changed, left }
}

/**
 * Makes one note of several of the same key, channel and voice that belong together.
 *
 * @param belongs whether a note belongs to the one before it of its key
 * @param asOne the note that stands for both
 */
export function mergeSame(
  notes: readonly Note[],
  { ids }: Pick<EditContext, 'ids'>,
  belongs: (last: Note, note: Note) => boolean,
  asOne: (last: Note, note: Note) => Note,
): Edited {
  const placeOf = new Map<number, number>()
  const kept: Note[] = []
  for (const note of notes) {
    if (!ids.has(note.id)) {
      kept.push(note)
      continue
    }
    const address = ((note.voice ?? 0) * 17 + note.channel) * 128 + note.key
    const place = placeOf.get(address)
    const last = place === undefined ? undefined : kept[place]
    if (last && belongs(last, note)) kept[place!] = asOne(last, note)
    else {
      placeOf.set(address, kept.length)
      kept.push(note)
    }
  }
  return { notes: kept, changed: notes.length - kept.length, left: 0 }
}

/** In order of onset; sorts only where it must. */
export function inOrder(notes: Note[]): Note[] {
  for (let index = 1; index < notes.length; index++)
    if (byOnset(notes[index - 1]!, notes[index]!) > 0) return notes.sort(byOnset)
  return notes
}

/** A note with other values; the note itself where nothing is different. */
export function withNote(note: Note, fields: Partial<Note>): Note {
  // A hundred thousand notes go through here in one edit: no list of names is made for each.
  for (const name in fields)
    if (fields[name as keyof Note] !== note[name as keyof Note]) return Object.assign({ ...note }, fields)
  return note
}
