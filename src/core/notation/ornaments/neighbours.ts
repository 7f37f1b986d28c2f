import type { Note, NoteId } from '../../event/note'
import { noteEndTicks } from '../../event/note'
import type { TempoMap } from '../../time/tempoMap'
import type { Milliseconds } from '../../time/units'
import { type Findings, type Ornament, smallestValueMs } from './ornamented'

/** Quick notes follow each other within this, and within a share of the smallest value: slower ones are written out. */
const longestStepMs: Milliseconds = 140
const shareOfSmallest = 0.75
/** A trill has so many notes at least. */
const fewestTrilled = 5
/** What a mordent or turn leads to is held so many times as long as its quick notes. */
const heldTimes = 2
/** The other note of an ornament is a step away. */
const widestSemitones = 2

/**
 * Finds trills, mordents and turns: quick notes in turn that are a step apart. Each becomes one note with a sign, from its first onset to
 * its last end. (Common practice, no source.)
 *
 * @param notes in order of onset
 * @param smallestValue denominator of the smallest value that is written
 */
export function findNeighbourOrnaments(
  notes: readonly Note[],
  tempoMap: TempoMap,
  smallestValue: number,
): Findings {
  const signs = new Map<NoteId, readonly Ornament[]>()
  const absorbed = new Map<NoteId, readonly NoteId[]>()
  const gone = new Set<NoteId>()
  const instead = new Map<NoteId, Note>()
  const smallestMs = smallestValueMs(tempoMap, smallestValue)
  for (let index = 0; index < notes.length; index++) {
    const { id, onsetTicks } = notes[index]!
    if (gone.has(id)) continue
    const quickMs = Math.min(longestStepMs, shareOfSmallest * smallestMs(onsetTicks))
    const run = quickRun(notes, index, tempoMap, quickMs)
    if (run.length < 3) continue
    const found = ornamentOf(
      run.map((place) => notes[place]!),
      tempoMap,
    )
    if (!found) continue
    const { sign, members, main } = found
    const first = members[0]!
    const endTicks = Math.max(...members.map(noteEndTicks))
    // It begins where its first note does, and keeps the identity of a note that has its pitch.
    instead.set(main.id, {
      ...main,
      onsetTicks: first.onsetTicks,
      durationTicks: endTicks - first.onsetTicks,
      velocity: Math.max(...members.map(({ velocity }) => velocity)),
    })
    signs.set(main.id, [sign])
    absorbed.set(
      main.id,
      members.filter((note) => note !== main).map(({ id }) => id),
    )
    for (const note of members) if (note !== main) gone.add(note.id)
  }
  return { instead, gone, signs, absorbed }
}

/** Places of notes that follow each other quickly within a step of the first, from a note on; the last may be long. */
function quickRun(
  notes: readonly Note[],
  first: number,
  tempoMap: TempoMap,
  quickMs: Milliseconds,
): number[] {
  const run = [first]
  const { key, voice, staff } = notes[first]!
  let beforeMs = tempoMap.msAt(notes[first]!.onsetTicks)
  for (let index = first + 1; index < notes.length; index++) {
    const note = notes[index]!
    const onsetMs = tempoMap.msAt(note.onsetTicks)
    if (onsetMs - beforeMs > quickMs) break
    // Other notes may sound meanwhile, further away or in another voice.
    if (Math.abs(note.key - key) > widestSemitones * 2 || note.voice !== voice || note.staff !== staff)
      continue
    if (note.key === notes[run.at(-1)!]!.key || onsetMs - beforeMs < quickMs / 8) break
    run.push(index)
    beforeMs = onsetMs
  }
  return run
}

function ornamentOf(
  run: readonly Note[],
  tempoMap: TempoMap,
): { readonly sign: Ornament; readonly members: readonly Note[]; readonly main: Note } | null {
  const [a, b] = [run[0]!, run[1]!]
  const apart = Math.abs(a.key - b.key)
  if (apart === 0 || apart > widestSemitones) return null
  let alternating = 2
  while (alternating < run.length && run[alternating]!.key === run[alternating - 2]!.key) alternating++
  if (alternating >= fewestTrilled) {
    const members = run.slice(0, alternating)
    // The lower note is trilled, whichever comes first.
    const main = members.find(({ key }) => key === Math.min(a.key, b.key))!
    return { sign: 'trill', members, main }
  }
  const ms = (note: Note) => tempoMap.msAt(noteEndTicks(note)) - tempoMap.msAt(note.onsetTicks)
  const isHeld = (last: Note, quick: readonly Note[]) => ms(last) >= heldTimes * Math.max(...quick.map(ms))
  const [, , c, d] = run
  if (c && c.key === a.key && isHeld(c, [a, b]))
    return { sign: b.key > a.key ? 'upper mordent' : 'lower mordent', members: [a, b, c], main: c }
  const isTurn =
    c && d && a.key > b.key && c.key < b.key && d.key === b.key && b.key - c.key <= widestSemitones
  return isTurn && isHeld(d, [a, b, c]) ? { sign: 'turn', members: [a, b, c, d], main: d } : null
}
