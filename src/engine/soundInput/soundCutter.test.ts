import fc from 'fast-check'
import type { FollowedFrame } from '@/core/pitch/lineFollower'
import { noPlace, SoundAssembly } from '@/core/sound/keptSound'
import type { SoundToKeep } from '../keptSound/keeperProtocol'
import { SoundCutter } from './soundCutter'

const sampleRate = 1000

function cut(pieces: readonly number[], frames: readonly FollowedFrame[] = []) {
  const kept: SoundToKeep[] = []
  const gaps: number[] = []
  const cutter = new SoundCutter(
    'sound:a',
    sampleRate,
    (ms) => 5000 + ms,
    (sound) => kept.push(sound),
    () => gaps.push(1),
  )
  let at = 0
  for (const length of pieces) {
    const samples = Float32Array.from({ length }, (_, index) => (at + index) / 1e5)
    const endMs = at + length
    cutter.push(
      samples,
      frames.filter(({ timeMs }) => timeMs >= at && timeMs < endMs),
    )
    at += length
  }
  cutter.cut()
  expect(gaps).toEqual([])
  return { kept, total: at }
}

describe('cutting sound into seconds', () => {
  test('nothing is lost or doubled, whatever pieces it comes in, and each has its moment', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 2500 }), { maxLength: 8 }), (pieces) => {
        const { kept, total } = cut(pieces)
        const joined = kept.flatMap(({ samples }) => [...samples])
        expect(joined.length).toBe(total)
        expect(joined.every((sample, index) => Math.abs(sample - index / 1e5) < 1e-7)).toBe(true)
        let first = 0
        for (const { firstSample, startMs, samples, streamId } of kept) {
          expect([firstSample, startMs, streamId]).toEqual([first, 5000 + first, kept[0]!.streamId])
          expect(samples.length).toBeLessThanOrEqual(sampleRate)
          first += samples.length
        }
      }),
    )
  })

  test('what was heard lies beside the sound it was heard in', () => {
    const frame = (timeMs: number, place: number | null): FollowedFrame => ({
      timeMs,
      place,
      confidence: 1,
      levelDb: -20,
      key: null,
    })
    const { kept } = cut([1000, 1000], [frame(125, 60.25), frame(1500, 62), frame(1700, null)])
    expect(kept[0]!.places[12]).toBe(6025)
    expect(kept[0]!.confidences[12]).toBe(255)
    expect(kept[1]!.places[50]).toBe(6200)
    expect(kept[1]!.places[70]).toBe(noPlace)
    expect(kept[0]!.places.filter((place) => place !== noPlace).length).toBe(1)
  })

  test('what was not to be kept is left out, and what follows is where it was', () => {
    const kept: SoundToKeep[] = []
    const cutter = new SoundCutter(
      'sound:a',
      sampleRate,
      (ms) => ms,
      (sound) => kept.push(sound),
      () => {
        throw new Error('nothing is missing')
      },
    )
    cutter.push(new Float32Array(300).fill(1), [])
    cutter.cut()
    cutter.skip(2000)
    cutter.push(new Float32Array(1000).fill(0.5), [])
    expect(kept.map(({ firstSample, startMs, samples }) => [firstSample, startMs, samples.length])).toEqual([
      [0, 0, 300],
      [2300, 2300, 1000],
    ])
  })

  test('where the input stood still, the gap is told and what follows is a stream of its own, where it was played', () => {
    const kept: SoundToKeep[] = []
    const gaps: number[] = []
    let lateMs = 0
    const cutter = new SoundCutter(
      'sound:a',
      sampleRate,
      (ms) => ms + lateMs,
      (sound) => kept.push(sound),
      (lostMs) => gaps.push(lostMs),
    )
    const second = () => cutter.push(new Float32Array(1000).fill(0.5), [])
    second()
    // A clock that wavers is no gap.
    lateMs = 40
    second()
    lateMs = 840
    second()
    second()
    expect(gaps).toEqual([800])
    expect(kept.map(({ startMs }) => startMs)).toEqual([0, 1040, 2840, 3840])
    expect(kept.map(({ streamId }) => kept.findIndex((each) => each.streamId === streamId))).toEqual([
      0, 0, 2, 2,
    ])
    const assembly = new SoundAssembly({ fromMs: 0, toMs: 5000 }, sampleRate)
    for (const { samples, ...sound } of kept)
      assembly.add({ ...sound, sampleCount: samples.length, byteLength: 0, peaks: new Uint8Array() }, samples)
    const silent = assembly.samples.indexOf(0)
    expect([silent, assembly.samples.findIndex((sample, at) => at > silent && sample !== 0)]).toEqual([
      2000, 2840,
    ])
  })
})
