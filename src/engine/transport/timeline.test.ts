import fc from 'fast-check'
import { clicksBetween } from '@/core/capture/click'
import { MeterMap } from '@/core/time/meterMap'
import { type PortMessage, PortSender } from './portSender'
import { Timeline } from './timeline'

const tempos = [
  { tick: 0, tempoBpm: 120 },
  { tick: 40_320, tempoBpm: 60 },
]
const plan = { fromTicks: 0, startedAtMs: 1000, loop: null, line: null, tempos }

describe('the timeline', () => {
  test('along the tempi of the piece', () => {
    const timeline = new Timeline(plan)
    expect(timeline.placeAt(1500)).toEqual({ pass: 0, ticks: 10_080 })
    expect(timeline.msAt({ pass: 0, ticks: 50_400 })).toBe(4000)
    expect(timeline.placeAt(500).ticks).toBeLessThan(0)
  })

  test('round and round: one bar of two seconds', () => {
    const timeline = new Timeline({ ...plan, loop: { startTicks: 0, endTicks: 40_320 } })
    expect(timeline.placeAt(2999)).toMatchObject({ pass: 0 })
    expect(timeline.placeAt(3000)).toEqual({ pass: 1, ticks: 0 })
    expect(timeline.placeAt(7500)).toEqual({ pass: 3, ticks: 10_080 })
    expect(timeline.msAt({ pass: 3, ticks: 10_080 })).toBe(7500)
    expect(timeline.windowsUntil({ pass: 0, ticks: 30_000 }, 5500)).toEqual([
      { pass: 0, fromTicks: 30_000, toTicks: 40_320 },
      { pass: 1, fromTicks: 0, toTicks: 40_320 },
      { pass: 2, fromTicks: 0, toTicks: 10_080 },
    ])
  })

  test('a start behind the loop runs on', () => {
    const timeline = new Timeline({
      ...plan,
      fromTicks: 80_640,
      loop: { startTicks: 0, endTicks: 40_320 },
    })
    expect(timeline.placeAt(100_000).pass).toBe(0)
  })

  test('along a followed clock', () => {
    const timeline = new Timeline({ ...plan, line: { ticks: 20_160, timeMs: 5000, tempoBpm: 100 } })
    expect(timeline.placeAt(5600).ticks).toBeCloseTo(30_240, 6)
    expect(timeline.msAt({ pass: 0, ticks: 10_080 })).toBeCloseTo(4400, 6)
  })

  test('place and moment agree, for any loop', () => {
    fc.assert(
      fc.property(
        fc.nat(80_000),
        fc.integer({ min: 1000, max: 80_000 }),
        fc.nat(60_000),
        (startTicks, lengthTicks, afterMs) => {
          const loop = { startTicks, endTicks: startTicks + lengthTicks }
          const timeline = new Timeline({ ...plan, fromTicks: startTicks, loop })
          const place = timeline.placeAt(1000 + afterMs)
          expect(place.ticks).toBeGreaterThanOrEqual(startTicks - 1e-6)
          expect(place.ticks).toBeLessThanOrEqual(loop.endTicks + 1e-6)
          expect(timeline.msAt(place)).toBeCloseTo(1000 + afterMs, 4)
        },
      ),
    )
  })

  test('windows follow each other without gap or overlap, however they are cut', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 900 }), { maxLength: 40 }), (stepsMs) => {
        const loop = { startTicks: 5000, endTicks: 25_000 }
        const timeline = new Timeline({ ...plan, loop })
        let at = { pass: 0, ticks: 0 }
        let untilMs = 1000
        let covered = 0
        for (const step of stepsMs) {
          untilMs += step
          for (const window of timeline.windowsUntil(at, untilMs)) {
            const expected = window.pass > at.pass ? 5000 : at.ticks
            expect(window.fromTicks).toBe(expected)
            covered += window.toTicks - window.fromTicks
            at = { pass: window.pass, ticks: window.toTicks }
          }
        }
        const end = timeline.placeAt(untilMs)
        const due =
          end.pass === 0
            ? Math.floor(end.ticks)
            : 25_000 + (end.pass - 1) * 20_000 + Math.floor(end.ticks) - 5000
        expect(covered).toBe(Math.max(0, due))
      }),
    )
  })
})

