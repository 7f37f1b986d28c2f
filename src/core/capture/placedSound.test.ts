import { TICKS_PER_QUARTER } from '../time/units'
import { placedSound } from './placedSound'
import type { TakeInfo } from './takeInfo'

const take: TakeInfo = {
  serial: 1,
  name: 'Take 1',
  recordedAtMs: 0,
  startTicks: 4 * TICKS_PER_QUARTER,
  anchorMs: 100_000,
  durationMs: 8000,
  eventCount: 10,
  tempos: [{ tick: 0, tempoBpm: 120 }],
  listeners: [],
  compensations: [],
  earlyMs: 0,
  loop: null,
  clockPoints: [],
  chains: [],
}
const quartersAt = (of: TakeInfo, epochMs: number) =>
  placedSound(of, 'sound:a').ticksAt(epochMs) / TICKS_PER_QUARTER

describe('where the sound of a take lies', () => {
  test('along the tempi it was played to', () => {
    expect(quartersAt(take, 100_000)).toBeCloseTo(4, 6)
    expect(quartersAt(take, 102_000)).toBeCloseTo(8, 6)
    expect(placedSound(take, 'sound:a').stretch).toEqual({ fromMs: 100_000, toMs: 108_000 })
  })

  test('a tempo that changes in the middle of it', () => {
    const changing = {
      ...take,
      tempos: [
        { tick: 0, tempoBpm: 120 },
        { tick: 6 * TICKS_PER_QUARTER, tempoBpm: 60 },
      ],
    }
    expect(quartersAt(changing, 101_000)).toBeCloseTo(6, 6)
    expect(quartersAt(changing, 103_000)).toBeCloseTo(8, 6)
  })

  test('by what is taken off for its player: said of the channel before the port, and of nobody else', () => {
    const late = {
      ...take,
      compensations: [
        { portId: 'sound:a', channel: null, compensationMs: 500 },
        { portId: 'sound:a', channel: 1, compensationMs: 250 },
        { portId: 'sound:b', channel: 1, compensationMs: 900 },
      ],
    }
    expect(quartersAt(late, 100_250)).toBeCloseTo(4, 6)
    expect(placedSound(late, 'sound:a').stretch).toEqual({ fromMs: 100_250, toMs: 108_250 })
    expect(placedSound(late, 'sound:c').stretch).toEqual({ fromMs: 100_000, toMs: 108_000 })
  })

  test('along a clock that was followed, which is not the piece’s tempo', () => {
    const followed = {
      ...take,
      clockPoints: [0, 1, 2, 3].map((beat) => ({
        timeMs: 100_000 + beat * 800,
        ticks: (4 + beat) * TICKS_PER_QUARTER,
      })),
    }
    expect(quartersAt(followed, 100_800)).toBeCloseTo(5, 6)
    expect(quartersAt(followed, 102_000)).toBeCloseTo(6.5, 6)
    expect(quartersAt(followed, 104_000)).toBeCloseTo(9, 6)
  })
})
