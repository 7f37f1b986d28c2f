import { type EngineState, placeAt, runOf, stateAt, takeOf, transportOf } from './engineState'
import { recordOrder } from './engineWorkshop.testing'
import { type RunningPlan, Timeline } from './timeline'

const plan: RunningPlan = {
  fromTicks: 10_080,
  startedAtMs: 2000,
  loop: null,
  line: null,
  tempos: [{ tick: 0, tempoBpm: 120 }],
}
const run = { plan, timeline: new Timeline(plan) }
const order = recordOrder({ fromTicks: 20_160 })
if (order.type !== 'record') throw new Error('not an order')

const states: Record<EngineState['doing'], EngineState> = {
  resting: { doing: 'resting', ticks: 5040 },
  waiting: { doing: 'waiting', waitsFor: 'first note', order },
  playing: { doing: 'playing', untilTicks: null, ...run },
  'counting in': { doing: 'counting in', take: { endTicks: null }, ...run },
  recording: { doing: 'recording', take: { endTicks: 40_320 }, ...run },
  following: { doing: 'following', take: null, ...run },
}

test('only what runs has a place in time', () => {
  expect(Object.values(states).filter((state) => runOf(state) === null)).toEqual([
    states.resting,
    states.waiting,
  ])
})

test('the piece is where it rests, where it would begin, or where the time has brought it', () => {
  expect(placeAt(states.resting, 99)).toEqual({ pass: 0, ticks: 5040 })
  expect(placeAt(states.waiting, 99)).toEqual({ pass: 0, ticks: 20_160 })
  expect(placeAt(states.playing, 2500)).toEqual({ pass: 0, ticks: 20_160 })
})

test('a count-in is over at its moment, and nothing else changes by itself', () => {
  expect(stateAt(states['counting in'], 1999)).toBe(states['counting in'])
  expect(stateAt(states['counting in'], 2000)).toEqual({ ...states['counting in'], doing: 'recording' })
  for (const state of Object.values(states))
    if (state.doing !== 'counting in') expect(stateAt(state, 1e9)).toBe(state)
})

test('a take goes on while counting in, while recording, and while following when it was asked for', () => {
  expect(takeOf(states['counting in'])).toEqual({ endTicks: null })
  expect(takeOf(states.recording)).toEqual({ endTicks: 40_320 })
  for (const state of [states.resting, states.waiting, states.playing, states.following])
    expect(takeOf(state)).toBeNull()
})

test('the window is told whether it stands, waits, plays or records, and how it lies in time', () => {
  expect(transportOf(states.resting)).toEqual({ state: 'stopped', ticks: 5040 })
  expect(transportOf(states.waiting)).toEqual({ state: 'waiting', ticks: 20_160, waitsFor: 'first note' })
  expect(transportOf(states.playing)).toEqual({ state: 'playing', ...plan })
  expect(transportOf(states['counting in'])).toEqual({ state: 'recording', ...plan })
  expect(transportOf(states.recording)).toEqual({ state: 'recording', ...plan })
  expect(transportOf(states.following)).toEqual({ state: 'playing', ...plan })
})