describe('the click', () => {
  const meterMap = new MeterMap([{ tick: 0, numerator: 3, denominator: 4 }])
  const settings = { hasAccent: true, subdivision: 1 as const, level: 0.7 }

  test('accents the first of three beats', () => {
    const strokes = clicksBetween(meterMap, 0, 30_240, settings)
    expect(strokes.map((stroke) => stroke.ticks)).toEqual([0, 10_080, 20_160])
    expect(strokes[0]!.velocity).toBeGreaterThan(strokes[1]!.velocity)
    expect(strokes[0]!.key).not.toBe(strokes[1]!.key)
    expect(clicksBetween(meterMap, 0, 30_240, { ...settings, hasAccent: false })[0]!.key).toBe(
      strokes[1]!.key,
    )
  })

  test('subdivides the beat, softer', () => {
    const strokes = clicksBetween(meterMap, 0, 10_080, { ...settings, subdivision: 3 })
    expect(strokes.map((stroke) => stroke.ticks)).toEqual([0, 3360, 6720])
    expect(strokes[1]!.velocity).toBeLessThan(strokes[0]!.velocity)
  })

  test('counts dotted quarters in 6/8', () => {
    const compound = new MeterMap([{ tick: 0, numerator: 6, denominator: 8 }])
    expect(clicksBetween(compound, 0, 30_240, settings).map((stroke) => stroke.ticks)).toEqual([0, 15_120])
  })

  test('at level 0 there is none', () => {
    expect(clicksBetween(meterMap, 0, 30_240, { ...settings, level: 0 })).toEqual([])
  })
})

describe('what is sent to ports', () => {
  const workshop = () => {
    const sent: PortMessage[] = []
    return { sent, sender: new PortSender((messages) => sent.push(...messages)) }
  }

  test('waits until shortly before it is due, and goes in order', () => {
    const { sent, sender } = workshop()
    sender.add('t', 'P', 1500, [0x80, 60, 64])
    sender.add('t', 'P', 1000, [0x90, 60, 90])
    sender.tick(850)
    expect(sent).toEqual([])
    sender.tick(870)
    expect(sent.map((message) => message.timeMs)).toEqual([1000])
    sender.tick(1490)
    expect(sent.map((message) => message.bytes[0])).toEqual([0x90, 0x80])
  })

  test('silence takes back what waits and ends what was sent, for its owner only', () => {
    const { sent, sender } = workshop()
    sender.add('a', 'P', 1000, [0x90, 60, 90])
    sender.add('a', 'P', 1200, [0x90, 62, 90])
    sender.add('b', 'P', 1000, [0x91, 50, 90])
    sender.tick(1000)
    sender.silence(1010, 'a')
    expect(sent.slice(2)).toEqual([{ portId: 'P', timeMs: 1010, bytes: [0x80, 60, 64] }])
    sender.tick(2000)
    expect(sent).toHaveLength(3)
    sender.silence(2000)
    expect(sent.at(-1)).toEqual({ portId: 'P', timeMs: 2000, bytes: [0x81, 50, 64] })
  })

  test('for any use, every note that was sent has its end after silence', () => {
    fc.assert(
      fc.property(
        fc.array(fc.record({ atMs: fc.nat(500), key: fc.integer({ min: 60, max: 63 }), isOn: fc.boolean() })),
        fc.nat(500),
        (notes, silenceMs) => {
          const { sent, sender } = workshop()
          for (const { atMs, key, isOn } of notes) sender.add('t', 'P', atMs, [isOn ? 0x90 : 0x80, key, 64])
          for (let nowMs = 0; nowMs <= silenceMs; nowMs += 7) sender.tick(nowMs)
          sender.silence(silenceMs)
          const down = new Set<number>()
          for (const { bytes } of sent) {
            if (bytes[0] === 0x90) down.add(bytes[1]!)
            else down.delete(bytes[1]!)
          }
          expect(down.size).toBe(0)
        },
      ),
    )
  })
})
