import fc from 'fast-check'
import { type FollowedEvent, LineFollower } from './lineFollower'
import { listenerSettingsOf, listeningRate } from './listenerSettings'

import { bowed, joined, plucked, silence, tone } from './tones.testing'

function followed(parts: readonly Float32Array[], piece = 128): FollowedEvent[] {
  const follower = new LineFollower(listenerSettingsOf.guitar)
  const events: FollowedEvent[] = []
  const sound = joined(parts)
  for (let at = 0; at < sound.length; at += piece)
    events.push(...follower.push(sound.subarray(at, at + piece)))
  return [...events, ...follower.end()]
}
const ons = (events: readonly FollowedEvent[]) =>
  events.flatMap((event) => (event.kind === 'on' ? [event] : []))

describe('following a line while it is played', () => {
  test('plucked notes from A2 up are known before a second window of a long note is over', () => {
    for (const key of [45, 52, 57, 64, 69, 76, 84]) {
      const [first, ...others] = ons(followed([silence(0.3), plucked(key, 0.6), silence(0.3)]))
      expect([key, first?.key, others]).toEqual([key, key, []])
      expect(first!.timeMs - 300).toBeLessThan(75)
      expect(Math.abs(first!.onsetMs - 300)).toBeLessThan(25)
    }
  })

  test('a key that is plucked three times is three notes', () => {
    const events = followed([silence(0.2), plucked(57, 0.4), plucked(57, 0.4), plucked(57, 0.5)])
    expect(ons(events).map(({ key }) => key)).toEqual([57, 57, 57])
  })

  test('vibrato of half a semitone is one note, and notes bound together are all there', () => {
    const { samples } = tone(440, 1.5, listeningRate, { harmonics: [1, 0.5, 0.3], vibratoCents: 50 })
    expect(ons(followed([silence(0.2), samples])).map(({ key }) => key)).toEqual([69])
    const bound = bowed((seconds) => [60, 64, 62][Math.floor(seconds * 2.5)]!, 1.2)
    expect(ons(followed([silence(0.2), bound])).map(({ key }) => key)).toEqual([60, 64, 62])
  })

  test('of any sound, in any pieces: the same is followed, every note ends, and no two sound at once', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            key: fc.integer({ min: 38, max: 90 }),
            seconds: fc.double({ min: 0.02, max: 0.25, noNaN: true }),
            gap: fc.double({ min: 0, max: 0.1, noNaN: true }),
          }),
          { maxLength: 5 },
        ),
        fc.integer({ min: 1, max: 3000 }),
        (notes, piece) => {
          const parts = notes.flatMap(({ key, seconds, gap }) => [plucked(key, seconds), silence(gap)])
          const events = followed(parts)
          expect(followed(parts, piece)).toEqual(events)
          let sounding: number | null = null
          let before = 0
          for (const event of events) {
            expect(event.timeMs).toBeGreaterThanOrEqual(before)
            before = event.timeMs
            expect(sounding === null).toBe(event.kind === 'on')
            if (event.kind === 'off') expect(event.key).toBe(sounding)
            sounding = event.kind === 'on' ? event.key : null
          }
          expect(sounding).toBeNull()
        },
      ),
      { numRuns: 15 },
    )
  })
})
