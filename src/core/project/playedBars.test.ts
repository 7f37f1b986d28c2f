import { barLinesMs } from '../beats/correctBars'
import { findBars } from '../beats/findBars'
import { inventedForTwoHands } from '../beats/freeMusic.testing'
import { playFreely } from '../beats/freePlayer.testing'
import { barsOfTaps } from '../beats/tappedBeats'
import { drawnNote } from '../event/notes.testing'
import { TempoMap } from '../time/tempoMap'
import { contextOf } from './context'
import { emptyProject, newClip, newTrack } from './create'
import { scoreOf } from './onPage'
import { layBars, timedNotesOf } from './playedBars'

const played = playFreely(inventedForTwoHands(3, 5, 16, 1), 11)

const clock = new TempoMap([{ tick: 0, tempoBpm: 120 }])

/** What was played, recorded at 120 to the minute that nobody heard. */
const recorded = (() => {
  const notes = played.notes.map(({ onsetMs, endMs, key, velocity }, index) =>
    drawnNote({
      id: index + 1,
      onsetTicks: Math.round(clock.ticksAt(onsetMs)),
      durationTicks: Math.max(1, Math.round(clock.ticksAt(endMs) - clock.ticksAt(onsetMs))),
      key,
      velocity,
    }),
  )
  const empty = {
    ...emptyProject('free', 'Free', 0),
    tempos: [{ tick: 0, tempoBpm: 120 }],
    sections: [{ tick: 100_800, name: 'A' }],
  }
  return newTrack(empty, {
    name: 'Piano',
    instrument: { kind: 'program', program: 0 },
    clips: [newClip('c', 'c', notes)],
  }).project
})()

test('bars are laid where they were played: nothing moves in time, and sections go with the music', () => {
  const found = findBars(timedNotesOf(recorded))!
  const laid = layBars(recorded, found)
  const [before, after] = [timedNotesOf(recorded), timedNotesOf(laid)]
  expect(after).toHaveLength(before.length)
  for (const [index, note] of after.entries()) {
    expect(note.key).toBe(before[index]!.key)
    expect(Math.abs(note.onsetMs - before[index]!.onsetMs)).toBeLessThan(0.2)
    expect(Math.abs(note.endMs - before[index]!.endMs)).toBeLessThan(0.4)
  }
  const { tempoMap, meterMap } = contextOf(laid)
  const lines = meterMap.measuresUntil(laid.tracks[0]!.clips[0]!.notes.at(-1)!.onsetTicks + 1)
  const linesMs = lines.map(({ startTicks }) => tempoMap.msAt(startTicks))
  for (const lineMs of barLinesMs(found))
    expect(Math.min(...linesMs.map((ms) => Math.abs(ms - lineMs)))).toBeLessThan(1)
  expect(tempoMap.msAt(laid.sections[0]!.tick)).toBeCloseTo(5000, 0)
  expect(scoreOf(laid).measures.length).toBeLessThanOrEqual(20)
})

test('taps along to it, a little off, give its beats to the end', () => {
  const taps = played.beatsMs.slice(3, 12).map((beatMs, index) => beatMs + (index % 2 === 0 ? 35 : -30))
  const found = barsOfTaps(timedNotesOf(recorded), taps)!
  const near = played.beatsMs.slice(3, 12)
  const own = found.beatsMs.filter((beatMs) => beatMs > near[0]! - 100 && beatMs < near.at(-1)! + 100)
  expect(own).toHaveLength(near.length)
  for (const [index, beatMs] of own.entries()) expect(Math.abs(beatMs - near[index]!)).toBeLessThan(50)
  expect(found.beatsMs[0]!).toBeLessThanOrEqual(played.notes[0]!.onsetMs + 200)
  expect(barLinesMs(found).length).toBeGreaterThan(8)
  expect(barsOfTaps(timedNotesOf(recorded), taps.slice(0, 3))).toBeNull()
  expect(barsOfTaps(timedNotesOf(recorded), [1000, 1001, 1002, 1003, 1004])).toBeNull()
  expect(barsOfTaps([], taps)).toBeNull()
  // Beats that were missed in between are there all the same.
  const missing = barsOfTaps(
    timedNotesOf(recorded),
    taps.filter((_, index) => index !== 2 && index !== 5 && index !== 6),
  )!
  for (const beatMs of near)
    expect(Math.min(...missing.beatsMs.map((each) => Math.abs(each - beatMs)))).toBeLessThan(70)
  const gaps = missing.beatsMs.slice(1).map((beatMs, index) => beatMs - missing.beatsMs[index]!)
  expect(Math.max(...gaps)).toBeLessThan(1.6 * Math.min(...gaps))
})
