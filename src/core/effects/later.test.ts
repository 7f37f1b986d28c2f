import fc from 'fast-check'
import { TempoMap } from '../time/tempoMap'
import { Later, LaterNotes, ticksOfMs } from './later'
import type { EffectEvent, EffectNoteOn } from './noteEffect'

const on = (tick: number, key = 60): EffectNoteOn => ({
  type: 'on',
  tick,
  key,
  velocity: 80,
  channel: 1,
  sourceId: key,
})

test('events come out in order of time, those of one tick in the order they were put in', () => {
  fc.assert(
    fc.property(fc.array(fc.nat(20), { maxLength: 60 }), (ticks) => {
      const later = new Later()
      for (const [index, tick] of ticks.entries()) later.put(on(tick, index))
      const out: EffectEvent[] = []
      later.emitBefore(Number.POSITIVE_INFINITY, (event) => out.push(event))
      const wanted = ticks
        .map((tick, index) => [tick, index] as const)
        .sort((a, b) => a[0] - b[0] || a[1] - b[1])
      expect(out.map((event) => [event.tick, event.type === 'on' ? event.key : -1])).toEqual(wanted)
      expect(later.nextTicks).toBe(Number.POSITIVE_INFINITY)
    }),
  )
})

test('only what is due before a position comes out, and more can be put in between', () => {
  const later = new Later()
  const out: number[] = []
  const emit = (event: EffectEvent) => void out.push(event.tick)
  for (const tick of [30, 10, 20]) later.put(on(tick))
  later.emitBefore(20, emit)
  expect([out, later.nextTicks]).toEqual([[10], 20])
  later.put(on(15))
  later.emitBefore(100, emit)
  expect(out).toEqual([10, 15, 20, 30])
})

test('a note that sounds later ends as much later, each of its copies by its own distance', () => {
  const notes = new LaterNotes()
  const played = on(0)
  const [near, far] = [on(100, 64), on(300, 67)]
  notes.add(played, near, 100)
  notes.add(played, far, 300)
  notes.end(played, 50, 64)
  // Once ended, it is known no more.
  notes.end(played, 400, 64)
  const out: EffectEvent[] = []
  notes.emitBefore(10_000, (event) => out.push(event))
  expect(out.map((event) => [event.type, event.tick])).toEqual([
    ['on', 100],
    ['off', 150],
    ['on', 300],
    ['off', 350],
  ])
})

test('a time in milliseconds is as many ticks as the tempo has there, across a change of tempo too', () => {
  const map = new TempoMap([
    { tick: 0, tempoBpm: 60 },
    { tick: 10_080, tempoBpm: 120 },
  ])
  expect(ticksOfMs(map, 0, 500)).toBe(5040)
  expect(ticksOfMs(map, 10_080, 500)).toBe(10_080)
  // Half a second at 60, then half a second at 120.
  expect(ticksOfMs(map, 5040, 1000)).toBe(5040 + 10_080)
  expect(ticksOfMs(map, 777, 0)).toBe(0)
})
