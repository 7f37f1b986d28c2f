import type { MeterChange } from '../time/meterMap'
import type { TempoChange } from '../time/tempoMap'
import { type Milliseconds, TICKS_PER_QUARTER, type Ticks } from '../time/units'
import type { FoundBars } from './findBars'

/** A beat so near to the beginning is at the beginning. */
const nearMs: Milliseconds = 80

/** Silence before the music is whole bars, up to so many times as fast as the music; otherwise the first bar is a short one. */
const fastestLead = 6

/** Tempi a piece can have, in beats a minute of any kind. */
const [lowestTempoBpm, highestTempoBpm] = [4, 1000]

/**
 * The tempi and meters under which found bars fall where they were played, while the beginning of the piece stays at 0 ms. One
 * tempo for each beat. Before the first bar line there is silence of whole bars where that fits, otherwise a short bar.
 *
 * @param found its beats, two at least
 */
export function timeOfBars({ beatsMs, division, beatsPerBar, pickupBeats }: FoundBars): {
  readonly tempos: readonly TempoChange[]
  readonly meters: readonly MeterChange[]
} {
  const beatTicks: Ticks = division === 3 ? TICKS_PER_QUARTER * 1.5 : TICKS_PER_QUARTER
  const { first, leadMs, leadBeats, barBeats } = leadIn(beatsMs, division, beatsPerBar, pickupBeats)
  const tempos: TempoChange[] = []
  let tick: Ticks = 0
  const add = (beats: number, lengthMs: Milliseconds) => {
    const tempoBpm = (60_000 * beats * beatTicks) / TICKS_PER_QUARTER / lengthMs
    tempos.push({ tick, tempoBpm: Math.min(highestTempoBpm, Math.max(lowestTempoBpm, tempoBpm)) })
    tick += Math.round(beats * beatTicks)
  }
  if (leadBeats > 0) add(leadBeats, leadMs)
  // The first beat begins at 0 ms where nothing leads in to it.
  for (let beat = first; beat + 1 < beatsMs.length; beat++)
    add(1, beatsMs[beat + 1]! - (beat === first && leadBeats === 0 ? 0 : beatsMs[beat]!))
  const numerator = division === 3 ? beatsPerBar * 3 : beatsPerBar
  const meter = { numerator, denominator: division === 3 ? 8 : 4 }
  const shortBeats = barBeats % beatsPerBar
  return {
    tempos,
    meters:
      shortBeats === 0
        ? [{ tick: 0, ...meter }]
        : [
            { tick: 0, ...meterOfLength(shortBeats * beatTicks) },
            { tick: Math.round(shortBeats * beatTicks), ...meter },
          ],
  }
}

/**
 * What comes before the first beat that is written as it was played.
 *
 * @returns `first` of the beats, what leads in to it, and how many beats lie before the first bar line in all
 */
function leadIn(
  beatsMs: readonly Milliseconds[],
  division: FoundBars['division'],
  beatsPerBar: number,
  pickupBeats: number,
): {
  readonly first: number
  readonly leadMs: Milliseconds
  readonly leadBeats: number
  readonly barBeats: number
} {
  const anchor = beatsMs.findIndex((beatMs) => Math.abs(beatMs) <= nearMs)
  if (anchor >= 0) {
    const barBeats = pickupBeats - anchor
    return { first: anchor, leadMs: 0, leadBeats: 0, barBeats: mod(barBeats, beatsPerBar) }
  }
  const first = beatsMs.findIndex((beatMs) => beatMs > nearMs)
  const leadMs = beatsMs[first]!
  const near = Math.max(0, Math.min(first, beatsMs.length - 2))
  const usualMs = beatsMs[near + 1]! - beatsMs[near]!
  const asPlayed = leadMs / usualMs
  const parts = division === 3 ? 3 : 4
  const inBeat = Math.max(1, Math.round(asPlayed * parts)) / parts
  const own = first > 0 ? Math.min(1, inBeat) : asPlayed < 0.9 ? inBeat : Math.round(asPlayed)
  const later = mod(pickupBeats - first, beatsPerBar)
  // Silence of whole bars: nobody hears how fast it is.
  const fitting = [Math.floor((own + later) / beatsPerBar), Math.ceil((own + later) / beatsPerBar)]
    .map((bars) => bars * beatsPerBar - later)
    .filter(
      (beats) =>
        beats > 0 &&
        beats / asPlayed <= fastestLead &&
        (60_000 * beats * (division === 3 ? 1.5 : 1)) / leadMs < highestTempoBpm,
    )
    .sort((a, b) => Math.abs(Math.log(a / asPlayed)) - Math.abs(Math.log(b / asPlayed)))
  const leadBeats = first > 0 ? own : (fitting[0] ?? own)
  return { first, leadMs, leadBeats, barBeats: leadBeats + later }
}

/** The meter of a bar of any length on the grid: one eighth is 1/8, three sixteenths 3/16. */
function meterOfLength(lengthTicks: Ticks): { numerator: number; denominator: number } {
  for (const denominator of [4, 8, 16, 32]) {
    const numerator = (lengthTicks * denominator) / (TICKS_PER_QUARTER * 4)
    if (Number.isInteger(numerator)) return { numerator, denominator }
  }
  return { numerator: Math.max(1, Math.round((lengthTicks * 32) / (TICKS_PER_QUARTER * 4))), denominator: 32 }
}

function mod(value: number, by: number): number {
  return ((value % by) + by) % by
}
