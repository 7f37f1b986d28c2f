import type { Instrument } from '../midi/instrument'
import { firstIndex } from '../time/firstIndex'
import type { Measure } from '../time/meterMap'
import type { Ticks } from '../time/units'
import { clefWeights as weights } from './clefWeights'
import type { WrittenNote } from './rhythm/rhythm'
import type { Clef, ClefChange, OctaveLine } from './score'

/** The clefs of one staff in the course of a piece, and where it is written an octave off. */
export interface StaffClefs {
  /** At the beginning. */
  readonly clef: Clef
  readonly changes: readonly Omit<ClefChange, 'staff'>[]
  readonly octaveLines: readonly Omit<OctaveLine, 'staff'>[]
}

/** Diatonic number (C4 is 28) of the lowest line of the staff in each clef, as it sounds. */
const lowestLine: Readonly<Record<Exclude<Clef, 'percussion'>, number>> = {
  treble: 30,
  'treble 8vb': 23,
  alto: 24,
  tenor: 22,
  bass: 18,
  'bass 8vb': 11,
}
const stepsOfKey = [0, 0, 1, 1, 2, 3, 3, 4, 4, 5, 5, 6]

/**
 * How many ledger lines a key is written with; sharps and naturals are spelled upwards for that.
 *
 * @param octaves written so many octaves lower than it sounds
 */
export function ledgerLines(key: number, clef: Clef, octaves = 0): number {
  if (clef === 'percussion') return 0
  const step = Math.floor(key / 12) * 7 - 7 + stepsOfKey[key % 12]! - 7 * octaves
  const [low, high] = [lowestLine[clef], lowestLine[clef] + 8]
  return Math.max(0, Math.floor((low - step) / 2), Math.floor((step - high) / 2))
}

/** General MIDI programs (from 0) that have more clefs than one, or one that is not their range's, the usual one first. */
const clefsOfProgram: ReadonlyMap<number, readonly Clef[]> = new Map<number, readonly Clef[]>([
  [41, ['alto', 'treble']],
  [42, ['bass', 'tenor', 'treble']],
  [57, ['bass', 'tenor']],
  [70, ['bass', 'tenor']],
])

/** Violins, brass but trombone and tuba, reeds but bassoon, pipes, voices: written in the treble clef whatever they play. */
const trebleOnly = new Set([
  40, 52, 53, 54, 56, 59, 60, 61, 64, 65, 66, 68, 69, 71, 72, 73, 74, 75, 76, 77, 78, 79,
])

/** The clefs a staff may have, the one it has without need of another first. */
export function clefsFor(home: Clef, instrument: Instrument, isOnTwo: boolean): readonly Clef[] {
  if (home === 'percussion' || home === 'treble 8vb' || home === 'bass 8vb') return [home]
  if (isOnTwo || instrument.kind !== 'program')
    return home === 'treble' ? ['treble', 'bass'] : ['bass', 'treble']
  const own = clefsOfProgram.get(instrument.program)
  if (own) return own
  if (trebleOnly.has(instrument.program)) return [home]
  return home === 'treble' ? ['treble', 'bass'] : ['bass', 'treble']
}

/** A clef and how many octaves lower than it sounds the staff is written. */
interface Writing {
  readonly clef: Clef
  readonly octaves: number
}

/** Octave lines go up from the treble clef and down from the bass clef; other clefs have none. */
function writingsOf(clefs: readonly Clef[]): Writing[] {
  return clefs.flatMap((clef) => {
    const octaves = clef.startsWith('treble') ? [0, 1, 2] : clef.startsWith('bass') ? [0, -1] : [0]
    return octaves.map((each) => ({ clef, octaves: each }))
  })
}

export interface ClefOptions {
  /** Whether several voices share the staff in a bar; octave lines then begin and end with the bar. */
  readonly isShared?: (bar: number) => boolean
  /** Of a transposing instrument: semitones that its notes are written above their sound. */
  readonly writtenAbove?: number
}

/**
 * Finds the clefs of a staff: those under which the whole piece has the fewest ledger lines, with as few changes as that takes.
 * Clefs change at bar lines; octave lines begin and end at any note. The best way through the piece is found by dynamic programming.
 *
 * @param notes of the staff, in order of onset
 * @param clefs that it may have, the usual one first
 */
