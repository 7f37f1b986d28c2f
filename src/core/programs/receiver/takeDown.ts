import { percussionChannel } from '../../midi/generalMidi'
import { isCompound, MeterMap } from '../../time/meterMap'
import { type Milliseconds, TICKS_PER_QUARTER, type Ticks } from '../../time/units'
import type { ReceiverPart, ReceiverSettings } from './receiverSettings'

/** A note as it arrived while the receiver wrote. */
export interface ArrivedNote {
  readonly channel: number
  readonly key: number
  readonly velocity: number
  /** From the beginning of the receiver's music; not on any grid. */
  readonly onsetTicks: Ticks
  /** null: it is still held. */
  readonly endTicks: Ticks | null
  readonly lengthMs: Milliseconds | null
  /** By the stamp it came with. */
  readonly onMs: Milliseconds
  /** Which recording it came in. */
  readonly recording: number
}

/** A note as the receiver writes it. */
export interface TakenDownNote {
  readonly channel: number
  readonly key: number
  readonly velocity: number
  readonly onsetTicks: Ticks
  readonly endTicks: Ticks
  /** Of the parts, in their order. */
  readonly partIndex: number
  /** 1, or 2 for the lower one of two. */
  readonly staff: 1 | 2
  readonly recording: number
  readonly onMs: Milliseconds
}

/** Why a note was not written. */
export type LeftOut = 'too soft' | 'too short' | 'no staff for its channel' | 'written already'

/** How many were left out for each reason. */
export function countedByReason(leftOut: TakenDown['leftOut']): Readonly<Record<LeftOut, number>> {
  const counts = { 'too soft': 0, 'too short': 0, 'no staff for its channel': 0, 'written already': 0 }
  for (const { why } of leftOut) counts[why]++
  return counts
}

export interface TakenDown {
  readonly parts: readonly ReceiverPart[]
  readonly notes: readonly TakenDownNote[]
  /** Notes that stood there already: each with what stands there, and when it came again. */
  readonly again: readonly TakenDownNote[]
  readonly leftOut: readonly { readonly why: LeftOut; readonly onMs: Milliseconds }[]
  /** Beats that are written in threes, of each staff: quarters, by index. */
  readonly threes: ReadonlyMap<string, ReadonlySet<number>>
}

export function meterOf({ numerator, denominator }: ReceiverSettings): MeterMap {
  return new MeterMap([{ tick: 0, numerator, denominator }])
}

/** With three ledger lines, which a single staff still bears. */
const lowestOfTreble = 53
const highestOfBass = 67
const middle = 60

/** A part for each channel that something came on: percussion, one staff, or two where both sides of the middle are played. */
export function partsOfArrived(arrived: readonly ArrivedNote[]): ReceiverPart[] {
  const channels = [...new Set(arrived.map(({ channel }) => channel))].sort((a, b) => a - b)
  return channels.map((channel): ReceiverPart => {
    const name = `Channel ${channel}`
    const one = (clef: 'treble' | 'bass' | 'percussion'): ReceiverPart => ({
      name,
      staves: [{ clef, channel }],
      splitKey: middle,
    })
    if (channel === percussionChannel) return one('percussion')
    const keys = arrived.flatMap((note) => (note.channel === channel ? [note.key] : []))
    if (keys.every((key) => key >= lowestOfTreble)) return one('treble')
    if (keys.every((key) => key <= highestOfBass)) return one('bass')
    return {
      name,
      staves: [
        { clef: 'treble', channel },
        { clef: 'bass', channel },
      ],
      splitKey: middle,
    }
  })
}

/** The staff that a note is written on; null where none hears its channel. */
function staffFor(
  parts: readonly ReceiverPart[],
  { channel, key }: Pick<ArrivedNote, 'channel' | 'key'>,
): Pick<TakenDownNote, 'partIndex' | 'staff'> | null {
  for (const [partIndex, { staves, splitKey }] of parts.entries()) {
    const hears = staves.flatMap((staff, index) => (staff.channel === channel ? [index] : []))
    if (hears.length === 0) continue
    if (hears.length === 2) return { partIndex, staff: key >= splitKey ? 1 : 2 }
    return { partIndex, staff: hears[0] === 1 ? 2 : 1 }
  }
  return null
}

const none: ReadonlySet<number> = new Set()

/** A staff among those of all parts. */
export function staffAddress({ partIndex, staff }: Pick<TakenDownNote, 'partIndex' | 'staff'>): string {
  return `${partIndex} ${staff}`
}

const triplet: Ticks = TICKS_PER_QUARTER / 3

/**
 * What arrived as a plain program writes it: each onset and end at the nearest place of a grid, chords together, nothing found out
 * about the player. In simple meters a beat is written in threes where its onsets lie nearer to those.
 *
 * @param nowTicks what is still held lasts until here
 */
