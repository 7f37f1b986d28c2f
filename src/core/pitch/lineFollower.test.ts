import fc from 'fast-check'
import type { PlayedTone } from '../sound/models/playedTone'
import { pluckedString } from '../sound/models/pluckedString'
import { sungVowel } from '../sound/models/sungVowel'
import { resample } from '../sound/resample'
import { type FollowedEvent, LineFollower, notesOfFollowed } from './lineFollower'
import { type ListenerSettings, listenerSettingsOf, listeningRate } from './listenerSettings'
import { chanceFrom, playedByModel } from './playedLines.testing'
import { bowed, joined, plucked, silence, tone } from './tones.testing'

function followed(
  parts: readonly Float32Array[],
  piece = 128,
  settings: ListenerSettings = listenerSettingsOf.guitar,
): FollowedEvent[] {
  const follower = new LineFollower(settings)
  const events: FollowedEvent[] = []
  const sound = joined(parts)
  for (let at = 0; at < sound.length; at += piece)
    events.push(...follower.push(sound.subarray(at, at + piece)))
  return [...events, ...follower.end()]
}
const ons = (events: readonly FollowedEvent[]) =>
  events.flatMap((event) => (event.kind === 'on' ? [event] : []))

/** Notes that were begun and taken back: what a synthesiser plays for nothing. */
const takenBack = (events: readonly FollowedEvent[]) => ons(events).length - notesOfFollowed(events).length
const kept = (events: readonly FollowedEvent[]) => notesOfFollowed(events).map(({ key }) => key)

/** Tones one after another, each left within eight milliseconds when the next begins. */
function played(
  keys: readonly number[],
  model: (tone: PlayedTone, sampleRate: number) => Float32Array,
  eachMs: number,
): Float32Array {
  const notes = keys.map((key, index) => ({
    key,
    onsetMs: 300 + index * eachMs,
    durationMs: eachMs,
    velocity: 110,
  }))
  return resample(playedByModel(notes, model), 44_100, listeningRate)
}

/** What may come in: a note, or what is none. */
function soundOf(kind: string, key: number, seconds: number): Float32Array {
  if (kind === 'plucked') return plucked(key, seconds)
  const chance = chanceFrom(key)
  return silence(seconds).map((_, index) => {
    if (kind === 'noise') return 2 * chance() - 1
    if (kind === 'offset') return 0.8
    if (kind === 'clicks') return index % 700 === 0 ? 1 : 0
    return index % (key * 3) < key ? 1 : -1
  })
}

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

  test('a bright string whose period lies between two samples is not heard an octave lower first', () => {
    const keys = Array.from({ length: 30 }, (_, index) => 46 + ((index * 7) % 30))
    const events = followed([played(keys, pluckedString, 300)])
    expect(kept(events)).toEqual(keys)
    expect(takenBack(events)).toBe(0)
    for (const [index, { timeMs }] of ons(events).entries())
      expect(timeMs - 300 - index * 300).toBeLessThan(30)
  })

  test('who sings comes to each note from beneath, and is told by where they are going', () => {
    const keys = [57, 61, 64, 60, 65, 62, 67, 55]
    const settings = listenerSettingsOf.voice
    const events = followed([played(keys, sungVowel, 450)], 128, settings)
    expect(kept(events)).toEqual(keys)
    expect(takenBack(events)).toBe(0)
    // Before the voice is as near as a third of a semitone, which takes it 45 ms.
    for (const [index, { timeMs }] of ons(events).entries())
      expect(timeMs - 300 - index * 450).toBeLessThan(46)
  })

  test('a sound that has no clear pitch is not chased from key to key', () => {
    // Two strings a third of a semitone apart, with the noise of a bow: beating, never exact.
    const chance = chanceFrom(4)
    const rough = Float32Array.from({ length: 2 * listeningRate }, (_, index) => {
      const seconds = index / listeningRate
      const wave = (hz: number) =>
        Math.sin(2 * Math.PI * hz * seconds) + 0.6 * Math.sin(4 * Math.PI * hz * seconds)
      return 0.12 * (wave(82.4) + 0.8 * wave(84.0)) + 0.25 * (2 * chance() - 1)
    })
    expect(ons(followed([silence(0.2), rough])).length).toBeLessThan(6)
  })

  test('samples that are no numbers are passed over: what is played after them is heard', () => {
    const broken = new Float32Array(2205).fill(Number.NaN)
    const events = followed([silence(0.2), broken, silence(0.3), plucked(57, 0.5)])
    expect(kept(events)).toEqual([57])
  })

  test('in a range of two keys only these are told, whatever is played', () => {
    const settings = { ...listenerSettingsOf.guitar, lowKey: 57, highKey: 58 }
    const parts = [52, 57, 58, 64, 69, 45, 57].flatMap((key) => [plucked(key, 0.3), silence(0.1)])
    const keys = ons(followed(parts, 128, settings)).map(({ key }) => key)
    expect(keys.every((key) => key === 57 || key === 58)).toBe(true)
    expect(keys.length).toBeGreaterThanOrEqual(3)
  })

  test('of any sound, in any pieces: the same is followed, every note ends, and no two sound at once', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            kind: fc.constantFrom('plucked', 'noise', 'offset', 'clicks', 'square'),
            key: fc.integer({ min: 38, max: 90 }),
            seconds: fc.double({ min: 0.02, max: 0.25, noNaN: true }),
            gap: fc.double({ min: 0, max: 0.1, noNaN: true }),
          }),
          { maxLength: 5 },
        ),
        fc.integer({ min: 1, max: 3000 }),
        (notes, piece) => {
          const parts = notes.flatMap(({ kind, key, seconds, gap }) => [
            soundOf(kind, key, seconds),
            silence(gap),
          ])
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
