import type { Note } from '../event/note'
import { noteEndTicks } from '../event/note'
import { beatUnitTicks, isCompound, type MeterMap } from '../time/meterMap'
import type { Ticks } from '../time/units'

/** How the second eighth of a beat is played throughout a piece. */
export interface Swing {
  /** Lengths of a beat's two eighths. */
  readonly ratio: '3:2' | '2:1'
  /** Where in the beat the second one lies, 0 to 1. */
  readonly secondAt: number
}

/** The words that say so on a page. */
export function wordsOfSwing({ ratio }: Swing): string {
  return `swing, eighths ${ratio}`
}

/** What such words say; null for others. */
export function swingOfWords(text: string): Swing | null {
  const ratio = /^swing, eighths (3:2|2:1)$/i.exec(text.trim())?.[1]
  return ratio === '3:2' ? { ratio, secondAt: 3 / 5 } : ratio === '2:1' ? { ratio, secondAt: 2 / 3 } : null
}

/** Places of a second eighth in the beat (common practice, no source): even, swung, and then dotted. */
const even = { from: 0.42, to: 0.55 }
const swung = { from: 0.55, to: 0.72 }
/** From here on three to two is heard as two to one. */
const twoToOneFrom = 0.635
/** Around a beat's own places. */
const near = 0.1
/** So many swung beats, and such a share of all with a second eighth, are swing; real triplets may be among them, seldom. */
const fewestBeats = 8
const leastShare = 0.75
const mostTriplets = 0.3

/**
 * Whether a piece swings: whether the second eighths of its beats lie late, most of the time, with nothing on the first third.
 *
 * @param parts notes of each part, in order of onset
 */
export function findSwing(parts: readonly (readonly Note[])[], meterMap: MeterMap): Swing | null {
  const seconds: number[] = []
  let [evens, triplets] = [0, 0]
  for (const notes of parts)
    for (const places of placesByBeat(notes, meterMap).values()) {
      const kind = kindOf(places)
      if (kind === 'triplet') triplets++
      else if (kind === 'even') evens++
      else if (kind === 'swung') seconds.push(places.find((place) => place >= swung.from)!)
    }
  const isSwing =
    seconds.length >= fewestBeats &&
    seconds.length >= leastShare * (seconds.length + evens) &&
    triplets <= mostTriplets * seconds.length
  if (!isSwing) return null
  const middle = seconds.sort((a, b) => a - b)[seconds.length >> 1]!
  return middle < twoToOneFrom ? { ratio: '3:2', secondAt: 3 / 5 } : { ratio: '2:1', secondAt: 2 / 3 }
}

/**
 * Notes as they would be played without swing: in each beat of eighths the second one lies in the middle, and what is around it with
 * it. Beats with triplets, sixteenths or even eighths, and compound meters, stay as they were played.
 *
 * @param notes in order of onset
 */
export function withoutSwing(notes: readonly Note[], { secondAt }: Swing, meterMap: MeterMap): Note[] {
  const places = placesByBeat(notes, meterMap)
  const straight = (tick: Ticks): Ticks => {
    const { startTicks, lengthTicks, isCompound: isInThrees } = beatAt(meterMap, tick + lateTicks)
    if (isInThrees) return tick
    const own = places.get(startTicks)
    if (own && !['swung', 'plain'].includes(kindOf(own))) return tick
    const place = (tick - startTicks) / lengthTicks
    if (place <= 0) return tick
    const moved =
      place < secondAt ? (place / secondAt) * 0.5 : 0.5 + ((place - secondAt) / (1 - secondAt)) * 0.5
    return Math.round(startTicks + moved * lengthTicks)
  }
  return notes.map((note) => {
    const onsetTicks = straight(note.onsetTicks)
    return { ...note, onsetTicks, durationTicks: Math.max(1, straight(noteEndTicks(note)) - onsetTicks) }
  })
}

/** A note so much before a beat is on it. */
const lateTicks: Ticks = 800

/** By the beginning of each beat of a simple meter, where in it notes begin. */
function placesByBeat(notes: readonly Note[], meterMap: MeterMap): Map<Ticks, number[]> {
  const beats = new Map<Ticks, number[]>()
  for (const { onsetTicks } of notes) {
    const beat = beatAt(meterMap, onsetTicks + lateTicks)
    if (beat.isCompound) continue
    const place = Math.max(0, (onsetTicks - beat.startTicks) / beat.lengthTicks)
    const own = beats.get(beat.startTicks)
    if (own) own.push(place)
    else beats.set(beat.startTicks, [place])
  }
  return beats
}

function beatAt(meterMap: MeterMap, tick: Ticks) {
  const measure = meterMap.measureAt(Math.max(0, tick))
  const lengthTicks = beatUnitTicks(measure)
  const inBar = Math.max(0, tick) - measure.startTicks
  return {
    startTicks: measure.startTicks + Math.floor(inBar / lengthTicks) * lengthTicks,
    lengthTicks,
    isCompound: isCompound(measure),
  }
}

function kindOf(places: readonly number[]): 'plain' | 'even' | 'swung' | 'triplet' | 'other' {
  const inner = places.filter((place) => place > near)
  if (inner.length === 0) return 'plain'
  if (inner.every((place) => place >= even.from && place < even.to)) return 'even'
  if (inner.every((place) => place >= swung.from && place <= swung.to)) return 'swung'
  const hasThird = inner.some((place) => Math.abs(place - 1 / 3) < near)
  return hasThird && inner.every((place) => place < 0.8) ? 'triplet' : 'other'
}
