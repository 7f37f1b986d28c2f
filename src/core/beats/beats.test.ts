import fc from 'fast-check'
import { MeterMap } from '../time/meterMap'
import { TempoMap } from '../time/tempoMap'
import { TICKS_PER_QUARTER } from '../time/units'
import { barLinesMs, beatOneAt, countedIn, halfAsFast, moveBeat, twiceAsFast } from './correctBars'
import { barsProblem, type FoundBars, findBars } from './findBars'
import { freeScores, inventedForTwoHands } from './freeMusic.testing'
import { type FreeMusic, momentsF1, playFreely } from './freePlayer.testing'
import { timeOfBars } from './timeOfBars'

function exactness(music: readonly FreeMusic[], seeds: readonly number[]) {
  let [beats, barLines, count] = [0, 0, 0]
  for (const [index, each] of music.entries())
    for (const seed of seeds) {
      const played = playFreely(each, seed * 7919 + index)
      const found = findBars(played.notes)!
      beats += momentsF1(found.beatsMs, played.beatsMs)
      barLines += momentsF1(barLinesMs(found), played.barLinesMs)
      count++
    }
  return { beats: beats / count, barLines: barLines / count }
}

describe('beats and bars of what was played without a click', () => {
  // Measure and tolerance: S. Dixon, 2001. Scores: in the public domain, by the composers named with them. No weight was fitted on them;
  // two settings (how much beats are trusted together, what a piece costs that does not end on its tonic) were chosen with them in view.
  test('published scores, and two hands in three and four, with and without a pickup', () => {
    const invented = [3, 4].flatMap((beats) =>
      [1, 2, 3, 4, 5].map((seed) => inventedForTwoHands(beats as 3 | 4, seed * 97, 24, seed % 2)),
    )
    const published = exactness(freeScores, [1])
    expect(published.beats).toBeGreaterThan(0.92)
    expect(published.barLines).toBeGreaterThan(0.8)
    const all = exactness([...freeScores, ...invented], [2])
    expect(all.beats).toBeGreaterThan(0.92)
    expect(all.barLines).toBeGreaterThan(0.8)
  })

  test('too little to find bars in, and too much', () => {
    expect(findBars([])).toBeNull()
    expect(findBars([{ onsetMs: 0, endMs: 100, key: 60, velocity: 80 }])).toBeNull()
    const farApart = Array.from({ length: 6 }, (_, index) => ({
      onsetMs: index * 3_600_000,
      endMs: index * 3_600_000 + 100,
      key: 60,
      velocity: 80,
    }))
    expect(findBars(farApart)).toBeNull()
    expect(barsProblem(farApart)).toBe('The notes go on for 5.0 hours; bars are found in up to 3 hours')
  })

  test('a long silence is counted through, and beats after it are found anew', () => {
    const run = (startMs: number, lengthMs: number) =>
      Array.from({ length: 24 }, (_, index) => ({
        onsetMs: startMs + index * lengthMs,
        endMs: startMs + (index + 0.9) * lengthMs,
        key: index % 4 === 0 ? 40 : 60,
        velocity: index % 4 === 0 ? 100 : 70,
      }))
    const found = findBars([...run(0, 500), ...run(3_600_000, 640)])!
    const near = (fromMs: number) =>
      found.beatsMs.filter((beatMs) => beatMs >= fromMs && beatMs < fromMs + 6000)
    for (const [index, beatMs] of near(-50).slice(0, 11).entries())
      expect(beatMs).toBeCloseTo(index * 500, -2)
    const after = near(3_600_000 - 50)
    expect(after[5]! - after[4]!).toBeCloseTo(640, -2)
    for (const [beat, beatMs] of found.beatsMs.entries())
      if (beat > 0) expect(beatMs - found.beatsMs[beat - 1]!).toBeGreaterThan(300)
  })

  test('whatever is played, beats follow each other', () => {
    const note = fc.record({
      onsetMs: fc.integer({ min: 0, max: 20_000 }),
      lengthMs: fc.integer({ min: 1, max: 3000 }),
      key: fc.integer({ min: 0, max: 127 }),
      velocity: fc.integer({ min: 1, max: 127 }),
    })
    fc.assert(
      fc.property(fc.array(note, { minLength: 1, maxLength: 40 }), (played) => {
        const notes = played
          .map(({ onsetMs, lengthMs, ...rest }) => ({ ...rest, onsetMs, endMs: onsetMs + lengthMs }))
          .sort((a, b) => a.onsetMs - b.onsetMs)
        const found = findBars(notes)
        if (!found) return
        expect(found.beatsMs.length).toBeGreaterThan(1)
        for (const [beat, beatMs] of found.beatsMs.entries())
          if (beat > 0) expect(beatMs).toBeGreaterThan(found.beatsMs[beat - 1]!)
        expect(found.pickupBeats).toBeLessThan(found.beatsPerBar)
      }),
      { numRuns: 25 },
    )
  })
})

