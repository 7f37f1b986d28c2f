import fc from 'fast-check'
import { newSlot } from '../effects/catalogue'
import { feedbackRing, mostEventsPerSecond, RateGuard, ringInWords, type SendingTrack } from './feedback'
import { cablePortId } from './ports'
import { plainRoute } from './route'

const track = (
  id: string,
  hears: string | null,
  sends: string | null,
  fields: Partial<SendingTrack> = {},
) => ({
  id,
  name: id,
  channel: 1,
  slots: [],
  routes: hears ? [plainRoute({ portId: cablePortId(hears), channel: null })] : [],
  sendTo: sends ? { portId: cablePortId(sends), channel: null } : null,
  ...fields,
})

describe('feedback', () => {
  test('a track that sends what it hears is a ring of one', () => {
    const ring = feedbackRing([track('Echo', 'Pier', 'Pier')])
    expect(ring.map((each) => each.id)).toEqual(['Echo'])
    expect(ringInWords(ring)).toBe('Echo → Echo')
  })

  test('a ring over two cables is found, wherever it begins', () => {
    const tracks = [track('start', null, 'Pier'), track('A', 'Pier', 'Buoy'), track('B', 'Buoy', 'Pier')]
    expect(
      feedbackRing(tracks)
        .map((each) => each.id)
        .sort(),
    ).toEqual(['A', 'B'])
  })

  test('a chain is no ring', () => {
    expect(
      feedbackRing([track('A', null, 'Pier'), track('B', 'Pier', 'Buoy'), track('C', 'Buoy', null)]),
    ).toEqual([])
  })

  test('other channels of the same cable do not meet', () => {
    const apart = track('Echo', null, null, {
      routes: [plainRoute({ portId: cablePortId('Pier'), channel: 2 })],
      sendTo: { portId: cablePortId('Pier'), channel: 3 },
    })
    expect(feedbackRing([apart])).toEqual([])
    expect(feedbackRing([{ ...apart, sendTo: { portId: cablePortId('Pier'), channel: 2 } }])).toHaveLength(1)
    // Without a channel of its own the send uses the track's.
    expect(
      feedbackRing([{ ...apart, channel: 2, sendTo: { portId: cablePortId('Pier'), channel: null } }]),
    ).toHaveLength(1)
  })

  test('voices that effects deal to channels of their own come back on those', () => {
    const slots = [newSlot('dealVoices', 'd', { voices: 3, first: 4 })]
    const hearing = (channel: number, more: Partial<SendingTrack> = {}) =>
      track('Lute', null, 'Pier', {
        routes: [plainRoute({ portId: cablePortId('Pier'), channel })],
        slots,
        ...more,
      })
    expect(feedbackRing([hearing(6)])).toHaveLength(1)
    expect(feedbackRing([hearing(7)])).toEqual([])
    // Its own channel carries nothing any more, and a send with a channel carries everything.
    expect(feedbackRing([hearing(1)])).toEqual([])
    expect(feedbackRing([hearing(6, { sendTo: { portId: cablePortId('Pier'), channel: 9 } })])).toEqual([])
  })

  test('for any wiring, a ring is found exactly when notes would come back', () => {
    const cable = fc.constantFrom('a', 'b', 'c', 'd')
    fc.assert(
      fc.property(
        fc.array(fc.record({ hears: fc.option(cable), sends: fc.option(cable) }), { maxLength: 7 }),
        (wires) => {
          const tracks = wires.map(({ hears, sends }, index) => track(`t${index}`, hears, sends))
          const ring = feedbackRing(tracks)
          // Follows notes from every cable: more steps than there are tracks mean they go round.
          const goesRound = tracks.some((start) => {
            let cables = new Set([start.sendTo?.portId].filter((id) => id !== undefined))
            for (let step = 0; step <= tracks.length; step++)
              cables = new Set(
                tracks
                  .filter((each) => each.routes.some((route) => cables.has(route.portId)))
                  .flatMap((each) => (each.sendTo ? [each.sendTo.portId] : [])),
              )
            return cables.size > 0
          })
          expect(ring.length > 0).toBe(goesRound)
        },
      ),
    )
  })
})

describe('the rate guard', () => {
  test('lets a thousand events a second through for ever', () => {
    const guard = new RateGuard()
    for (let ms = 0; ms < 20_000; ms++) expect(guard.pass('A', ms)).toBe('passed')
  })

  test('shuts a port that floods, once, and opens it again', () => {
    const guard = new RateGuard()
    const answers = Array.from({ length: mostEventsPerSecond + 50 }, () => guard.pass('A', 500))
    expect(answers.filter((answer) => answer === 'shut')).toHaveLength(1)
    expect(answers.at(-1)).toBe('dropped')
    expect(guard.pass('B', 500)).toBe('passed')
    expect(guard.pass('A', 9000)).toBe('dropped')
    guard.open('A')
    expect(guard.pass('A', 9000)).toBe('passed')
  })
})
