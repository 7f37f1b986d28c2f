import fc from 'fast-check'
import { chance } from '../effects/chance'
import {
  ClockFollower,
  clockStatus,
  isClockStatus,
  lostClockMs,
  songPositionBytes,
  songPositionTicks,
  ticksPerClock,
} from './clock'

describe('numbers of the MIDI 1.0 Detailed Specification', () => {
  test('24 clocks to the quarter, six to the sixteenth that song position counts', () => {
    expect(ticksPerClock * 24).toBe(10_080)
    expect(ticksPerClock * 6).toBe(10_080 / 4)
  })

  test('status bytes: F2 position, F8 clock, FA start, FB continue, FC stop', () => {
    expect(clockStatus).toEqual({ songPosition: 0xf2, clock: 0xf8, start: 0xfa, continue: 0xfb, stop: 0xfc })
    expect([0xf0, 0xf1, 0xf2, 0xf7, 0xf8, 0xf9, 0xfa, 0xfb, 0xfc, 0xfe].filter(isClockStatus)).toEqual([
      0xf2, 0xf8, 0xfa, 0xfb, 0xfc,
    ])
  })

  test('song position has 14 bits, the lower seven first', () => {
    // Bar 9 of 4/4 is 128 sixteenths in: 0 and 1.
    expect(songPositionBytes(8 * 40_320)).toEqual([0xf2, 0, 1])
    expect(songPositionTicks(0, 1)).toBe(8 * 40_320)
    expect(songPositionBytes(1e12)).toEqual([0xf2, 0x7f, 0x7f])
  })

  test('there and back, for any sixteenth', () => {
    fc.assert(
      fc.property(fc.nat(16_383), (sixteenth) => {
        const [, lsb, msb] = songPositionBytes(sixteenth * 2520)
        expect(songPositionTicks(lsb, msb)).toBe(sixteenth * 2520)
      }),
    )
  })
})

/** Plays a clock at a tempo, off by up to ±`jitterMs`, and gives the worst errors after it has settled. */
function follow(tempoBpm: number, jitterMs: number, quarters: number, seed = 1) {
  const follower = new ClockFollower()
  const msPerClock = 60_000 / tempoBpm / 24
  const startMs = 5000
  follower.receive(clockStatus.start, 0, 0, startMs - 1)
  let [tempoError, positionErrorMs] = [0, 0]
  for (let clock = 0; clock < quarters * 24; clock++) {
    const dueMs = startMs + clock * msPerClock
    follower.receive(clockStatus.clock, 0, 0, dueMs + (chance(seed, clock, 1) * 2 - 1) * jitterMs)
    const followed = follower.at(dueMs)
    if (clock < 8 * 24 || followed.state !== 'running') continue
    tempoError = Math.max(tempoError, Math.abs(followed.tempoBpm / tempoBpm - 1))
    const msPerTick = 60_000 / tempoBpm / 10_080
    const due = (followed.timeMs - startMs) / msPerTick
    positionErrorMs = Math.max(positionErrorMs, Math.abs(followed.ticks - due) * msPerTick)
  }
  return { follower, tempoError, positionErrorMs, endMs: startMs + quarters * 24 * msPerClock }
}

describe('following a clock', () => {
  test('exact clocks give the exact tempo and position', () => {
    const { tempoError, positionErrorMs } = follow(120, 0, 16)
    expect(tempoError).toBeLessThan(1e-9)
    expect(positionErrorMs).toBeLessThan(1e-6)
  })

  test.each([40, 92, 120, 174, 240])('at %d quarters a minute, ±3 ms of jitter hardly matter', (tempoBpm) => {
    for (let seed = 1; seed < 6; seed++) {
      const { tempoError, positionErrorMs } = follow(tempoBpm, 3, 64, seed)
      expect(tempoError).toBeLessThan(0.001)
      expect(positionErrorMs).toBeLessThan(2)
    }
  })

  test('a new tempo is found within two quarters', () => {
    const { follower, endMs } = follow(100, 1, 16)
    const msPerClock = 60_000 / 140 / 24
    for (let clock = 0; clock < 48; clock++)
      follower.receive(clockStatus.clock, 0, 0, endMs + clock * msPerClock)
    const followed = follower.at(endMs + 48 * msPerClock)
    expect(followed.state).toBe('running')
    expect(followed.tempoBpm!).toBeGreaterThan(138)
    expect(followed.tempoBpm!).toBeLessThan(142)
  })

  test('stops with stop, and where it stopped is known', () => {
    const { follower, endMs } = follow(120, 0, 8)
    follower.receive(clockStatus.stop, 0, 0, endMs)
    const followed = follower.at(endMs)
    expect(followed.state).toBe('stopped')
    expect(followed.ticks).toBe(8 * 10_080)
  })

  test('continues from there, or from the position it is given', () => {
    const { follower, endMs } = follow(120, 0, 8)
    follower.receive(clockStatus.stop, 0, 0, endMs)
    const clocks = (fromMs: number) => {
      for (let clock = 0; clock <= 24; clock++)
        follower.receive(clockStatus.clock, 0, 0, fromMs + (clock * 500) / 24)
    }
    follower.receive(clockStatus.continue, 0, 0, endMs + 1000)
    clocks(endMs + 1001)
    expect(follower.at(endMs + 1501).ticks).toBeCloseTo(9 * 10_080, 0)
    follower.receive(clockStatus.stop, 0, 0, endMs + 1502)
    follower.receive(clockStatus.songPosition, 0, 1, endMs + 1600)
    follower.receive(clockStatus.continue, 0, 0, endMs + 1700)
    clocks(endMs + 1800)
    expect(follower.at(endMs + 2300).ticks).toBeCloseTo(8 * 40_320 + 10_080, 0)
  })

  test('a clock that is not heard any more has stopped', () => {
    const { follower, endMs } = follow(120, 0, 8)
    expect(follower.at(endMs + lostClockMs - 50).state).toBe('running')
    expect(follower.at(endMs + lostClockMs + 50).state).toBe('stopped')
  })

  test('clocks before start run nothing', () => {
    const follower = new ClockFollower()
    for (let clock = 0; clock < 48; clock++) follower.receive(clockStatus.clock, 0, 0, clock * 20)
    expect(follower.at(960)).toMatchObject({ state: 'stopped' })
    expect(follower.at(960).tempoBpm).toBeCloseTo(125, 6)
  })
})