const even = (startMs: number, pickupBeats: number, beatsPerBar: 2 | 3 | 4 = 4): FoundBars => ({
  beatsMs: Array.from({ length: 20 }, (_, beat) => startMs + beat * 500),
  division: 2,
  beatsPerBar,
  pickupBeats,
  confidence: 0.5,
})

describe('tempi and meters for found bars', () => {
  const barLinesOf = (found: FoundBars) => {
    const { tempos, meters } = timeOfBars(found)
    const tempoMap = new TempoMap(tempos)
    return new MeterMap(meters)
      .measuresUntil(tempoMap.ticksAt(found.beatsMs.at(-1)!) + 2)
      .map(({ startTicks }) => tempoMap.msAt(startTicks))
  }

  test('bar lines and beats fall where they were played', () => {
    const found = fc.record({
      startMs: fc.integer({ min: 0, max: 9000 }),
      lengths: fc.array(fc.integer({ min: 300, max: 1100 }), { minLength: 5, maxLength: 40 }),
      beatsPerBar: fc.constantFrom(2 as const, 3 as const, 4 as const),
      division: fc.constantFrom(2 as const, 3 as const),
      pickup: fc.integer({ min: 0, max: 3 }),
    })
    fc.assert(
      fc.property(found, ({ startMs, lengths, beatsPerBar, division, pickup }) => {
        const beatsMs = [startMs]
        for (const length of lengths) beatsMs.push(beatsMs.at(-1)! + length)
        const bars: FoundBars = {
          beatsMs,
          division,
          beatsPerBar,
          pickupBeats: pickup % beatsPerBar,
          confidence: 1,
        }
        const { tempos } = timeOfBars(bars)
        const tempoMap = new TempoMap(tempos)
        const beatTicks = (division === 3 ? 1.5 : 1) * TICKS_PER_QUARTER
        const lines = barLinesOf(bars)
        for (const lineMs of barLinesMs(bars)) {
          const nearest = Math.min(...lines.map((line) => Math.abs(line - lineMs)))
          // A beat that lies at the very beginning is taken as the beginning.
          expect(nearest).toBeLessThan(lineMs <= 80 ? 81 : 0.5)
        }
        const [a, b] = [tempoMap.ticksAt(beatsMs[2]!), tempoMap.ticksAt(beatsMs[3]!)]
        expect(b - a).toBeCloseTo(beatTicks, 3)
      }),
      { numRuns: 200 },
    )
  })

  test('silence before the music is of whole bars where it fits', () => {
    expect(timeOfBars(even(2000, 0)).meters).toEqual([{ tick: 0, numerator: 4, denominator: 4 }])
    expect(timeOfBars(even(1500, 1)).meters).toEqual([{ tick: 0, numerator: 4, denominator: 4 }])
    expect(timeOfBars(even(0, 0)).meters).toEqual([{ tick: 0, numerator: 4, denominator: 4 }])
  })

  test('a pickup at the very beginning is a short first bar', () => {
    expect(timeOfBars(even(0, 1)).meters).toEqual([
      { tick: 0, numerator: 1, denominator: 4 },
      { tick: TICKS_PER_QUARTER, numerator: 4, denominator: 4 },
    ])
    // Half a beat of it, as in music that begins with an upbeat of an eighth.
    expect(timeOfBars({ ...even(-250, 1) }).meters[0]).toEqual({ tick: 0, numerator: 1, denominator: 8 })
  })
})

describe('corrections', () => {
  test('twice and half as fast', () => {
    const found = even(1000, 1)
    expect(twiceAsFast(found).beatsMs).toHaveLength(39)
    expect(barLinesMs(halfAsFast(found))[0]).toBe(barLinesMs(found)[0])
    expect(halfAsFast(twiceAsFast(found)).beatsMs).toEqual(found.beatsMs)
    const quick = { ...found, beatsMs: found.beatsMs.map((beatMs) => beatMs / 4) }
    expect(twiceAsFast(quick)).toBe(quick)
    const slow = { ...found, beatsMs: found.beatsMs.map((beatMs) => beatMs * 11) }
    expect(halfAsFast(slow)).toBe(slow)
  })

  test('beat one, beats to the bar, a beat that was moved', () => {
    const found = even(0, 0)
    expect(barLinesMs(beatOneAt(found, 1040))[0]).toBe(1000)
    expect(barLinesMs(countedIn(found, 3)).slice(0, 3)).toEqual([0, 1500, 3000])
    expect(moveBeat(found, 2, 1100).beatsMs[2]).toBe(1100)
    expect(moveBeat(found, 2, 9000).beatsMs[2]).toBe(1400)
    expect(moveBeat(found, 99, 0)).toBe(found)
  })
})
