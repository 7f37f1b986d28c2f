import fc from 'fast-check'
import type { ChannelMessage } from '../midi/message'
import type { Route } from './route'
import { keyOf, listenersOf, plainRoute, Router, reachOf, shapeMessage, shapeVelocity } from './route'

const hearing = (id: string, ...routes: Partial<Route>[]) => ({
  id,
  routes: routes.map((fields) => ({ ...plainRoute({ portId: 'A', channel: 1 }), ...fields })),
})
const tracks = [
  hearing('one', { channel: 1 }),
  hearing('two', { channel: 2 }),
  hearing('rest of A', { channel: null }),
  hearing('B', { portId: 'B', channel: null }),
  hearing('deaf'),
]
const names = (reached: { track: { id: string } }[]) => reached.map(({ track }) => track.id)

describe('routing', () => {
  test('a stream reaches exactly the track for its port and channel', () => {
    expect(names(reachOf({ portId: 'A', channel: 1 }, 60, tracks))).toEqual(['one'])
    expect(names(reachOf({ portId: 'A', channel: 2 }, 60, tracks))).toEqual(['two'])
  })

  test('a track for any channel takes only what no other track asks for', () => {
    expect(names(reachOf({ portId: 'A', channel: 7 }, 60, tracks))).toEqual(['rest of A'])
    expect(names(reachOf({ portId: 'B', channel: 1 }, 60, tracks))).toEqual(['B'])
  })

  test('a keyboard divided by key range: each key reaches one track, and the rest of the channel both', () => {
    const divided = [
      hearing('left', { highKey: 59 }),
      hearing('right', { lowKey: 60 }),
      hearing('rest', { channel: null }),
    ]
    expect(names(reachOf({ portId: 'A', channel: 1 }, 59, divided))).toEqual(['left'])
    expect(names(reachOf({ portId: 'A', channel: 1 }, 60, divided))).toEqual(['right'])
    expect(names(reachOf({ portId: 'A', channel: 1 }, null, divided))).toEqual(['left', 'right'])
    expect(listenersOf({ portId: 'A', channel: 1 }, divided).map((track) => track.id)).toEqual([
      'left',
      'right',
    ])
  })

  test('keys that no range takes go to the track for any channel', () => {
    const gap = [hearing('low', { highKey: 40 }), hearing('rest', { channel: null })]
    expect(names(reachOf({ portId: 'A', channel: 1 }, 50, gap))).toEqual(['rest'])
  })

  test('a track with two ways in is reached once', () => {
    const both = [hearing('both', { channel: 1 }, { channel: 1, transposeSemitones: 12 }, { portId: 'B' })]
    const reached = reachOf({ portId: 'A', channel: 1 }, 60, both)
    expect(reached).toHaveLength(1)
    expect(reached[0]!.route.transposeSemitones).toBe(0)
    expect(names(reachOf({ portId: 'B', channel: 1 }, 60, both))).toEqual(['both'])
  })

  test('listeners are those that some key reaches, for any routes', () => {
    const route = fc.record({
      portId: fc.constantFrom('A', 'B'),
      channel: fc.constantFrom(null, 1, 2),
      lowKey: fc.constantFrom(0, 40, 60),
      highKey: fc.constantFrom(59, 80, 127),
    })
    fc.assert(
      fc.property(fc.array(fc.array(route, { maxLength: 3 }), { maxLength: 5 }), (ways) => {
        const any = ways.map((routes, index) => hearing(`t${index}`, ...routes))
        for (const channel of [1, 2, 3]) {
          const stream = { portId: 'A', channel }
          const reached = any.filter((track) =>
            Array.from({ length: 128 }, (_, key) => key).some((key) =>
              reachOf(stream, key, any).some((reach) => reach.track === track),
            ),
          )
          expect(listenersOf(stream, any)).toEqual(reached)
        }
      }),
    )
  })

  test('the router answers the same, every time', () => {
    const router = new Router(tracks)
    for (const portId of ['A', 'B', 'C'])
      for (let channel = 1; channel <= 16; channel++)
        for (const key of [null, 0, 60, 127])
          for (let again = 0; again < 2; again++)
            expect(router.reachOf(portId, channel, key)).toEqual(reachOf({ portId, channel }, key, tracks))
  })
})

describe('what changes on the way', () => {
  const route = (fields: Partial<Route>) => ({ ...plainRoute({ portId: 'A', channel: 1 }), ...fields })
  const stroke: ChannelMessage = { type: 'noteOn', channel: 1, key: 60, velocity: 64 }

  test('a plain route changes nothing', () => {
    expect(shapeMessage(stroke, route({}))).toEqual(stroke)
  })

  test('channel, key and velocity', () => {
    const shaped = shapeMessage(
      stroke,
      route({ toChannel: 5, transposeSemitones: -12, velocity: { kind: 'fixed', velocity: 100 } }),
    )
    expect(shaped).toEqual({ type: 'noteOn', channel: 5, key: 48, velocity: 100 })
  })

  test('what is transposed off the keyboard does not pass, its release neither', () => {
    const up = route({ transposeSemitones: 60 })
    expect(shapeMessage({ ...stroke, key: 100 }, up)).toBeUndefined()
    expect(shapeMessage({ type: 'noteOff', channel: 1, key: 100, velocity: 0 }, up)).toBeUndefined()
  })

  test('pedals and bends are re-channelled, not transposed', () => {
    const pedal: ChannelMessage = { type: 'controller', channel: 1, number: 64, value: 127 }
    expect(keyOf(pedal)).toBeNull()
    expect(shapeMessage(pedal, route({ toChannel: 9, transposeSemitones: 7 }))).toEqual({
      ...pedal,
      channel: 9,
    })
  })

  test('a velocity curve keeps order and the loudest, for any lift', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -1, max: 1, noNaN: true }),
        fc.integer({ min: 1, max: 126 }),
        (lift, velocity) => {
          const shape = { kind: 'curve' as const, lift }
          const [here, above] = [shapeVelocity(velocity, shape), shapeVelocity(velocity + 1, shape)]
          expect(here).toBeGreaterThanOrEqual(1)
          expect(above).toBeGreaterThanOrEqual(here)
          expect(shapeVelocity(127, shape)).toBe(127)
          if (lift > 0.01) expect(here).toBeGreaterThanOrEqual(velocity)
          if (lift < -0.01) expect(here).toBeLessThanOrEqual(velocity)
        },
      ),
    )
  })
})