export function takeDown(
  arrived: readonly ArrivedNote[],
  settings: ReceiverSettings,
  msPerQuarter: Milliseconds,
  nowTicks: Ticks,
): TakenDown {
  const parts = settings.parts ?? partsOfArrived(arrived)
  const leftOut: { why: LeftOut; onMs: Milliseconds }[] = []
  const step: Ticks = (TICKS_PER_QUARTER * 4) / settings.smallest
  const chordTicks = (settings.chordWindowMs / msPerQuarter) * TICKS_PER_QUARTER
  const sorted = [...arrived]
    .sort((a, b) => a.onsetTicks - b.onsetTicks)
    .flatMap((note) => {
      const staff = staffFor(parts, note)
      const why =
        note.velocity < settings.lowestVelocity
          ? 'too soft'
          : note.lengthMs !== null && note.lengthMs < settings.shortestMs
            ? 'too short'
            : staff === null
              ? 'no staff for its channel'
              : null
      if (why === null && staff) return [{ ...note, ...staff }]
      if (why) leftOut.push({ why, onMs: note.onMs })
      return []
    })
  // What is struck together on a staff has the moment of its first.
  const firstOf = new Map<string, Ticks>()
  const together = sorted.map((note) => {
    const address = `${note.recording} ${staffAddress(note)}`
    const first = firstOf.get(address)
    const onsetTicks = first !== undefined && note.onsetTicks - first <= chordTicks ? first : note.onsetTicks
    firstOf.set(address, onsetTicks)
    return { ...note, onsetTicks }
  })
  const threes = new Map<string, ReadonlySet<number>>()
  if (settings.triplets)
    for (const address of new Set(together.map(staffAddress)))
      threes.set(
        address,
        beatsInThrees(
          together.filter((note) => staffAddress(note) === address),
          settings,
          step,
        ),
      )
  const taken: TakenDownNote[] = []
  const repeated: TakenDownNote[] = []
  const there = new Set<string>()
  for (const note of together) {
    const { onsetTicks, endTicks, channel, key, velocity, partIndex, staff, recording, onMs } = note
    const inThrees = threes.get(staffAddress(note)) ?? none
    const placeOf = (ticks: Ticks): Ticks => nearest(Math.max(0, ticks), step, inThrees)
    const onset = placeOf(onsetTicks)
    // On the grid that its beat has, so that the rest of the beat is written on it too.
    const shortest = inThrees.has(Math.floor(onset / TICKS_PER_QUARTER)) ? threesUnit(step) : step
    const end = Math.max(placeOf(endTicks ?? nowTicks), onset + shortest)
    const place = { onsetTicks: onset, endTicks: end, partIndex, staff, recording, onMs }
    const written: TakenDownNote = { channel, key, velocity, ...place }
    if (there.has(headAddress(written))) {
      leftOut.push({ why: 'written already', onMs })
      repeated.push(written)
      continue
    }
    there.add(headAddress(written))
    taken.push(written)
  }
  const notes = withoutOverlap(taken)
  const heads = new Map(notes.map((note) => [headAddress(note), note]))
  const again = repeated.map((note) => ({ ...note, endTicks: heads.get(headAddress(note))!.endTicks }))
  return { parts, notes, again, leftOut, threes }
}

/** A head on a staff: no second one stands there. */
function headAddress(note: Pick<TakenDownNote, 'partIndex' | 'staff' | 'key' | 'onsetTicks'>): string {
  return `${staffAddress(note)} ${note.key} ${note.onsetTicks}`
}

/** A key that is struck again ends there, as on any keyboard; what another recording wrote stays as it is. */
function withoutOverlap(notes: readonly TakenDownNote[]): TakenDownNote[] {
  const sorted = [...notes].sort((a, b) => a.onsetTicks - b.onsetTicks || a.key - b.key)
  const next = new Map<string, Ticks>()
  return sorted
    .reverse()
    .map((note) => {
      const address = `${note.recording} ${staffAddress(note)} ${note.key}`
      const endTicks = Math.min(note.endTicks, next.get(address) ?? note.endTicks)
      next.set(address, note.onsetTicks)
      return { ...note, endTicks }
    })
    .reverse()
}

function nearest(ticks: Ticks, step: Ticks, threes: ReadonlySet<number>): Ticks {
  const beat = Math.floor(ticks / TICKS_PER_QUARTER)
  // A beat in threes keeps its own grid; where it is coarser than that, the grid of the piece holds for its edges only.
  const unit = threes.has(beat) ? threesUnit(step) : Math.min(step, TICKS_PER_QUARTER)
  const start = beat * TICKS_PER_QUARTER
  const inBeat = Math.min(TICKS_PER_QUARTER, Math.round((ticks - start) / unit) * unit)
  return start + inBeat
}

/** Triplets of eighths, or of sixteenths where such are written. */
function threesUnit(step: Ticks): Ticks {
  return step <= TICKS_PER_QUARTER / 4 ? triplet / 2 : triplet
}

/** Beats whose onsets lie nearer to thirds than to the grid. */
function beatsInThrees(
  notes: readonly Pick<ArrivedNote, 'onsetTicks'>[],
  settings: ReceiverSettings,
  step: Ticks,
): Set<number> {
  const meter = meterOf(settings)
  if (isCompound(meter.measure(0))) return new Set()
  const off = new Map<number, { straight: number; threes: number; hasInner: boolean }>()
  const distance = (ticks: Ticks, unit: Ticks) => Math.abs(ticks - Math.round(ticks / unit) * unit)
  for (const { onsetTicks } of notes) {
    const beat = Math.floor(onsetTicks / TICKS_PER_QUARTER)
    if (beat < 0) continue
    const inBeat = onsetTicks - beat * TICKS_PER_QUARTER
    const sums = off.get(beat) ?? { straight: 0, threes: 0, hasInner: false }
    sums.straight += distance(inBeat, Math.min(step, TICKS_PER_QUARTER)) ** 2
    sums.threes += distance(inBeat, threesUnit(step)) ** 2
    const third = Math.round(inBeat / threesUnit(step))
    // Only a place that no other grid has tells of threes.
    sums.hasInner ||= third > 0 && (third * threesUnit(step)) % (TICKS_PER_QUARTER / 2) !== 0
    off.set(beat, sums)
  }
  return new Set(
    [...off].flatMap(([beat, { straight, threes, hasInner }]) =>
      hasInner && threes < straight ? [beat] : [],
    ),
  )
}
