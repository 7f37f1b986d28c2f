import type { ScoreHeadings } from '../notation/headings'
import type { Score } from '../notation/score'
import { TICKS_PER_QUARTER } from '../time/units'
import { compareNotes, type Proof } from './compare'
import { expectedScoreNotes } from './expected'
import { readWithMidiFile } from './proveMidi'

/** An engraver that reads MusicXML on its own and gives back what it understood as a MIDI file. */
export interface IndependentReader {
  /** @returns the bytes of a Standard MIDI File with one track for each staff */
  midiOf(musicXml: string): Uint8Array
}

/**
 * The reader counts 120 ticks to the quarter and ends some notes two ticks early; the smallest value that can be
 * written is ten times as long, so nothing wrong passes.
 */
const toleranceTicks = (TICKS_PER_QUARTER / 120) * 2.5

/** The reader rolls chords where the sign says so; what is compared is where they are written. */
function withoutRolls(musicXml: string): string {
  return musicXml.replaceAll('<notations><arpeggiate/></notations>', '').replaceAll('<arpeggiate/>', '')
}

/**
 * Reads written MusicXML back with an independent reader and compares it with the score, staff by staff, note for
 * note. Percussion is compared by onset alone, since readers give unpitched notes keys of their own.
 */
export function proveMusicXml(
  musicXml: string,
  score: Score,
  headings: ScoreHeadings,
  reader: IndependentReader,
): Proof {
  const expected = expectedScoreNotes(score)
  const found = readWithMidiFile(reader.midiOf(withoutRolls(musicXml))).slice(1)
  return compareNotes(
    expected.map(({ partIndex, staff, notes, isPercussion }, index) => {
      const { name } = headings.parts[partIndex]!
      const read = found[index]?.notes ?? []
      const plain = (list: typeof notes) => (isPercussion ? list.map((note) => ({ ...note, key: 0 })) : list)
      return { name: staff > 1 ? `${name}, lower staff` : name, expected: plain(notes), found: plain(read) }
    }),
    toleranceTicks,
  )
}
