import { type Note, type NoteId, noteEndTicks } from '../event/note'
import { TICKS_PER_QUARTER, type Ticks } from '../time/units'

/** A syllable under a note, with its place in the word it belongs to, as in MusicXML. */
export interface Lyric {
  readonly text: string
  readonly syllabic: 'single' | 'begin' | 'middle' | 'end'
  /** The last of a word, sung on over the notes that follow: a line shows it. */
  readonly isHeld: boolean
}

/** Letters of a syllable that are drawn on a page: one that is longer would press the notes of its line together. */
export const mostDrawnLetters = 24

/** A syllable as it comes in a file: with the spaces, hyphens and line ends that tell words apart. */
export interface SungText {
  readonly tick: Ticks
  readonly text: string
}

/** Syllables by the note they are sung on, and how many are at no note. */
export interface PlacedLyrics {
  readonly lyrics: ReadonlyMap<NoteId, Lyric>
  readonly unplacedSyllables: number
}

export const noLyrics: PlacedLyrics = { lyrics: new Map(), unplacedSyllables: 0 }

/** A syllable further than this from every note belongs to none. */
const farTicks = TICKS_PER_QUARTER / 2

/**
 * Puts syllables under the notes that begin where they do; two on one note are sung on it together. What lies at no note is counted.
 *
 * @param notes in order of onset
 */
export function placeLyrics(notes: readonly Note[], sung: readonly SungText[]): PlacedLyrics {
  const lyrics = new Map<NoteId, Lyric>()
  let unplacedSyllables = 0
  let place = 0
  for (const { tick, lyric } of syllablesOf(sung)) {
    while (place + 1 < notes.length && notes[place + 1]!.onsetTicks <= tick) place++
    const later = notes[place + 1]
    const before = notes[place]
    const note = before && later && distance(later, tick) < distance(before, tick) ? later : before
    if (!note || distance(note, tick) > farTicks) {
      unplacedSyllables++
      continue
    }
    const there = lyrics.get(note.id)
    lyrics.set(note.id, there ? joined(there, lyric) : lyric)
  }
  return { lyrics: withHeld(lyrics, notes), unplacedSyllables }
}

/** A line is sung on as long as it does not rest for an eighth. */
const longestBreath = TICKS_PER_QUARTER / 2

/** Tells ends of words that are sung on from those that are sung on one note. */
function withHeld(lyrics: ReadonlyMap<NoteId, Lyric>, notes: readonly Note[]): ReadonlyMap<NoteId, Lyric> {
  if (lyrics.size === 0) return lyrics
  const told = new Map(lyrics)
  for (const [index, note] of notes.entries()) {
    const lyric = lyrics.get(note.id)
    if (lyric?.syllabic !== 'single' && lyric?.syllabic !== 'end') continue
    const next = notes
      .slice(index + 1, index + 9)
      .find(({ onsetTicks }) => onsetTicks - note.onsetTicks > togetherTicks)
    if (next && !lyrics.has(next.id) && next.onsetTicks - noteEndTicks(note) < longestBreath)
      told.set(note.id, { ...lyric, isHeld: true })
  }
  return told
}

/** What begins nearer together than this is one chord. */
const togetherTicks: Ticks = TICKS_PER_QUARTER / 12

const distance = (note: Note, tick: Ticks): Ticks => Math.abs(note.onsetTicks - tick)

function joined(a: Lyric, b: Lyric): Lyric {
  const isOneWord = b.syllabic === 'middle' || b.syllabic === 'end'
  const begins = a.syllabic === 'begin' || a.syllabic === 'single'
  const ends = b.syllabic === 'end' || b.syllabic === 'single'
  return {
    text: isOneWord ? `${a.text}${b.text}` : `${a.text} ${b.text}`,
    syllabic: begins ? (ends ? 'single' : 'begin') : ends ? 'end' : 'middle',
    isHeld: false,
  }
}

/**
 * Syllables with their place in words. Where any syllable has a space at its edge, spaces tell words apart; otherwise hyphens do.
 * A slash or backslash before a syllable, or a line end, begins a new line and so a new word.
 *
 * Sources: MIDI Recommended Practice 017, Lyric and Display Meta Events; the slashes are usual in files with words to sing along.
 */
function syllablesOf(sung: readonly SungText[]): { tick: Ticks; lyric: Lyric }[] {
  const marked = sung
    .map(({ tick, text }) => ({
      tick,
      beginsWord: /^[\s/\\]/.test(text),
      endsWord: /[\s]$/.test(text),
      isHyphened: /-\s*$/.test(text.trim()),
      text: text
        .replace(/^[\s/\\]+/, '')
        .trim()
        .replace(/-+$/, '')
        .trim(),
    }))
    .filter(({ text }) => text !== '' && text !== '_')
  const haveSpaces = marked.some(({ beginsWord, endsWord }) => beginsWord || endsWord)
  const goesOn = (index: number): boolean => {
    const [here, next] = [marked[index], marked[index + 1]]
    if (!here || !next) return false
    if (here.isHyphened) return true
    return haveSpaces && !here.endsWord && !next.beginsWord
  }
  return marked.map(({ tick, text }, index) => {
    const [from, to] = [index > 0 && goesOn(index - 1), goesOn(index)]
    const syllabic = from ? (to ? 'middle' : 'end') : to ? 'begin' : 'single'
    return { tick, lyric: { text, syllabic, isHeld: false } }
  })
}
