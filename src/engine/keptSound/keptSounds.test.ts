import 'fake-indexeddb/auto'
import fc from 'fast-check'
import type { KeptOutline } from '@/core/sound/keptSound'
import { keptSounds } from './keptSounds'

const piece = (portId: string, startMs: number): KeptOutline => ({
  streamId: 'one',
  portId,
  startMs,
  sampleRate: 1000,
  sampleCount: 1000,
  firstSample: startMs,
  byteLength: 3,
  peaks: Uint8Array.of(1, 2),
  places: Int16Array.of(-1, 6000),
  confidences: Uint8Array.of(0, 255),
})
const all = { fromMs: -Infinity, toMs: Infinity }
const moments = async (projectId: string, portId: string | null = null) =>
  (await keptSounds.outlines(projectId, all, portId)).map(({ startMs }) => startMs)

describe('sound in storage', () => {
  beforeEach(async () => {
    await Promise.all(['p', 'other'].map((projectId) => keptSounds.deleteProject(projectId)))
    for (const startMs of [3000, 1000, 2000])
      await keptSounds.put('p', piece('sound:a', startMs), Uint8Array.of(1, 2, 3))
    await keptSounds.put('p', piece('sound:b', 1000), Uint8Array.of(9))
    await keptSounds.put('other', piece('sound:a', 1000), Uint8Array.of(7))
  })

  test('comes back as it was stored, in order of time, by project and input', async () => {
    expect(await moments('p', 'sound:a')).toEqual([1000, 2000, 3000])
    expect(await moments('p')).toEqual([1000, 1000, 2000, 3000])
    expect(await keptSounds.outlines('p', all, 'sound:b')).toEqual([
      expect.objectContaining(piece('sound:b', 1000)),
    ])
    expect(await keptSounds.flac('p', piece('sound:a', 2000))).toEqual(Uint8Array.of(1, 2, 3))
    expect(await keptSounds.flac('p', piece('sound:c', 2000))).toBeNull()
  })

  test('a stretch has all pieces that reach into it', async () => {
    const within = async (fromMs: number, toMs: number) =>
      (await keptSounds.outlines('p', { fromMs, toMs }, 'sound:a')).map(({ startMs }) => startMs)
    expect(await within(1500, 2500)).toEqual([1000, 2000])
    expect(await within(2000, 3000)).toEqual([2000])
    expect(await within(4000, 9000)).toEqual([])
  })

  test('what is old and of no take is let go, the rest stays', async () => {
    expect(await keptSounds.prune('p', 3500, [{ fromMs: 1900, toMs: 1950 }])).toBe(1)
    // The first second is in the take, of both; the second one is not, and the third is not old yet.
    expect(await moments('p', 'sound:a')).toEqual([1000, 3000])
    expect(await moments('other')).toEqual([1000])
    expect(await keptSounds.flac('p', piece('sound:a', 2000))).toBeNull()
  })

  test('the sound of one player in a take is let go, and nothing else', async () => {
    await keptSounds.forget('p', 'sound:a', { fromMs: 0, toMs: 2500 })
    expect(await moments('p', 'sound:a')).toEqual([3000])
    expect(await moments('p', 'sound:b')).toEqual([1000])
  })

  test('whatever pieces and takes there are: what a take may need stays, what is young stays, nothing else', async () => {
    const moment = fc.integer({ min: 0, max: 20_000 })
    const stretch = fc
      .tuple(moment, fc.integer({ min: 0, max: 4000 }))
      .map(([fromMs, lengthMs]) => ({ fromMs, toMs: fromMs + lengthMs }))
    await fc.assert(
      fc.asyncProperty(
        fc.uniqueArray(moment, { maxLength: 12 }),
        fc.array(stretch, { maxLength: 3 }),
        moment,
        async (starts, stretches, beforeMs) => {
          await keptSounds.deleteProject('p')
          for (const startMs of starts) await keptSounds.put('p', piece('sound:a', startMs), Uint8Array.of(1))
          const reaches = (startMs: number) =>
            stretches.some(({ fromMs, toMs }) => startMs + 1000 > fromMs && startMs < toMs)
          const stays = starts.filter((startMs) => reaches(startMs) || startMs + 1000 >= beforeMs)
          const inTakes = await keptSounds.soundsIn('p', stretches)
          expect(inTakes.map(({ outline }) => outline.startMs)).toEqual(
            starts.filter(reaches).sort((a, b) => a - b),
          )
          expect(await keptSounds.sizeOf('p', stretches)).toBe(3 * inTakes.length)
          expect(await keptSounds.prune('p', beforeMs, stretches)).toBe(starts.length - stays.length)
          expect(await moments('p')).toEqual(stays.sort((a, b) => a - b))
          for (const startMs of starts)
            expect((await keptSounds.flac('p', piece('sound:a', startMs))) !== null).toBe(
              stays.includes(startMs),
            )
        },
      ),
      { numRuns: 40 },
    )
  })
})
