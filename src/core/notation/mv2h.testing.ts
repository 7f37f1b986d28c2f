import type { Ticks } from '../time/units'

/** A note as it is written, or as it was meant. */
export interface JudgedNote {
  readonly onsetTicks: Ticks
  readonly endTicks: Ticks
  readonly key: number
  readonly voice: number
}

/** A score, as far as it is judged. */
export interface JudgedScore {
  readonly notes: readonly JudgedNote[]
  /** Where groups of the meter begin and end: bars, beats and halves of beats. */
  readonly groups: readonly { readonly startTicks: Ticks; readonly endTicks: Ticks }[]
  readonly fifths: number
  readonly mode: 'major' | 'minor'
}

export interface Mv2h {
  readonly multiPitch: number
  readonly voice: number
  readonly meter: number
  readonly value: number
  readonly harmony: number
  /** Their mean. */
  readonly all: number
}

/**
 * How near a written score is to the one that was meant, in five figures and one.
 *
 * Source: A. McLeod and M. Steedman, Evaluating Automatic Polyphonic Music Transcription (MV2H), ISMIR 2018, with scores aligned
 * already: positions are compared in ticks of the score, exactly; of harmony only the key is judged.
 */
export function mv2h(meant: JudgedScore, written: JudgedScore): Mv2h {
  const addressOf = ({ onsetTicks, key }: JudgedNote) => `${onsetTicks} ${key}`
  const places = new Map(written.notes.map((note) => [addressOf(note), note]))
  const matched = meant.notes.flatMap((note) => {
    const own = places.get(addressOf(note))
    return own ? [{ meant: note, written: own }] : []
  })
  const multiPitch = f1(matched.length, meant.notes.length, written.notes.length)
  const pairs = new Map(matched.map((pair) => [pair.meant, pair.written]))
  const [meantLinks, writtenLinks] = [linksOf(meant.notes), linksOf(written.notes)]
  let links = 0
  for (const [from, to] of meantLinks) {
    const [a, b] = [pairs.get(from), pairs.get(to)]
    if (a && b && writtenLinks.has(a) && writtenLinks.get(a) === b) links++
  }
  const voice = f1(links, meantLinks.size, writtenLinks.size)
  const value =
    matched.reduce((sum, { meant: own, written: found }) => {
      const length = own.endTicks - own.onsetTicks
      return sum + Math.max(0, 1 - Math.abs(found.endTicks - found.onsetTicks - length) / length)
    }, 0) / Math.max(1, matched.length)
  const groupOf = ({ startTicks, endTicks }: JudgedScore['groups'][number]) => `${startTicks} ${endTicks}`
  const groups = new Set(written.groups.map(groupOf))
  const meter = f1(
    meant.groups.filter((group) => groups.has(groupOf(group))).length,
    meant.groups.length,
    groups.size,
  )
  const harmony = keyScore(meant, written)
  return { multiPitch, voice, meter, value, harmony, all: (multiPitch + voice + meter + value + harmony) / 5 }
}

/** From each note to the next of its voice. */
function linksOf(notes: readonly JudgedNote[]): Map<JudgedNote, JudgedNote> {
  const links = new Map<JudgedNote, JudgedNote>()
  const last = new Map<number, JudgedNote>()
  for (const note of [...notes].sort((a, b) => a.onsetTicks - b.onsetTicks || b.key - a.key)) {
    const before = last.get(note.voice)
    // Of a chord the highest stands for all of it.
    if (before && before.onsetTicks === note.onsetTicks) continue
    if (before) links.set(before, note)
    last.set(note.voice, note)
  }
  return links
}

/** 1 for the key, 0.5 a fifth away, 0.3 for the relative and 0.2 for the parallel key, as in the paper. */
function keyScore(meant: JudgedScore, written: JudgedScore): number {
  const isMode = meant.mode === written.mode
  const distance = written.fifths - meant.fifths
  if (isMode && distance === 0) return 1
  if (isMode && Math.abs(distance) === 1) return 0.5
  if (!isMode && distance === 0) return 0.3
  if (!isMode && distance === (meant.mode === 'major' ? -3 : 3)) return 0.2
  return 0
}

function f1(hits: number, meant: number, found: number): number {
  return meant + found === 0 ? 1 : (2 * hits) / (meant + found)
}
