import type { ControllerEvent } from './note'
import { eventsToRest, restValueOf } from './resting'

const event = (tick: number, number: number, value: number, channel = 1): ControllerEvent => ({
  tick,
  channel,
  kind: 'controller',
  number,
  value,
})

// MMA Recommended Practice RP-015, Response to Reset All Controllers.
test.each([
  ['controller', 1, 0],
  ['controller', 11, 127],
  ['controller', 64, 0],
  ['controller', 67, 0],
  ['bend', 0, 8192],
  ['channelPressure', 0, 0],
  ['keyPressure', 60, 0],
  ['controller', 0, null],
  ['controller', 7, null],
  ['controller', 10, null],
  ['controller', 91, null],
  ['program', 0, null],
] as const)('%s %d rests at %s', (kind, number, value) => expect(restValueOf(kind, number)).toBe(value))

test('only what is held at the end is put back, each on its channel, not before it was moved', () => {
  expect(
    eventsToRest(
      [
        event(0, 64, 127),
        event(100, 64, 0),
        event(200, 64, 127, 2),
        event(300, 7, 90),
        { tick: 900, channel: 1, kind: 'bend', number: 0, value: 12_000 },
      ],
      500,
    ),
  ).toEqual([event(500, 64, 0, 2), { tick: 900, channel: 1, kind: 'bend', number: 0, value: 8192 }])
})
