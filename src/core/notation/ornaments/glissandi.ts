import { type Note, type NoteId, noteEndTicks } from '../../event/note'
import type { TempoMap } from '../../time/tempoMap'
import type { Milliseconds } from '../../time/units'
import { type Findings, type Glissando, smallestValueMs } from './ornamented'

/** Fewer notes are a passage. */
const fewestNotes = 7
/** Keys follow each other within this, and within a share of the smallest value; no nearer than this: that is a chord. */
const longestStepMs: Milliseconds = 75
const shareOfSmallest = 0.55
const shortestStepMs: Milliseconds = 6
/** The step to the last note may be so many times as long. */
const mostLandingTimes = 2

const whiteKeys: ReadonlySet<number> = new Set([0, 2, 4, 5, 7, 9, 11])
const isWhite = (key: number) => whiteKeys.has(key % 12)

/** Ways over the keyboard: what comes next upwards from a key. */
const ways = [
  (key: number) => key + 1,
  (key: number) => (isWhite(key) ? nextWhere(key, isWhite) : null),
  (key: number) => (isWhite(key) ? null : nextWhere(key, (other) => !isWhite(other))),
] as const

function nextWhere(key: number, isWanted: (key: number) => boolean): number {
  let next = key + 1
  while (!isWanted(next)) next++
  return next
}

/**
 * Finds slides over the white keys, the black keys or all keys, up or down: the first note is held until the last one begins, with a
 * line between them. (Common practice, no source.)
 *
 * @param notes in order of onset
 * @param smallestValue denominator of the smallest value that is written
 */
export function findGlissandi(notes: readonly Note[], tempoMap: TempoMap, smallestValue: number): Findings {
  const instead = new Map<NoteId, Note>()
  const gone = new Set<NoteId>()
  const absorbed = new Map<NoteId, readonly NoteId[]>()
  const glissandi: Glissando[] = []
  const smallestMs = smallestValueMs(tempoMap, smallestValue)
  const taken = new Set<NoteId>()
  for (const [index, first] of notes.entries()) {
    if (taken.has(first.id)) continue
    const quickMs = Math.min(longestStepMs, shareOfSmallest * smallestMs(first.onsetTicks))
    const slide = longestSlide(notes, index, tempoMap, quickMs)
    if (slide.length < fewestNotes) continue
    const last = slide.at(-1)!
    const lastsMs = tempoMap.msAt(last.onsetTicks) - tempoMap.msAt(first.onsetTicks)
    if (lastsMs < smallestMs(first.onsetTicks)) continue
    const between = slide.slice(1, -1)
    instead.set(first.id, { ...first, durationTicks: last.onsetTicks - first.onsetTicks })
    absorbed.set(
      first.id,
      between.map(({ id }) => id),
    )
    glissandi.push({ from: first.id, to: last.id })
    for (const { id } of between) gone.add(id)
    for (const { id } of slide) taken.add(id)
  }
  return { instead, gone, absorbed, glissandi }
}

function longestSlide(
  notes: readonly Note[],
  first: number,
  tempoMap: TempoMap,
  quickMs: Milliseconds,
): readonly Note[] {
  let longest: readonly Note[] = []
  for (const next of ways)
    for (const direction of ['up', 'down'] as const) {
      const isNext = (from: number, to: number) =>
        direction === 'up' ? next(from) === to : next(to) === from
      const slide = slideFrom(notes, first, tempoMap, quickMs, isNext)
      if (slide.length > longest.length) longest = slide
    }
  return longest
}

/** Notes from one on that go key by key; others may sound meanwhile. */
function slideFrom(
  notes: readonly Note[],
  first: number,
  tempoMap: TempoMap,
  quickMs: Milliseconds,
  isNext: (from: number, to: number) => boolean,
): readonly Note[] {
  const slide = [notes[first]!]
  let beforeMs = tempoMap.msAt(notes[first]!.onsetTicks)
  for (let index = first + 1; index < notes.length; index++) {
    const note = notes[index]!
    const onsetMs = tempoMap.msAt(note.onsetTicks)
    // The last key may be late: a hand comes to rest there.
    const isLast = onsetMs - beforeMs > quickMs
    if (onsetMs - beforeMs > (slide.length < fewestNotes ? quickMs : mostLandingTimes * quickMs)) break
    if (onsetMs - beforeMs < shortestStepMs || !isNext(slide.at(-1)!.key, note.key)) continue
    slide.push(note)
    beforeMs = onsetMs
    if (isLast) break
    // A finger that stays on a key in the middle begins something else there.
    if (tempoMap.msAt(noteEndTicks(note)) - onsetMs > 4 * quickMs && slide.length >= fewestNotes) break
  }
  return slide
}
