import fc from 'fast-check'
import type { EffectEvent, EffectNoteOn } from './noteEffect'
import { Untangle } from './untangle'

let nextId = 1
const on = (tick: number, key: number, channel = 1): EffectNoteOn => ({
  type: 'on',
  tick,
  key,
  velocity: 80,
  channel,
  sourceId: nextId++,
})
const off = (tick: number, of: EffectNoteOn): EffectEvent => ({ type: 'off', tick, velocity: 64, of })

function untangled(events: readonly EffectEvent[], endTicks: number): EffectEvent[] {
  const untangle = new Untangle()
  const out: EffectEvent[] = []
  for (const event of events) untangle.pass(event, (each) => out.push(each))
  untangle.end(endTicks, (each) => out.push(each))
  return out
}

test('a key that begins where it still sounds ends the earlier note first; its own end comes too late and is gone', () => {
  const [first, second] = [on(0, 60), on(100, 60)]
  expect(untangled([first, second, off(150, first), off(200, second)], 1000)).toEqual([
    first,
    off(100, first),
    second,
    off(200, second),
  ])
})

test('two that begin together on a key are one; on another channel both sound', () => {
  const [first, twin, elsewhere] = [on(0, 60), on(0, 60), on(0, 60, 2)]
  const out = untangled([first, twin, elsewhere, off(50, twin), off(80, first), off(90, elsewhere)], 1000)
  expect(out).toEqual([first, elsewhere, off(80, first), off(90, elsewhere)])
})

test('what sounds at the end is ended, never before it began', () => {
  const [early, late] = [on(0, 60), on(500, 62)]
  expect(untangled([early, late], 300)).toEqual([early, late, off(300, early), off(501, late)])
})

test('whatever comes in, a key never sounds twice at once and every note ends once', () => {
  const strokes = fc.array(
    fc.record({
      tick: fc.nat(400),
      length: fc.integer({ min: 1, max: 300 }),
      key: fc.integer({ min: 60, max: 62 }),
      channel: fc.integer({ min: 1, max: 2 }),
    }),
    { maxLength: 30 },
  )
  fc.assert(
    fc.property(strokes, (list) => {
      const events = list
        .flatMap(({ tick, length, key, channel }) => {
          const begun = on(tick, key, channel)
          return [begun, off(tick + length, begun)]
        })
        .sort((a, b) => a.tick - b.tick)
      const sounding = new Map<string, EffectNoteOn>()
      let last = 0
      for (const event of untangled(events, 2000)) {
        if (event.type === 'control') continue
        expect(event.tick).toBeGreaterThanOrEqual(last)
        last = event.tick
        const note = event.type === 'on' ? event : event.of
        const address = `${note.channel} ${note.key}`
        if (event.type === 'on') {
          expect(sounding.has(address)).toBe(false)
          sounding.set(address, note)
        } else {
          expect(sounding.get(address)).toBe(note)
          sounding.delete(address)
        }
      }
      expect(sounding.size).toBe(0)
    }),
  )
})
