import { takeTicksAt } from '@/core/capture/takePlacement'
import { clockStatus } from '@/core/midi/clock'
import { TempoMap } from '@/core/time/tempoMap'
import { engineWorkshop, finishedTakes, note, ons, recordOrder } from './engineWorkshop.testing'

/** A master that sends clocks at a tempo from its own start. */
function master(workshop: ReturnType<typeof engineWorkshop>, tempoBpm: number, quarters: number): number {
  const msPerClock = 60_000 / tempoBpm / 24
  const startMs = workshop.now() + 10
  workshop.input({ portId: 'M', status: clockStatus.start, data1: 0, timeMs: startMs - 1 })
  for (let clock = 0; clock < quarters * 24; clock++) {
    const dueMs = startMs + clock * msPerClock
    workshop.runTo(dueMs)
    workshop.input({ portId: 'M', status: clockStatus.clock, data1: 0, timeMs: dueMs })
  }
  return startMs
}

describe('a clock that is followed', () => {
  test('followed: plays with the master at its tempo, and stops with it', () => {
    const workshop = engineWorkshop([{}], { clockFrom: 'M' })
    workshop.content('t0', [note(1, 4 * 10_080, 1000, 40), note(2, 8 * 10_080, 1000, 41)])
    const startMs = master(workshop, 90, 10)
    const [first, second] = ons(workshop.synth)
    expect(first!.atSeconds * 1000).toBeCloseTo(startMs - 5_000_000 + (4 * 60_000) / 90, 0)
    expect(second!.atSeconds * 1000).toBeCloseTo(startMs - 5_000_000 + (8 * 60_000) / 90, 0)
    const followed = workshop.window.findLast((message) => message.type === 'followedClock')
    expect(followed).toMatchObject({ isRunning: true })
    workshop.input({ portId: 'M', status: clockStatus.stop, data1: 0 })
    workshop.run(20)
    const state = workshop.window.findLast((message) => message.type === 'transport')
    expect(state).toMatchObject({ transport: { state: 'stopped', ticks: 10 * 10_080 } })
  })

  test('recording waits for the clock, and its notes lie where the master was', () => {
    const workshop = engineWorkshop([{}], { clockFrom: 'M' })
    workshop.engine.receive(recordOrder())
    workshop.run(500)
    const startMs = workshop.now() + 10
    const msPerClock = 60_000 / 90 / 24
    workshop.input({ portId: 'M', status: clockStatus.start, data1: 0, timeMs: startMs - 1 })
    for (let clock = 0; clock < 24 * 6; clock++) {
      const dueMs = startMs + clock * msPerClock
      workshop.runTo(dueMs)
      workshop.input({ portId: 'M', status: clockStatus.clock, data1: 0, timeMs: dueMs })
      if (clock === 24 * 4) workshop.input({ status: 0x90, data1: 60, timeMs: dueMs })
    }
    workshop.input({ portId: 'M', status: clockStatus.stop, data1: 0 })
    workshop.run(20)
    const take = finishedTakes(workshop.window)[0]!
    expect(take.startTicks).toBe(0)
    const placement = { ...take, tempoMap: new TempoMap([{ tick: 0, tempoBpm: 120 }]) }
    expect(Math.abs(takeTicksAt(placement, take.events.timesMs[0]!) - 4 * 10_080)).toBeLessThan(20)
  })

  test('stopped here while the master runs on, it is followed again only after it has stopped too', () => {
    const workshop = engineWorkshop([{}], { clockFrom: 'M' })
    master(workshop, 120, 4)
    workshop.engine.receive({ type: 'stop' })
    const states = () =>
      workshop.window.flatMap((message) => (message.type === 'transport' ? [message.transport.state] : []))
    const before = states().length
    workshop.input({ portId: 'M', status: clockStatus.clock, data1: 0 })
    workshop.run(50)
    expect(states()).toHaveLength(before)
    workshop.input({ portId: 'M', status: clockStatus.stop, data1: 0 })
    workshop.run(50)
    master(workshop, 120, 2)
    expect(states().at(-1)).toBe('playing')
  })

  test('Stop means stop, also when the master began while the piece played on its own', () => {
    const workshop = engineWorkshop([{}], { clockFrom: 'M' })
    workshop.engine.receive({ type: 'play', fromTicks: 0, untilTicks: null, loop: null })
    master(workshop, 120, 2)
    workshop.engine.receive({ type: 'stop' })
    workshop.input({ portId: 'M', status: clockStatus.clock, data1: 0 })
    workshop.run(50)
    expect(lastTransport(workshop)).toMatchObject({ state: 'stopped' })
    workshop.input({ portId: 'M', status: clockStatus.stop, data1: 0 })
    workshop.run(50)
    master(workshop, 120, 2)
    expect(lastTransport(workshop)).toMatchObject({
      state: 'playing',
      line: { tempoBpm: expect.closeTo(120, 1) },
    })
  })

  test('record pressed while the master runs: it is joined in the middle, from the beginning of its bar', () => {
    const workshop = engineWorkshop([{}], { clockFrom: 'M' })
    const startMs = master(workshop, 120, 6)
    workshop.engine.receive({ type: 'stop' })
    workshop.engine.receive(recordOrder())
    for (let clock = 6 * 24; clock < 9 * 24; clock++) {
      workshop.runTo(startMs + (clock * 500) / 24)
      workshop.input({ portId: 'M', status: clockStatus.clock, data1: 0 })
    }
    expect(lastTransport(workshop)).toMatchObject({ state: 'recording' })
    workshop.engine.receive({ type: 'stop' })
    expect(finishedTakes(workshop.window)[0]).toMatchObject({ startTicks: 4 * 10_080 })
  })

  test('a stretch that is recorded along a clock ends where it ends', () => {
    const workshop = engineWorkshop([{}], { clockFrom: 'M' })
    workshop.engine.receive(recordOrder({ endTicks: 4 * 10_080 }))
    master(workshop, 120, 6)
    expect(lastTransport(workshop)).toMatchObject({ state: 'stopped' })
    expect(finishedTakes(workshop.window)).toHaveLength(1)
  })

  test('when no clock is to be followed any more, what followed it ends', () => {
    const workshop = engineWorkshop([{}], { clockFrom: 'M' })
    master(workshop, 120, 2)
    workshop.engine.receive({ type: 'setup', setup: { ...workshop.base, clockFrom: null } })
    expect(lastTransport(workshop)).toMatchObject({ state: 'stopped' })
  })
})

function lastTransport({ window }: ReturnType<typeof engineWorkshop>) {
  const last = window.findLast((message) => message.type === 'transport')
  return last?.type === 'transport' ? last.transport : null
}
