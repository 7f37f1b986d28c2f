import { beatUnitTicks, isCompound, type Measure } from '../time/meterMap'
import type { Ticks } from '../time/units'
import type { TupletPlace } from './score'
import { noteValueOf, writableLengths } from './values'
import type { VoiceChord } from './voices'

/** A piece of a chord (or a rest, without chord) inside one measure, of one writable value. */
export interface Piece {
  readonly startTicks: Ticks
  readonly durationTicks: Ticks
  readonly chord: VoiceChord | null
  /** The value it is written with; inside a tuplet longer than it lasts. */
  readonly writtenTicks: Ticks
  readonly tuplet: TupletPlace | null
}

interface Span {
  readonly start: Ticks
  readonly end: Ticks
  readonly chord: VoiceChord | null
}

interface TupletGroup {
  readonly start: Ticks
  readonly end: Ticks
  readonly actual: number
  readonly normal: number
}

/**
 * Lays the chords of one voice out in a measure: gaps become rests, beats divided in three become tuplets, and each
 * span is cut into writable values that keep the beats visible.
 *
 * @param chords those that sound in the measure, in order, not overlapping
 */
export function layOutVoice(chords: readonly VoiceChord[], measure: Measure): Piece[] {
  const spans: Span[] = []
  let position = 0
  for (const chord of chords) {
    const start = Math.max(0, chord.onsetTicks - measure.startTicks)
    const end = Math.min(measure.lengthTicks, chord.endTicks - measure.startTicks)
    if (end <= position || end <= start) continue
    if (start > position) spans.push({ start: position, end: start, chord: null })
    for (const cut of cutsWithin(chord, measure, Math.max(start, position), end)) {
      spans.push({ start: Math.max(start, position), end: cut, chord })
      position = cut
    }
    spans.push({ start: Math.max(start, position), end, chord })
    position = end
  }
  if (position < measure.lengthTicks) spans.push({ start: position, end: measure.lengthTicks, chord: null })

  const groups = tupletGroups(spans, measure)
  const pieces: Piece[] = []
  for (const span of spans) {
    let at = span.start
    while (at < span.end) {
      const inside = groups.find((group) => group.start <= at && at < group.end)
      const next = groups.find((group) => group.start > at)
      const until = Math.min(span.end, inside ? inside.end : (next?.start ?? span.end))
      if (inside && until - at < inside.end - inside.start)
        pieces.push(...tupletPieces(at, until, span.chord, inside))
      else {
        let start = at
        for (const length of writableLengths(at, until, measure, span.chord === null)) {
          pieces.push({
            startTicks: start,
            durationTicks: length,
            chord: span.chord,
            writtenTicks: length,
            tuplet: null,
          })
          start += length
        }
      }
      at = until
    }
  }
  return pieces
}

/** Places in a bar at which a chord is divided because somebody tied it. */
function cutsWithin({ notes }: VoiceChord, { startTicks }: Measure, from: Ticks, to: Ticks): Ticks[] {
  const cuts = notes.flatMap(({ cuts }) => (cuts ?? []).map((cut) => cut - startTicks))
  return [...new Set(cuts)].filter((cut) => cut > from && cut < to).sort((a, b) => a - b)
}

/** How many notes share a beat, where it is not divided in halves, and in the time of how many of those. */
const divisions = [
  { actual: 3, normal: 2 },
  { actual: 5, normal: 4 },
  { actual: 6, normal: 4 },
  { actual: 7, normal: 4 },
] as const

/** What is on no division of its beat is written in the finest that is usual. */
const finest = divisions[2]

/** The same of a dotted beat, which is divided in twos and threes by itself; what is on none of these is no tuplet. */
const ofDottedBeat = [
  { actual: 5, normal: 6 },
  { actual: 7, normal: 6 },
] as const

/** Beats in which something begins or ends off their grid. */
function tupletGroups(spans: readonly Span[], measure: Measure): TupletGroup[] {
  const beat = beatUnitTicks(measure)
  const isDotted = isCompound(measure)
  const gridTicks = beat / (isDotted ? 12 : 8)
  const known: readonly (typeof divisions | typeof ofDottedBeat)[number][] = isDotted
    ? ofDottedBeat
    : divisions
  const edges = new Set<Ticks>()
  for (const span of spans) edges.add(span.start).add(span.end)
  const beats = Math.ceil(measure.lengthTicks / beat)
  const kinds: ((typeof known)[number] | null)[] = []
  for (let index = 0; index < beats; index++) {
    const inBeat = [...edges].map((edge) => edge - index * beat).filter((edge) => edge > 0 && edge < beat)
    const isEven = inBeat.every((edge) => edge % gridTicks === 0)
    const fits = known.find(({ actual }) => inBeat.every((edge) => edge % (beat / actual) === 0))
    kinds.push(isEven ? null : (fits ?? (isDotted ? null : finest)))
  }
  const groups: TupletGroup[] = []
  for (let index = 0; index < beats; index++) {
    const kind = kinds[index]
    if (!kind) continue
    const start = index * beat
    // Two beats are one group where nothing tells them apart.
    const isPair =
      kinds[index + 1] === kind &&
      index % 2 === 0 &&
      kind.actual !== 6 &&
      !edges.has(start + beat) &&
      [...edges].every(
        (edge) =>
          edge <= start || edge >= start + 2 * beat || (edge - start) % ((beat * 2) / kind.actual) === 0,
      )
    groups.push({ start, end: start + (isPair ? 2 : 1) * beat, ...kind })
    if (isPair) index++
  }
  return groups
}

function tupletPieces(start: Ticks, end: Ticks, chord: VoiceChord | null, group: TupletGroup): Piece[] {
  const ratio = group.actual / group.normal
  const pieces: Piece[] = []
  let at = start
  while (at < end) {
    let length = end - at
    // Longest value that can be written and begins at a multiple of its half (so that thirds stay visible).
    const step = (group.end - group.start) / group.actual
    const candidates = [4, 3, 2, 1, 0.5].map((steps) => Math.round(steps * step))
    const fits = candidates.find(
      (candidate) => candidate <= end - at && noteValueOf(Math.round(candidate * ratio)),
    )
    if (fits) length = fits
    pieces.push({
      startTicks: at,
      durationTicks: length,
      chord,
      writtenTicks: Math.round(length * ratio),
      tuplet: {
        actual: group.actual,
        normal: group.normal,
        starts: at === group.start,
        stops: at + length === group.end,
      },
    })
    at += length
  }
  return pieces
}
