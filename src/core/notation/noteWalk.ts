import type { NoteId } from '../event/note'
import type { Ticks } from '../time/units'
import type { Score } from './score'

export type WalkDirection = 'next' | 'previous' | 'above' | 'below'

/** One notehead that begins a note, with where it stands. */
interface Stand {
  readonly noteId: NoteId
  readonly onsetTicks: Ticks
  /** Counted from the top of the system over all parts. */
  readonly staff: number
  readonly voice: number
  readonly key: number
}

const walks = new WeakMap<Score, readonly Stand[]>()

/** All noteheads that begin a note; the continuation of a tie is no place to stop. */
function standsOf(score: Score): readonly Stand[] {
  const known = walks.get(score)
  if (known) return known
  const stands: Stand[] = []
  let firstStaff = 0
  for (const part of score.parts) {
    for (const [index, voices] of part.measures.entries())
      for (const { voice, staff, elements } of voices)
        for (const element of elements) {
          if (element.kind !== 'chord') continue
          const onsetTicks = score.measures[index]!.startTicks + element.startTicks
          for (const [index, { noteIds, key }] of element.graces.entries())
            stands.push({
              noteId: noteIds[0]!,
              // They have no time of the bar; one comes to them before their chord.
              onsetTicks: onsetTicks - element.graces.length + index,
              staff: firstStaff + staff,
              voice,
              key,
            })
          for (const { noteIds, key, tiesFromPrevious } of element.notes)
            if (!tiesFromPrevious)
              stands.push({ noteId: noteIds[0]!, onsetTicks, staff: firstStaff + staff, voice, key })
        }
    firstStaff += part.clefs.length
  }
  walks.set(score, stands)
  return stands
}

/**
 * The notehead one comes to from another: along its voice, from chord to chord; or up and down through its chord and then
 * to the nearest chord of the staff above or below.
 *
 * @param from null: the first notehead of the piece
 * @returns null where there is none further
 */
export function walk(score: Score, from: NoteId | null, direction: WalkDirection): NoteId | null {
  const stands = standsOf(score)
  const here = stands.find(({ noteId }) => noteId === from)
  if (!here) return nearest(stands, (a) => [a.onsetTicks, a.staff, -a.key])
  const isAlong = direction === 'next' || direction === 'previous'
  const sign = direction === 'next' || direction === 'below' ? 1 : -1
  if (isAlong)
    return nearest(
      stands.filter(
        (each) =>
          each.staff === here.staff &&
          each.voice === here.voice &&
          (each.onsetTicks - here.onsetTicks) * sign > 0,
      ),
      (each) => [Math.abs(each.onsetTicks - here.onsetTicks), Math.abs(each.key - here.key), -each.key],
    )
  return (
    nearest(
      stands.filter(
        (each) =>
          each.staff === here.staff &&
          each.onsetTicks === here.onsetTicks &&
          (here.key - each.key) * sign > 0,
      ),
      (each) => [Math.abs(here.key - each.key)],
    ) ??
    nearest(
      stands.filter((each) => (each.staff - here.staff) * sign > 0),
      (each) => [
        Math.abs(each.staff - here.staff),
        Math.abs(each.onsetTicks - here.onsetTicks),
        -each.key * sign,
      ],
    )
  )
}

/** The one whose numbers come first. */
function nearest(stands: readonly Stand[], rank: (stand: Stand) => readonly number[]): NoteId | null {
  let best: { readonly stand: Stand; readonly numbers: readonly number[] } | null = null
  for (const stand of stands) {
    const numbers = rank(stand)
    if (!best || isBefore(numbers, best.numbers)) best = { stand, numbers }
  }
  return best?.stand.noteId ?? null
}

function isBefore(a: readonly number[], b: readonly number[]): boolean {
  const index = a.findIndex((value, place) => value !== b[place])
  return index >= 0 && a[index]! < b[index]!
}
