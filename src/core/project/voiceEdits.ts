import type { Note, NoteId } from '../event/note'
import { TICKS_PER_QUARTER, type Ticks } from '../time/units'
import { changeNotes } from './commands'
import { soundingNotes } from './create'
import type { Project, Track } from './schema'

/** The voices that the notes of a track were told to be in, from 1 up. */
export function voicesOf(notes: readonly Note[]): number[] {
  const voices = new Set<number>()
  for (const { voice } of notes) if (voice !== undefined) voices.add(voice)
  return [...voices].sort((a, b) => a - b)
}

/** Puts notes into a voice by hand: they stay there when the others are told anew. Null: into none. */
export function putInVoice(
  project: Project,
  trackId: string,
  noteIds: ReadonlySet<NoteId>,
  voice: number | null,
): Project {
  return changeNotes(project, trackId, (notes) =>
    notes.map((note) => {
      if (!noteIds.has(note.id)) return note
      if (voice !== null) return { ...note, voice, isVoiceByHand: true }
      const { voice: _voice, isVoiceByHand: _byHand, ...plain } = note
      return plain
    }),
  )
}

/** A line that is silent for so long has come to an end: a correction is not carried beyond. */
const longestBreakTicks: Ticks = TICKS_PER_QUARTER

/** What a correction does to the notes that follow it. */
export interface CarriedOn {
  /** The voice each of them is put into. */
  readonly voiceOf: ReadonlyMap<NoteId, number>
  /** Where the last of them begins; null where there is none. */
  readonly untilTicks: Ticks | null
}

/**
 * Carries a correction on: where notes were moved from one voice to another, what follows in these two voices changes places,
 * up to the next note of either that was set by hand, or to where the line that was moved is silent for a quarter or longer.
 *
 * @param before the voices that the corrected notes were in
 */
export function carryOn(track: Track, before: ReadonlyMap<NoteId, number>): CarriedOn {
  const notes = soundingNotes(track)
  const voiceOf = new Map<NoteId, number>()
  let untilTicks: Ticks | null = null
  const pairs = new Map<string, { from: number; to: number; lastTicks: Ticks; endTicks: Ticks }>()
  for (const note of notes) {
    const from = before.get(note.id)
    if (from === undefined || note.voice === undefined || note.voice === from) continue
    const { onsetTicks, durationTicks } = note
    pairs.set(`${from} ${note.voice}`, {
      from,
      to: note.voice,
      lastTicks: onsetTicks,
      endTicks: onsetTicks + durationTicks,
    })
  }
  for (const { from, to, lastTicks, endTicks } of pairs.values()) {
    let movedEndTicks = endTicks
    for (const note of notes) {
      if (before.has(note.id) || note.onsetTicks < lastTicks) continue
      if (note.voice !== from && note.voice !== to) continue
      if (note.isVoiceByHand) break
      if (note.voice === from) {
        if (note.onsetTicks - movedEndTicks >= longestBreakTicks) break
        movedEndTicks = Math.max(movedEndTicks, note.onsetTicks + note.durationTicks)
      } else if (note.onsetTicks - movedEndTicks >= longestBreakTicks) continue
      voiceOf.set(note.id, note.voice === from ? to : from)
      untilTicks = Math.max(untilTicks ?? 0, note.onsetTicks)
    }
  }
  return { voiceOf, untilTicks }
}

export function applyCarriedOn(project: Project, trackId: string, { voiceOf }: CarriedOn): Project {
  return changeNotes(project, trackId, (notes) =>
    notes.map((note) => {
      const voice = voiceOf.get(note.id)
      return voice === undefined ? note : { ...note, voice }
    }),
  )
}
