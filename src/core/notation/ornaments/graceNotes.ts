import { type Note, type NoteId, noteEndTicks } from '../../event/note'
import type { TempoMap } from '../../time/tempoMap'
import { type Milliseconds, TICKS_PER_QUARTER, type Ticks } from '../../time/units'
import { type Findings, smallestValueMs } from './ornamented'

/** A grace note comes so shortly before what it leads to, and within a share of the smallest value: slower ones have a place in the bar. */
const longestStepMs: Milliseconds = 95
const shareOfSmallest = 0.6
/** Nearer together, notes are struck at once. */
const shortestStepMs: Milliseconds = 28
/** It is let go when the next note sounds. */
const longestOverlapMs: Milliseconds = 45
/** What it leads to is held so many times as long as the step, and so long at least. */
const heldTimes = 2.5
const leastHeldMs: Milliseconds = 130
/** Before the first of them nothing near comes within so many steps: otherwise they are the end of a passage. */
const freeBefore = 1.6
/** More of them are a passage. */
const mostInRow = 4
const widestSemitones = 12

/**
 * Finds grace notes: one to four short notes just before a longer one. They take no time of the bar. Where the first of them was
 * played nearer to a place of the grid than what they lead to, they were played on the beat, and it begins there. (Common practice, no
 * source.)
 *
 * @param notes in order of onset
 * @param smallestValue denominator of the smallest value that is written
 */
export function findGraceNotes(notes: readonly Note[], tempoMap: TempoMap, smallestValue: number): Findings {
  const graces = new Map<NoteId, readonly Note[]>()
  const instead = new Map<NoteId, Note>()
  const gone = new Set<NoteId>()
  const smallestMs = smallestValueMs(tempoMap, smallestValue)
  const onsetsMs = notes.map(({ onsetTicks }) => tempoMap.msAt(onsetTicks))
  const leadsTo = notes.map((_, index) => nextOf(notes, onsetsMs, index, tempoMap, smallestMs))
  const isLedTo = new Set(leadsTo)
  for (let first = 0; first < notes.length; first++) {
    if (leadsTo[first]! < 0 || isLedTo.has(first)) continue
    const row = [first]
    while (leadsTo[row.at(-1)!]! >= 0) row.push(leadsTo[row.at(-1)!]!)
    const mainPlace = row.pop()!
    const [main, lead] = [notes[mainPlace]!, notes[first]!]
    const stepMs = (onsetsMs[mainPlace]! - onsetsMs[first]!) / row.length
    if (row.length > mostInRow || gone.has(main.id) || graces.has(main.id)) continue
    if (tempoMap.msAt(noteEndTicks(main)) - onsetsMs[mainPlace]! < Math.max(leastHeldMs, heldTimes * stepMs))
      continue
    if (isAfterNear(notes, onsetsMs, first, freeBefore * stepMs)) continue
    const own = row.map((place) => notes[place]!)
    graces.set(main.id, own)
    for (const { id } of own) gone.add(id)
    const onsetTicks =
      offGrid(lead.onsetTicks, smallestValue) < offGrid(main.onsetTicks, smallestValue)
        ? lead.onsetTicks
        : main.onsetTicks
    if (onsetTicks !== main.onsetTicks)
      instead.set(main.id, { ...main, onsetTicks, durationTicks: noteEndTicks(main) - onsetTicks })
  }
  return { instead, gone, graces }
}

/** The place of the note that a short one leads to: of those that come soon after the one nearest in pitch; −1 where there is none. */
function nextOf(
  notes: readonly Note[],
  onsetsMs: readonly Milliseconds[],
  index: number,
  tempoMap: TempoMap,
  smallestMs: (tick: Ticks) => Milliseconds,
): number {
  const note = notes[index]!
  const ownEndMs = tempoMap.msAt(noteEndTicks(note))
  if (ownEndMs - onsetsMs[index]! > longestStepMs + longestOverlapMs) return -1
  const longestMs = Math.min(longestStepMs, shareOfSmallest * smallestMs(note.onsetTicks))
  let [next, nearest] = [-1, widestSemitones + 1]
  for (let later = index + 1; later < notes.length; later++) {
    const stepMs = onsetsMs[later]! - onsetsMs[index]!
    if (stepMs > longestMs) break
    const { key, voice, staff } = notes[later]!
    const distance = Math.abs(key - note.key)
    if (distance === 0 || distance >= nearest || voice !== note.voice || staff !== note.staff) continue
    // With a neighbour struck at once it is of a chord.
    if (stepMs < shortestStepMs) return -1
    if (ownEndMs > onsetsMs[later]! + longestOverlapMs) continue
    ;[next, nearest] = [later, distance]
  }
  return next
}

/** Whether a note near in pitch begins just before, or with it. */
function isAfterNear(
  notes: readonly Note[],
  onsetsMs: readonly Milliseconds[],
  index: number,
  withinMs: Milliseconds,
): boolean {
  const { key } = notes[index]!
  for (let before = index - 1; before >= 0; before--) {
    const gapMs = onsetsMs[index]! - onsetsMs[before]!
    if (gapMs > withinMs) return false
    const distance = Math.abs(notes[before]!.key - key)
    if (distance <= (gapMs < shortestStepMs ? widestSemitones / 2 : widestSemitones)) return true
  }
  return false
}

/** How far a place lies from the nearest of the grid. */
function offGrid(tick: Ticks, smallestValue: number): Ticks {
  const step = (TICKS_PER_QUARTER * 4) / smallestValue
  return Math.abs(tick - Math.round(tick / step) * step)
}
