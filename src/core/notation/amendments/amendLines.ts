import type { WrittenNote } from '../rhythm/rhythm'
import type { StaffVoice, VoiceChord } from '../voices'
import { byNote, type NoteAmendment } from './amendment'

/**
 * Puts notes into the line of their staff that was told. What begins with a chord of that line joins it and ends with it; what
 * sounds there before it ends where it begins.
 *
 * @param lines of one staff
 */
export function amendLines(
  lines: readonly StaffVoice[],
  amendments: readonly NoteAmendment[],
): readonly StaffVoice[] {
  const told = byNote(amendments, 'line')
  if (told.size === 0) return lines
  const moving = new Map<number, WrittenNote[]>()
  const kept = lines.map((line, index) => {
    const chords = line.chords.flatMap((chord): VoiceChord[] => {
      const isLeaving = ({ note }: WrittenNote) => (told.get(note.id)?.line ?? index + 1) !== index + 1
      if (!chord.notes.some(isLeaving)) return [chord]
      for (const each of chord.notes.filter(isLeaving)) {
        const line = told.get(each.note.id)!.line
        // As long as it is in the line it comes from: that may be less than it was read.
        moving.set(line, [...(moving.get(line) ?? []), { ...each, endTicks: chord.endTicks }])
      }
      const notes = chord.notes.filter((each) => !isLeaving(each))
      return notes.length > 0 ? [{ ...chord, notes }] : []
    })
    return { ...line, chords }
  })
  while (kept.length < Math.max(0, ...moving.keys())) kept.push({ number: null, chords: [] })
  return kept.map((line, index) => ({
    ...line,
    chords: (moving.get(index + 1) ?? []).reduce(withNote, line.chords),
  }))
}

function withNote(chords: readonly VoiceChord[], added: WrittenNote): VoiceChord[] {
  const at = chords.find(({ onsetTicks }) => onsetTicks === added.onsetTicks)
  if (at)
    return chords.map((chord) =>
      chord === at
        ? { ...chord, notes: [...chord.notes, added].sort((a, b) => a.note.key - b.note.key) }
        : chord,
    )
  const next = chords.find(({ onsetTicks }) => onsetTicks > added.onsetTicks)
  const endTicks = Math.min(added.endTicks, next?.onsetTicks ?? Number.POSITIVE_INFINITY)
  const own: VoiceChord = { onsetTicks: added.onsetTicks, endTicks, notes: [added] }
  const before = chords
    .filter(({ onsetTicks }) => onsetTicks < added.onsetTicks)
    .map((chord) => ({ ...chord, endTicks: Math.min(chord.endTicks, added.onsetTicks) }))
  return [...before, own, ...chords.filter(({ onsetTicks }) => onsetTicks > added.onsetTicks)]
}
