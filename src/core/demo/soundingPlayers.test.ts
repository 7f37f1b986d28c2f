import { TempoMap } from '../time/tempoMap'
import { performSounding, soundingPlayers } from './soundingPlayers'

const tempoMap = new TempoMap([{ tick: 0, tempoBpm: 92 }])

describe.each(soundingPlayers.map((player) => [player.name, player] as const))('%s', (_name, player) => {
  test('plays a whole part, one tone at a time, in time and in tune as people do', () => {
    const tones = performSounding(player, tempoMap, 0)
    expect(tones.length).toBe(player.part.length)
    for (const [index, { timeMs, tone }] of tones.entries()) {
      const written = player.part[index]!
      expect(tone.key).toBe(written.key)
      expect(Math.abs(timeMs - tempoMap.msAt(written.onsetTicks))).toBeLessThan(80)
      expect(Math.abs(tone.offCents)).toBeLessThan(player.outOfTuneCents * 3.1)
      expect(tone.seconds).toBeGreaterThan(0.02)
      const next = tones[index + 1]
      if (next) expect(timeMs + tone.seconds * 1000).toBeLessThanOrEqual(next.timeMs + 1e-6)
    }
    const exact = tones.filter(({ tone }) => Math.abs(tone.offCents) < 0.01).length
    expect(exact).toBeLessThan(tones.length / 4)
  })

  test('the same performance comes again for the same variation, and another for another', () => {
    expect(performSounding(player, tempoMap, 0, 3)).toEqual(performSounding(player, tempoMap, 0, 3))
    expect(performSounding(player, tempoMap, 0, 4)).not.toEqual(performSounding(player, tempoMap, 0, 3))
  })

  test('begun in the middle, it plays what follows', () => {
    const from = player.part[10]!.onsetTicks
    const tones = performSounding(player, tempoMap, from)
    expect(tones.length).toBe(player.part.filter(({ onsetTicks }) => onsetTicks >= from).length)
    expect(Math.abs(tones[0]!.timeMs)).toBeLessThan(80)
  })
})
