import fc from 'fast-check'
import { FollowedMidi } from './followedMidi'
import { type FollowedEvent, LineFollower } from './lineFollower'
import { listenerSettingsOf } from './listenerSettings'
import { joined, plucked, silence, tone } from './tones.testing'

const on = (key: number, onsetMs: number, timeMs = onsetMs + 40): FollowedEvent => ({
  kind: 'on',
  key,
  onsetMs,
  timeMs,
  velocity: 80,
  confidence: 1,
})
const off = (key: number, endMs: number, timeMs = endMs + 20): FollowedEvent => ({
  kind: 'off',
  key,
  endMs,
  timeMs,
})

describe('what is followed, as messages', () => {
  test('notes have the moment they began at, not the one they were known at', () => {
    const midi = new FollowedMidi(false)
    expect(midi.messagesOf([on(60, 100), off(60, 400), on(64, 400)], [])).toEqual([
      { timeMs: 100, bytes: [0x90, 60, 80] },
      { timeMs: 400, bytes: [0x80, 60, 64] },
      { timeMs: 400, bytes: [0x90, 64, 80] },
    ])
  })

  test('a pitch that is taken back ends where it began', () => {
    const messages = new FollowedMidi(false).messagesOf(
      [on(48, 100), off(48, 100), on(60, 100), off(60, 300)],
      [],
    )
    expect(messages.map(({ timeMs }) => timeMs)).toEqual([100, 100, 100, 300])
  })

  test('between the keys is bend, two keys either way, and each note begins at its key', () => {
    const midi = new FollowedMidi(true)
    const frame = (timeMs: number, place: number) => ({ timeMs, place, key: 60, confidence: 1, levelDb: -20 })
    const bent = midi.messagesOf([on(60, 100)], [frame(150, 60.5), frame(160, 60.505), frame(170, 62)])
    expect(bent.map(({ bytes }) => bytes)).toEqual([
      [0x90, 60, 80],
      [0xe0, 0, 80],
      [0xe0, 127, 127],
    ])
    expect(midi.messagesOf([off(60, 300), on(62, 300)], []).map(({ bytes }) => bytes)).toEqual([
      [0x80, 60, 64],
      [0xe0, 0, 64],
      [0x90, 62, 80],
    ])
  })

  test('of any sound: every note ends, one at a time, and time never goes back', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            key: fc.integer({ min: 40, max: 84 }),
            seconds: fc.double({ min: 0.02, max: 0.3, noNaN: true }),
          }),
          {
            maxLength: 6,
          },
        ),
        (notes) => {
          const follower = new LineFollower(listenerSettingsOf.guitar)
          const midi = new FollowedMidi(true)
          const sound = joined([...notes.map(({ key, seconds }) => plucked(key, seconds)), silence(0.1)])
          const messages = midi.messagesOf(follower.push(sound), follower.takeFrames())
          messages.push(...midi.messagesOf(follower.end(), []))
          let lastMs = 0
          let sounding: number | null = null
          for (const { timeMs, bytes } of messages) {
            if (bytes[0] === 0xe0) continue
            expect(timeMs).toBeGreaterThanOrEqual(lastMs)
            lastMs = timeMs
            expect(bytes[0] === 0x90).toBe(sounding === null)
            if (bytes[0] === 0x80) expect(bytes[1]).toBe(sounding)
            sounding = bytes[0] === 0x90 ? bytes[1] : null
          }
          expect(sounding).toBeNull()
        },
      ),
      { numRuns: 12 },
    )
  })

  test('vibrato bends around its key, by as much as it sways', () => {
    const { samples } = tone(440, 1, 22_050, { harmonics: [1, 0.5, 0.3], vibratoCents: 40 })
    const follower = new LineFollower(listenerSettingsOf.voice)
    const events = follower.push(samples)
    const bends = new FollowedMidi(true)
      .messagesOf(events, follower.takeFrames())
      .flatMap(({ bytes }) => (bytes[0] === 0xe0 ? [((bytes[1] + bytes[2] * 128 - 8192) / 8192) * 200] : []))
    expect(Math.max(...bends)).toBeGreaterThan(25)
    expect(Math.max(...bends)).toBeLessThan(45)
    expect(Math.min(...bends)).toBeLessThan(-25)
    expect(Math.min(...bends)).toBeGreaterThan(-45)
  })
})
