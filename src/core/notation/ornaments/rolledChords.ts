import type { Note, NoteId } from '../../event/note'
import { noteEndTicks } from '../../event/note'
import type { TempoMap } from '../../time/tempoMap'
import { type Milliseconds, TICKS_PER_QUARTER, type Ticks } from '../../time/units'
import type { Findings } from './ornamented'

/** A rolled chord has so many notes at least. */
const fewestNotes = 3
/** Each note comes within this of the one before. */
const longestStepMs: Milliseconds = 110
/** Nearer together they are struck at once. */
const shortestStepMs: Milliseconds = 12
/** All of it goes on sounding for so long after its last note: broken chords that are played in time do not. */
const heldMs: Milliseconds = 180

/**
 * Finds chords that were rolled or strummed from the lowest note up: they are written as chords, with a sign. A chord is put where its
 * first note was played, or its last where that is nearer to an eighth. (Common practice, no source.)
 *
 * @param notes in order of onset
 */
export function findRolledChords(notes: readonly Note[], tempoMap: TempoMap): Findings {
  const instead = new Map<NoteId, Note>()
  for (let first = 0; first < notes.length; first++) {
    const roll = rollFrom(notes, first, tempoMap)
    if (roll.length < fewestNotes) continue
    const [from, to] = [notes[first]!.onsetTicks, notes[first + roll.length - 1]!.onsetTicks]
    const onsetTicks = offGrid(to) < offGrid(from) ? to : from
    for (const note of roll)
      instead.set(note.id, {
        ...note,
        onsetTicks,
        durationTicks: Math.max(1, noteEndTicks(note) - onsetTicks),
      })
    first += roll.length - 1
  }
  return {
    instead,
    gone: new Set(),
    signs: new Map([...instead.keys()].map((id) => [id, ['rolled'] as const])),
  }
}

/** Notes that follow each other upwards from one on, and all sound together at the end; none where they do not. */
function rollFrom(notes: readonly Note[], first: number, tempoMap: TempoMap): readonly Note[] {
  const onsetMs = (note: Note) => tempoMap.msAt(note.onsetTicks)
  let last = first
  while (last + 1 < notes.length) {
    const [note, next] = [notes[last]!, notes[last + 1]!]
    const stepMs = onsetMs(next) - onsetMs(note)
    if (next.key <= note.key || stepMs > longestStepMs || stepMs < shortestStepMs) break
    last++
  }
  const roll = notes.slice(first, last + 1)
  if (roll.length < fewestNotes) return []
  const soundUntilMs = onsetMs(roll.at(-1)!) + heldMs
  return roll.every((note) => tempoMap.msAt(noteEndTicks(note)) >= soundUntilMs) ? roll : []
}

/** How far a place lies from the nearest eighth. */
function offGrid(tick: Ticks): Ticks {
  const eighth = TICKS_PER_QUARTER / 2
  return Math.abs(tick - Math.round(tick / eighth) * eighth)
}
