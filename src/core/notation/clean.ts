import type { Note } from '../event/note'
import type { FilterReason } from '../ledger/ledger'
import type { TempoMap } from '../time/tempoMap'

export interface CleanSettings {
  readonly minVelocity: number
  readonly minLengthMs: number
  readonly chordWindowMs: number
}

export interface CleanNotes {
  readonly notes: readonly Note[]
  /** Doubles, by the id of the note that stands for them. */
  readonly mergedInto: ReadonlyMap<number, readonly number[]>
  readonly merged: number
  readonly filtered: readonly { readonly reason: FilterReason; readonly count: number }[]
}

/**
 * Takes out what is not meant: hits quieter than the floor, glitches shorter than the floor (never of what is struck, where
 * length means nothing), and doubles (the same key struck again within the chord window).
 */
export function cleanNotes(
  notes: readonly Note[],
  tempoMap: TempoMap,
  settings: CleanSettings,
  isStruck: boolean,
): CleanNotes {
  let quiet = 0
  let short = 0
  const audible: Note[] = []
  for (const note of notes) {
    if (note.velocity < settings.minVelocity) quiet++
    else if (
      !isStruck &&
      settings.minLengthMs > 0 &&
      tempoMap.msAt(note.onsetTicks + note.durationTicks) - tempoMap.msAt(note.onsetTicks) <
        settings.minLengthMs
    )
      short++
    else audible.push(note)
  }
  const kept: Note[] = []
  const mergedInto = new Map<number, number[]>()
  /** By voice too: two lines that meet on one key are no double. */
  const lastOfKey = new Map<number, { note: Note; place: number; onsetMs: number }>()
  let merged = 0
  for (const note of audible) {
    const onsetMs = tempoMap.msAt(note.onsetTicks)
    const address = (note.voice ?? 0) * 128 + note.key
    const last = lastOfKey.get(address)
    if (last && onsetMs - last.onsetMs <= settings.chordWindowMs) {
      merged++
      const ids = mergedInto.get(last.note.id)
      if (ids) ids.push(note.id)
      else mergedInto.set(last.note.id, [note.id])
      const stands = kept[last.place]!
      const endTicks = Math.max(
        stands.onsetTicks + stands.durationTicks,
        note.onsetTicks + note.durationTicks,
      )
      kept[last.place] = { ...stands, durationTicks: endTicks - stands.onsetTicks }
    } else {
      lastOfKey.set(address, { note, place: kept.length, onsetMs })
      kept.push(note)
    }
  }
  const filtered: { reason: FilterReason; count: number }[] = []
  if (quiet > 0) filtered.push({ reason: 'too quiet', count: quiet })
  if (short > 0) filtered.push({ reason: 'too short', count: short })
  return { notes: kept, mergedInto, merged, filtered }
}
