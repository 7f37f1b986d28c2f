import type { Note, NoteId } from '../../event/note'
import type { TempoMap } from '../../time/tempoMap'
import type { Milliseconds } from '../../time/units'
import { type Findings, smallestValueMs } from './ornamented'

/** A roll has so many strokes at least. */
const fewestStrokes = 5
/** Strokes of a roll follow each other within this, and within a share of the smallest value: slower ones are written out. */
const longestStepMs: Milliseconds = 105
const shareOfSmallest = 0.7
/** A last stroke that is so much harder ends the roll, and is a note by itself. */
const harderBy = 14

/** A flam: softer strokes so shortly before the main one; nearer ones come from one stroke. */
const [flamFromMs, flamToMs]: readonly [Milliseconds, Milliseconds] = [9, 62]
const mostFlamStrokes = 3
/** Before and after it that drum is silent for so long. */
const flamAloneMs: Milliseconds = 95

/**
 * Finds rolls and flams of what is struck: a roll is one note with the sign of a tremolo, from its first stroke until its last; the soft
 * strokes of a flam or drag stand in small print before the main one. (Common practice, no source.)
 *
 * @param notes in order of onset
 * @param smallestValue denominator of the smallest value that is written
 * @param isOtherLimb whether a stroke is played by others than what is rolled, and so does not end a roll
 */
export function findStrokeRolls(
  notes: readonly Note[],
  tempoMap: TempoMap,
  smallestValue: number,
  isOtherLimb: (rolled: Note, other: Note) => boolean,
): Findings {
  const smallestMs = smallestValueMs(tempoMap, smallestValue)
  const instead = new Map<NoteId, Note>()
  const gone = new Set<NoteId>()
  const signs = new Map<NoteId, readonly 'tremolo'[]>()
  const absorbed = new Map<NoteId, readonly NoteId[]>()
  const graces = new Map<NoteId, readonly Note[]>()
  const onsetMs = (note: Note) => tempoMap.msAt(note.onsetTicks)
  const inRoll = new Set<NoteId>()
  for (const [index, first] of notes.entries()) {
    if (inRoll.has(first.id)) continue
    const quickMs = Math.min(longestStepMs, shareOfSmallest * smallestMs(first.onsetTicks))
    const strokes = strokesFrom(notes, index, quickMs, onsetMs, isOtherLimb)
    if (strokes.length < fewestStrokes) continue
    const last = strokes.at(-1)!
    const hardest = Math.max(...strokes.slice(0, -1).map(({ velocity }) => velocity))
    const isEnd = last.velocity >= hardest + harderBy
    const rolled = isEnd ? strokes.slice(0, -1) : strokes
    // Half a stroke after the last: whether that falls on the beat or just before it, the roll lasts until there.
    const halfStep = (last.onsetTicks - first.onsetTicks) / (strokes.length - 1) / 2
    const endTicks = isEnd ? last.onsetTicks : last.onsetTicks + halfStep
    instead.set(first.id, { ...first, durationTicks: Math.round(endTicks) - first.onsetTicks })
    signs.set(first.id, ['tremolo'])
    absorbed.set(
      first.id,
      rolled.slice(1).map(({ id }) => id),
    )
    for (const { id } of rolled.slice(1)) gone.add(id)
    for (const { id } of strokes) inRoll.add(id)
  }
  for (const [main, own] of flamsOf(
    notes.filter(({ id }) => !inRoll.has(id)),
    onsetMs,
  )) {
    graces.set(main.id, own)
    for (const { id } of own) gone.add(id)
  }
  return { instead, gone, signs, absorbed, graces }
}

/** Quick strokes of one key, until another is struck with the same hands. */
function strokesFrom(
  notes: readonly Note[],
  first: number,
  quickMs: Milliseconds,
  onsetMs: (note: Note) => Milliseconds,
  isOtherLimb: (rolled: Note, other: Note) => boolean,
): readonly Note[] {
  const strokes = [notes[first]!]
  for (let index = first + 1; index < notes.length; index++) {
    const note = notes[index]!
    if (onsetMs(note) - onsetMs(strokes.at(-1)!) > quickMs) break
    if (note.key === strokes[0]!.key) strokes.push(note)
    else if (!isOtherLimb(strokes[0]!, note) && onsetMs(note) - onsetMs(strokes[0]!) > flamToMs) break
  }
  return strokes
}

function flamsOf(notes: readonly Note[], onsetMs: (note: Note) => Milliseconds): Map<Note, readonly Note[]> {
  const flams = new Map<Note, readonly Note[]>()
  const byKey = new Map<number, Note[]>()
  for (const note of notes) {
    const own = byKey.get(note.key)
    if (own) own.push(note)
    else byKey.set(note.key, [note])
  }
  for (const strokes of byKey.values())
    for (let index = 1; index < strokes.length; index++) {
      const own: Note[] = []
      let main = index
      while (main < strokes.length) {
        const stepMs = onsetMs(strokes[main]!) - onsetMs(strokes[main - 1]!)
        if (stepMs < flamFromMs || stepMs > flamToMs) break
        own.push(strokes[main - 1]!)
        main++
      }
      if (own.length === 0) continue
      const [before, principal, after] = [strokes[index - 2], strokes[main - 1]!, strokes[main]]
      index = main
      if (own.length > mostFlamStrokes || own.some(({ velocity }) => velocity >= principal.velocity)) continue
      if (before && onsetMs(own[0]!) - onsetMs(before) < flamAloneMs) continue
      if (after && onsetMs(after) - onsetMs(principal) < flamAloneMs) continue
      flams.set(principal, own)
    }
  return flams
}