export function findClefs(
  notes: readonly WrittenNote[],
  measures: readonly Measure[],
  clefs: readonly Clef[],
  { isShared = () => false, writtenAbove = 0 }: ClefOptions = {},
): StaffClefs {
  const moments = momentsOf(notes, measures, isShared, writtenAbove)
  const writings = writingsOf(clefs)
  if (moments.length === 0 || writings.length === 1) return { clef: clefs[0]!, changes: [], octaveLines: [] }
  let costs = writings.map((writing) => startCost(writing, clefs[0]!))
  const back: number[][] = []
  for (const { keys, isFirstInBar, isClear } of moments) {
    const from: number[] = []
    costs = writings.map((writing, to) => {
      let least = Number.POSITIVE_INFINITY
      for (const [before, cost] of costs.entries()) {
        const total = cost + changeCost(writings[before]!, writing, isFirstInBar, isClear)
        if (total < least) {
          least = total
          from[to] = before
        }
      }
      return least + momentCost(keys, writing, clefs.indexOf(writing.clef))
    })
    back.push(from)
  }
  const chosen: Writing[] = new Array(moments.length)
  let state = costs.indexOf(Math.min(...costs))
  for (let index = moments.length - 1; index >= 0; index--) {
    chosen[index] = writings[state]!
    state = back[index]![state]!
  }
  return {
    clef: chosen[0]!.clef,
    changes: chosen.flatMap(({ clef }, index) =>
      index > 0 && clef !== chosen[index - 1]!.clef ? [{ bar: moments[index]!.bar, clef }] : [],
    ),
    octaveLines: linesOf(chosen, moments),
  }
}

/** Notes of a staff that begin together. */
interface Moment {
  readonly onsetTicks: Ticks
  readonly endTicks: Ticks
  readonly keys: readonly number[]
  /** Index of its measure. */
  readonly bar: number
  readonly isFirstInBar: boolean
  /** An octave line may begin or end here. No note sounds on into it: all of a tied note is under one line, or under none. */
  readonly isClear: boolean
}

function momentsOf(
  notes: readonly WrittenNote[],
  measures: readonly Measure[],
  isShared: (bar: number) => boolean,
  writtenAbove: number,
): Moment[] {
  const moments: (Omit<Moment, 'keys' | 'endTicks'> & { keys: number[]; endTicks: Ticks })[] = []
  let latestEnd = 0
  for (const { onsetTicks, endTicks, note } of notes) {
    const last = moments.at(-1)
    if (last?.onsetTicks === onsetTicks) {
      last.keys.push(note.key + writtenAbove)
      last.endTicks = Math.max(last.endTicks, endTicks)
      latestEnd = Math.max(latestEnd, endTicks)
      continue
    }
    const bar = firstIndex(measures.length, (index) => measures[index]!.startTicks > onsetTicks) - 1
    const isFirstInBar = bar !== last?.bar
    const isClear = latestEnd <= onsetTicks && (isFirstInBar || !isShared(bar))
    moments.push({ onsetTicks, endTicks, keys: [note.key + writtenAbove], bar, isFirstInBar, isClear })
    latestEnd = Math.max(latestEnd, endTicks)
  }
  return moments
}

function startCost({ clef, octaves }: Writing, home: Clef): number {
  return (clef === home ? 0 : weights.otherStart) + (octaves === 0 ? 0 : weights.octaveBegins)
}

function changeCost(before: Writing, after: Writing, isFirstInBar: boolean, isClear: boolean): number {
  if (before === after) return 0
  let cost = 0
  if (before.octaves !== after.octaves) {
    if (!isClear) return Number.POSITIVE_INFINITY
    if (after.octaves !== 0) cost += weights.octaveBegins
    if (before.octaves !== 0) cost += weights.octaveEnds
  }
  if (before.clef === after.clef) return cost
  return isFirstInBar ? cost + weights.clefChange : Number.POSITIVE_INFINITY
}

/** @param unusual how far down the list of the staff's clefs this one is */
function momentCost(keys: readonly number[], { clef, octaves }: Writing, unusual: number): number {
  let cost = unusual * weights.away + Math.abs(octaves) * weights.underOctaveLine
  for (const key of keys) {
    const lines = ledgerLines(key, clef, octaves)
    cost +=
      weights.lines[Math.min(lines, weights.lines.length - 1)]! +
      Math.max(0, lines - weights.lines.length) * weights.furtherLine
  }
  return cost
}

/** Octave lines from the first note under them to the end of the last, at most to the next note. */
function linesOf(chosen: readonly Writing[], moments: readonly Moment[]): Omit<OctaveLine, 'staff'>[] {
  const lines: Omit<OctaveLine, 'staff'>[] = []
  for (let first = 0; first < chosen.length; ) {
    const { octaves } = chosen[first]!
    let last = first
    while (last + 1 < chosen.length && chosen[last + 1]!.octaves === octaves) last++
    const next = moments[last + 1]
    if (octaves !== 0)
      lines.push({
        startTicks: moments[first]!.onsetTicks,
        endTicks: Math.min(moments[last]!.endTicks, next?.onsetTicks ?? Number.POSITIVE_INFINITY),
        octaves: octaves as OctaveLine['octaves'],
      })
    first = last + 1
  }
  return lines
}
