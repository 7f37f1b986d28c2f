import type { Ticks } from '../time/units'
import type { WrittenNote } from './rhythm/rhythm'

/** Notes of one stem: struck and ended together. */
export interface VoiceChord {
  readonly onsetTicks: Ticks
  readonly endTicks: Ticks
  readonly notes: readonly WrittenNote[]
}

/** More lines than this cannot be told apart on one staff. */
export const mostVoices = 4

/** A line of one staff. */
export interface StaffVoice {
  /** Its number where its notes were told to belong to it; null where it was sorted here. */
  readonly number: number | null
  readonly chords: readonly VoiceChord[]
}

/**
 * The lines of one staff: notes that were told which voice they belong to are in that voice, chords of one stem where they begin
 * together; all others are sorted by `sortIntoVoices`.
 *
 * @param notes in order of onset, then key
 */
export function staffVoices(notes: readonly WrittenNote[], severalVoices: boolean): StaffVoice[] {
  const told = new Map<number, WrittenNote[]>()
  const others: WrittenNote[] = []
  for (const each of notes) {
    const { voice } = each.note
    if (voice === undefined || !severalVoices) others.push(each)
    else if (told.has(voice)) told.get(voice)!.push(each)
    else told.set(voice, [each])
  }
  return [
    ...[...told]
      .sort(([a], [b]) => a - b)
      .map(([number, own]): StaffVoice => ({ number, chords: chordsOf(own, false) })),
    ...sortIntoVoices(others, severalVoices).map((chords): StaffVoice => ({ number: null, chords })),
  ]
}

/**
 * The lines of one staff as a file has them: a note that is held while others of its line change is in several chords, tied.
 *
 * @param notes in order of onset, then key; each told which voice it belongs to
 */
export function toldVoices(notes: readonly WrittenNote[]): StaffVoice[] {
  const told = new Map<number, WrittenNote[]>()
  for (const each of notes) {
    const voice = each.note.voice ?? 1
    if (told.has(voice)) told.get(voice)!.push(each)
    else told.set(voice, [each])
  }
  return [...told]
    .sort(([a], [b]) => a - b)
    .map(([number, own]): StaffVoice => ({ number, chords: heldChords(own) }))
}

function heldChords(notes: readonly WrittenNote[]): VoiceChord[] {
  const chords: VoiceChord[] = []
  /** Notes that sound from a place on, not yet in a chord that ends with them. */
  let sounding: WrittenNote[] = []
  let next = 0
  let from = 0
  while (sounding.length > 0 || next < notes.length) {
    if (sounding.length === 0) from = notes[next]!.onsetTicks
    while (next < notes.length && notes[next]!.onsetTicks <= from) sounding.push(notes[next++]!)
    let to = notes[next]?.onsetTicks ?? Number.POSITIVE_INFINITY
    for (const { endTicks } of sounding) to = Math.min(to, endTicks)
    const start = from
    chords.push({
      onsetTicks: start,
      endTicks: to,
      notes: sounding
        .map((each): WrittenNote => {
          const held = { fromBefore: each.onsetTicks < start, intoNext: each.endTicks > to }
          return held.fromBefore || held.intoNext ? { ...each, held } : each
        })
        .sort((a, b) => a.note.key - b.note.key),
    })
    sounding = sounding.filter(({ endTicks }) => endTicks > to)
    from = to
  }
  return chords
}

/**
 * Sorts the notes of one staff into voices in which nothing overlaps. Notes that begin and end together are one
 * chord. A chord goes to a free voice, the one whose last notes are nearest in pitch, the upper voices first; where no
 * voice is free, the voice that ends soonest is cut short at the new chord.
 *
 * @param notes in order of onset, then key
 * @param severalVoices false: a single line, every chord ends where the next begins
 */
export function sortIntoVoices(notes: readonly WrittenNote[], severalVoices: boolean): VoiceChord[][] {
  const voices: VoiceChord[][] = []
  for (const chord of chordsOf(notes, severalVoices)) {
    const free = voices.filter((voice) => voice.at(-1)!.endTicks <= chord.onsetTicks)
    if (free.length > 0) {
      const nearest = free.reduce((best, voice) =>
        distance(voice, chord) < distance(best, chord) ? voice : best,
      )
      const first = voices[0]!
      // The first voice carries the music whenever it can, so that a lone line is never split over two.
      const home =
        free.includes(first) && voices.every((voice) => voice.at(-1)!.endTicks <= chord.onsetTicks)
          ? first
          : nearest
      home.push(chord)
    } else if (voices.length < (severalVoices ? mostVoices : 1)) voices.push([chord])
    else {
      const soonest = voices.reduce((best, voice) =>
        voice.at(-1)!.endTicks < best.at(-1)!.endTicks ? voice : best,
      )
      const last = soonest.pop()!
      if (last.onsetTicks < chord.onsetTicks) soonest.push({ ...last, endTicks: chord.onsetTicks }, chord)
      else
        soonest.push({
          ...last,
          notes: [...last.notes, ...chord.notes].sort((a, b) => a.note.key - b.note.key),
        })
    }
  }
  return byHeight(voices)
}

function chordsOf(notes: readonly WrittenNote[], severalVoices: boolean): VoiceChord[] {
  const chords: VoiceChord[] = []
  for (let first = 0; first < notes.length; ) {
    const onsetTicks = notes[first]!.onsetTicks
    let last = first
    while (last + 1 < notes.length && notes[last + 1]!.onsetTicks === onsetTicks) last++
    const together = notes.slice(first, last + 1)
    const ends = [...new Set(together.map((note) => note.endTicks))].sort((a, b) => a - b)
    if (!severalVoices) {
      const next = notes[last + 1]?.onsetTicks ?? Number.POSITIVE_INFINITY
      chords.push({ onsetTicks, endTicks: Math.min(ends.at(-1)!, next), notes: together })
    } else
      for (const endTicks of ends)
        chords.push({ onsetTicks, endTicks, notes: together.filter((note) => note.endTicks === endTicks) })
    first = last + 1
  }
  return chords
}

function meanKey(chord: VoiceChord): number {
  return chord.notes.reduce((sum, { note }) => sum + note.key, 0) / chord.notes.length
}

function distance(voice: readonly VoiceChord[], chord: VoiceChord): number {
  return Math.abs(meanKey(voice.at(-1)!) - meanKey(chord))
}

/** The voice that carries the music stays first; the others follow from high to low. */
function byHeight(voices: VoiceChord[][]): VoiceChord[][] {
  const height = (voice: VoiceChord[]) => voice.reduce((sum, chord) => sum + meanKey(chord), 0) / voice.length
  const [first, ...others] = voices
  if (!first || others.length === 0) return voices
  return [first, ...others.sort((a, b) => height(b) - height(a))]
}
