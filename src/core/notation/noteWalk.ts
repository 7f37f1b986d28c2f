import type { Ticks } from '../time/units'
import type { ChosenOnPage } from './amendments/stroke'
import { standingIn } from './heads'
import type { Score } from './score'

export type WalkDirection = 'next' | 'previous' | 'above' | 'below'

/** One notehead that begins a note, or a rest, with where it stands. */
interface Stand {
  readonly place: ChosenOnPage
  readonly onsetTicks: Ticks
  /** Counted from the top of the system over all parts. */
  readonly staff: number
  readonly voice: number
  readonly key: number
}

/** Rests are looked for about where they are drawn: between the staves of a piano. */
const keyOfRests = 60

const walks = new WeakMap<Score, readonly Stand[]>()

/** All noteheads that begin a note, and all rests; the continuation of a tie is no place to stop. */
function standsOf(score: Score): readonly Stand[] {
  const known = walks.get(score)
  if (known) return known
  const firstStaves: number[] = []
  let staves = 0
  for (const { clefs } of score.parts) {
    firstStaves.push(staves)
    staves += clefs.length
  }
  const { heads, rests } = standingIn(score)
  const stands: Stand[] = []
  for (const { note, chord, partIndex, staff, voice, onsetTicks, isGrace } of heads)
    stands.push({
      place: { kind: 'notes', noteIds: [note.noteIds[0]!] },
      // Notes in small print have no time of the bar; one comes to them before their chord.
      onsetTicks: isGrace ? onsetTicks - chord.graces.length + chord.graces.indexOf(note) : onsetTicks,
      staff: firstStaves[partIndex]! + staff,
      voice,
      key: note.key,
    })
  for (const { partIndex, staff, voice, onsetTicks } of rests)
    stands.push({
      place: { kind: 'rest', partId: score.parts[partIndex]!.id, voice, tick: onsetTicks },
      onsetTicks,
      staff: firstStaves[partIndex]! + staff,
      voice,
      key: keyOfRests,
    })
  walks.set(score, stands)
  return stands
}

function isAt(place: ChosenOnPage, other: ChosenOnPage): boolean {
  if (place.kind === 'notes') return other.kind === 'notes' && place.noteIds[0] === other.noteIds.at(-1)
  return (
    other.kind === 'rest' &&
    place.partId === other.partId &&
    place.voice === other.voice &&
    place.tick === other.tick
  )
}

/**
 * The notehead or rest one comes to from another: along its voice, from chord to chord; or up and down through its chord and the
 * other voices of its staff, and then to the nearest of the staff above or below.
 *
 * @param from null: the first notehead of the piece; of several notes the last
 * @returns null where there is none further
 */
export function walk(score: Score, from: ChosenOnPage | null, direction: WalkDirection): ChosenOnPage | null {
  const stands = standsOf(score)
  const here = from ? stands.find(({ place }) => isAt(place, from)) : undefined
  if (!here)
    return nearest(
      stands.filter(({ place }) => place.kind === 'notes'),
      (a) => [a.onsetTicks, a.staff, -a.key],
    )
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
function nearest(stands: readonly Stand[], rank: (stand: Stand) => readonly number[]): ChosenOnPage | null {
  let best: { readonly stand: Stand; readonly numbers: readonly number[] } | null = null
  for (const stand of stands) {
    const numbers = rank(stand)
    if (!best || isBefore(numbers, best.numbers)) best = { stand, numbers }
  }
  return best?.stand.place ?? null
}

function isBefore(a: readonly number[], b: readonly number[]): boolean {
  const index = a.findIndex((value, place) => value !== b[place])
  return index >= 0 && a[index]! < b[index]!
}
