import type { ScoreHeadings } from '../notation/headings'
import type { Score } from '../notation/score'
import { TICKS_PER_QUARTER } from '../time/units'
import { compareNotes, type Proof } from './compare'
import { expectedScoreNotes, type ProofNote } from './expected'
import { readWithMidiFile } from './proveMidi'

/** An engraver that reads MusicXML on its own and gives back what it understood as a MIDI file. */
export interface IndependentReader {
  /** @returns the bytes of a Standard MIDI File with one track for each staff */
  midiOf(musicXml: string): Uint8Array | Promise<Uint8Array>
}

/**
 * The reader counts 120 ticks to the quarter and ends some notes two ticks early; the smallest value that can be
 * written is ten times as long, so nothing wrong passes.
 */
const toleranceTicks = (TICKS_PER_QUARTER / 120) * 2.5

/** The reader rolls chords and strokes where the sign says so; what is compared is where they are written. */
function asWritten(musicXml: string): string {
  return musicXml
    .replaceAll('<notations><arpeggiate/></notations>', '')
    .replaceAll('<arpeggiate/>', '')
    .replaceAll('<tremolo type="single">3</tremolo>', '')
    .replaceAll('<ornaments></ornaments>', '')
    .replaceAll('<notations></notations>', '')
}

/**
 * Two voices may hold one key at once. The reader tells of that in a MIDI file, where a note-off does not say which of them it ends: the
 * one that began first is taken, on both sides.
 */
export function endedInTurn(notes: readonly ProofNote[]): ProofNote[] {
  const byKey = new Map<number, ProofNote[]>()
  for (const note of notes) {
    if (byKey.has(note.key)) byKey.get(note.key)!.push(note)
    else byKey.set(note.key, [note])
  }
  return [...byKey.values()].flatMap((own) => {
    const begun = [...own].sort((a, b) => a.onsetTicks - b.onsetTicks)
    const ends = own.map(({ onsetTicks, durationTicks }) => onsetTicks + durationTicks).sort((a, b) => a - b)
    return begun.map(({ key, onsetTicks }, index) => ({
      key,
      onsetTicks,
      durationTicks: ends[index]! - onsetTicks,
    }))
  })
}

/** Grace notes have no place in the bar, and the reader takes their time from a neighbour. */
function withoutGraces(musicXml: string): string {
  return musicXml.replace(/<note(?: [^>]*)?><grace.*?<\/note>\n?/g, '')
}

/**
 * Reads written MusicXML back with an independent reader and compares it with the score, staff by staff, note for
 * note. Percussion is compared by onset alone, since readers give unpitched notes keys of their own.
 */
export async function proveMusicXml(
  musicXml: string,
  score: Score,
  headings: ScoreHeadings,
  reader: IndependentReader,
): Promise<Proof> {
  const expected = expectedScoreNotes(score)
  const written = asWritten(musicXml)
  const all = score.parts.map((_, index) => index)
  const graced = all.filter((part) =>
    expected.some(({ partIndex, graceKeys }) => partIndex === part && graceKeys.length > 0),
  )
  const [inTimeStaves, gracedStaves] = await Promise.all([
    readStaves(withoutGraces(written), all, reader),
    readStaves(written, graced, reader),
  ])
  const found = inTimeStaves.flat()
  const named = expected.map((staff, index) => {
    const { name } = headings.parts[staff.partIndex]!
    return {
      ...staff,
      name: staff.staff > 1 ? `${name}, lower staff` : name,
      found: found[index]?.notes ?? [],
    }
  })
  const inTime = compareNotes(
    named.map(({ name, notes, isPercussion, found: read }) => {
      const plain = (list: readonly ProofNote[]) =>
        isPercussion ? list.map((note) => ({ ...note, key: 0 })) : list
      return { name, expected: endedInTurn(plain(notes)), found: endedInTurn(plain(read)) }
    }),
    toleranceTicks,
  )
  if (graced.length === 0) return inTime
  const read = new Map(gracedStaves.map((staves, index) => [graced[index]!, staves]))
  return withGraces(
    inTime,
    named.map((staff) => ({
      ...staff,
      withGraces:
        staff.graceKeys.length > 0 ? (read.get(staff.partIndex)?.[staff.staff - 1]?.notes ?? []) : null,
    })),
  )
}

/** So many parts are read at once: an engraver's work grows faster than they do. */
const partsAtOnce = 4

/** What the reader finds in parts of a file, staff by staff; it may read several of them at the same time. */
async function readStaves(
  musicXml: string,
  partIndices: readonly number[],
  reader: IndependentReader,
): Promise<{ readonly notes: readonly ProofNote[] }[][]> {
  const stavesOf = new Map(
    partIndices.map((index) => [index, /<staves>(\d+)<\/staves>/.exec(partXml(musicXml, index))?.[1] ?? '1']),
  )
  const groups = Array.from({ length: Math.ceil(partIndices.length / partsAtOnce) }, (_, index) =>
    partIndices.slice(index * partsAtOnce, (index + 1) * partsAtOnce),
  )
  const read = await Promise.all(
    groups.map(async (some) => {
      const midi = await reader.midiOf(onlyParts(musicXml, new Set(some)))
      let left = readWithMidiFile(midi).slice(1)
      return some.map((index) => {
        const staves = left.slice(0, Number(stavesOf.get(index)))
        left = left.slice(staves.length)
        return staves
      })
    }),
  )
  return read.flat()
}

function partXml(musicXml: string, index: number): string {
  const from = musicXml.indexOf(`<part id="P${index + 1}">`)
  return musicXml.slice(from, musicXml.indexOf('</part>', from))
}

/** A file with some of its parts, these as they are in it. */
function onlyParts(musicXml: string, wanted: ReadonlySet<number>): string {
  const isWanted = (whole: string, number: string) => (wanted.has(Number(number) - 1) ? whole : '')
  return musicXml
    .replace(/<part-group[^>]*(?:\/>|(?<!\/)>.*?<\/part-group>)/gs, '')
    .replace(/<part id="P(\d+)">.*?<\/part>\n?/gs, isWanted)
    .replace(/<score-part id="P(\d+)">.*?<\/score-part>\n?/gs, isWanted)
}

/** Grace notes are found by their keys, beside the notes that have a place. */
function withGraces(
  inTime: Proof,
  staves: readonly {
    readonly name: string
    readonly isPercussion: boolean
    readonly notes: readonly ProofNote[]
    readonly graceKeys: readonly number[]
    readonly found: readonly ProofNote[]
    /** What is read of it with its grace notes; null for a staff without any. */
    readonly withGraces: readonly ProofNote[] | null
  }[],
): Proof {
  const differences = [...inTime.differences]
  let [expectedNotes, foundNotes] = [0, 0]
  for (const { name, isPercussion, notes, graceKeys, found: without, withGraces: read } of staves) {
    const found = read ?? without
    expectedNotes += notes.length + graceKeys.length
    foundNotes += found.length
    if (read === null) continue
    const wanted = keysInOrder([...notes.map(({ key }) => key), ...graceKeys], isPercussion)
    const had = keysInOrder(
      found.map(({ key }) => key),
      isPercussion,
    )
    if (wanted !== had)
      differences.push(
        `${name}: with grace notes ${notes.length + graceKeys.length} notes written, ${found.length} read back, or of other keys`,
      )
  }
  return { isProved: differences.length === 0, expectedNotes, foundNotes, differences }
}

function keysInOrder(keys: readonly number[], isPercussion: boolean): string {
  return isPercussion ? String(keys.length) : [...keys].sort((a, b) => a - b).join(' ')
}
