import type { EffectNoteOn } from '@/core/effects/noteEffect'
import { FlowWatch } from './flowWatch'

const on = (key: number): EffectNoteOn => ({
  type: 'on',
  tick: 0,
  key,
  velocity: 80,
  channel: 1,
  sourceId: key,
})
const off = (of: EffectNoteOn) => ({ type: 'off', tick: 10, velocity: 64, of }) as const

test('keys are reported while they sound, on each side of each effect', () => {
  const watch = new FlowWatch()
  const [root, third] = [on(60), on(64)]
  watch.note('a', 'goesIn', root)
  watch.note('a', 'comesOut', third)
  watch.note('a', 'comesOut', root)
  expect(watch.report()).toEqual([{ slotId: 'a', goesIn: [60], comesOut: [60, 64] }])
  watch.note('a', 'goesIn', off(root))
  expect(watch.report()).toEqual([{ slotId: 'a', goesIn: [], comesOut: [60, 64] }])
  watch.note('a', 'comesOut', off(root))
  watch.note('a', 'comesOut', off(third))
  expect(watch.report()).toEqual([])
  expect(watch.report()).toBeNull()
})

test('a note shorter than the time between two reports is seen in one of them', () => {
  const watch = new FlowWatch()
  const short = on(72)
  watch.note('a', 'comesOut', short)
  watch.note('a', 'comesOut', off(short))
  expect(watch.report()).toEqual([{ slotId: 'a', goesIn: [], comesOut: [72] }])
  expect(watch.report()).toEqual([])
  expect(watch.report()).toBeNull()
})

test('effects that begin anew hold nothing; a chain nobody played has nothing to tell', () => {
  const watch = new FlowWatch()
  watch.clear()
  expect(watch.report()).toBeNull()
  watch.note('a', 'goesIn', on(60))
  watch.clear()
  expect(watch.report()).toEqual([])
})
