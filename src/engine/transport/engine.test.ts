import fc from 'fast-check'
import { joinTakeEvents } from '@/core/capture/takeEvents'
import { newSlot } from '@/core/effects/catalogue'
import { printChain } from '@/core/effects/print'
import { plainRoute } from '@/core/routing/route'
import { MeterMap } from '@/core/time/meterMap'
import { TempoMap } from '@/core/time/tempoMap'
import type { SourceEvent } from '../protocol'
import { emptySetup } from './engineNow'
import { engineWorkshop, note, offs, ons, recordOrder } from './engineWorkshop.testing'

const scale = Array.from({ length: 16 }, (_, index) => note(index + 1, index * 5040, 4000, 60 + index))
const context = {
  tempoMap: new TempoMap([{ tick: 0, tempoBpm: 120 }]),
  meterMap: new MeterMap([{ tick: 0, numerator: 4, denominator: 4 }]),
}

describe('playing', () => {
  test('hands each note over once, ahead of its time and at exactly its time', () => {
    const { engine, synth, content, run, window } = engineWorkshop([{}])
    content('t0', scale)
    engine.receive({ type: 'play', fromTicks: 0, untilTicks: null, loop: null })
    run(5000, 7)
    const started = window.find((message) => message.type === 'transport')!
    if (started.type !== 'transport' || started.transport.state !== 'playing')
      throw new Error('It should play')
    const startSeconds = (started.transport.startedAtMs - 5_000_000) / 1000
    expect(ons(synth).map((command) => command.key)).toEqual(scale.map((each) => each.key))
    for (const [index, command] of ons(synth).entries())
      expect(command.atSeconds).toBeCloseTo(startSeconds + index * 0.25, 9)
    expect(offs(synth)).toHaveLength(16)
  })

  test('from the middle, from there on', () => {
    const { engine, synth, content, run } = engineWorkshop([{}])
    content('t0', scale)
    engine.receive({ type: 'play', fromTicks: 5040 * 10, untilTicks: null, loop: null })
    run(4000)
    expect(ons(synth).map((command) => command.key)).toEqual([70, 71, 72, 73, 74, 75])
  })

  test('muted tracks are handed nothing, and muting ends what sounds', () => {
    const { engine, synth, cancels, content, run, setTracks } = engineWorkshop([{}, {}])
    content('t0', scale)
    content('t1', scale)
    engine.receive({ type: 'play', fromTicks: 0, untilTicks: null, loop: null })
    run(1000)
    setTracks((track) => (track.id === 't1' ? { ...track, isAudible: false } : track))
    const before = ons(synth).filter((command) => command.channel === 2).length
    expect(cancels).toContainEqual([2])
    run(3000)
    expect(ons(synth).filter((command) => command.channel === 2)).toHaveLength(before)
    expect(ons(synth).filter((command) => command.channel === 1)).toHaveLength(16)
  })

  test('stops by itself at the end and goes back to the beginning', () => {
    const { engine, content, run, window } = engineWorkshop([{}])
    content('t0', scale.slice(0, 2))
    engine.receive({ type: 'play', fromTicks: 0, untilTicks: 10_080, loop: null })
    run(2000)
    expect(window.filter((message) => message.type === 'transport').at(-1)).toEqual({
      type: 'transport',
      transport: { state: 'stopped', ticks: 0 },
    })
  })

  test('an effect on a track is heard in place of the track, exactly as it is printed', () => {
    const effects = [newSlot('arpeggio', 'fx', { order: 'by chance' }, 7)]
    const { engine, synth, content, run } = engineWorkshop([{ slots: effects }])
    const chords = [
      note(1, 0, 30_000, 60),
      note(2, 100, 30_000, 64),
      note(3, 50, 30_000, 67),
      note(4, 40_400, 30_000, 62),
      note(5, 40_500, 30_000, 65),
    ]
    content('t0', chords)
    engine.receive({ type: 'play', fromTicks: 0, untilTicks: null, loop: null })
    run(6000, 3)
    const printed = printChain(chords, { slots: effects, changes: [] }, context, 1).notes
    expect(ons(synth).map((command) => command.key)).toEqual(printed.map((each) => each.key))
    const first = ons(synth)[0]!.atSeconds
    for (const [index, command] of ons(synth).entries())
      expect(command.atSeconds - first).toBeCloseTo(
        ((printed[index]!.onsetTicks - printed[0]!.onsetTicks) / 10_080) * 0.5,
        9,
      )
  })
})

describe('live', () => {
  test('what is played sounds at once on the track that listens, and on no other', () => {
    const { synth, input } = engineWorkshop([{}, {}])
    input({ status: 0x91, data1: 64 })
    input({ status: 0x81, data1: 64 })
    expect(synth).toMatchObject([
      { channel: 2, status: 0x90, key: 64, atSeconds: 0 },
      { channel: 2, status: 0x80, key: 64, atSeconds: 0 },
    ])
  })

  test('a key is released where it was pressed, also when the route changed in between', () => {
    const { synth, input, setTracks } = engineWorkshop([{}, {}])
    input({ status: 0x90, data1: 60 })
    setTracks((track) =>
      track.id === 't0'
        ? { ...track, routes: [plainRoute({ portId: 'elsewhere', channel: 1 })] }
        : { ...track, routes: [plainRoute({ portId: 'A', channel: 1 })] },
    )
    input({ status: 0x80, data1: 60 })
    expect(offs(synth).some((command) => command.channel === 1 && command.key === 60)).toBe(true)
    expect(ons(synth)).toHaveLength(1)
  })

  test('a port that vanishes lets go of its keys', () => {
    const { engine, synth, input, now } = engineWorkshop([{}])
    input({ status: 0x90, data1: 60 })
    engine.receive({ type: 'portLost', portId: 'A', atMs: now() })
    expect(offs(synth)).toMatchObject([{ key: 60 }])
  })

  test('a live effect gives each note it begins an end', () => {
    const effects = [newSlot('arpeggio', 'fx')]
    const { synth, input, run } = engineWorkshop([{ slots: effects }])
    for (const key of [60, 64, 67]) input({ status: 0x90, data1: key })
    run(1500)
    for (const key of [60, 64, 67]) input({ status: 0x80, data1: key })
    run(1000)
    expect(ons(synth).length).toBeGreaterThan(8)
    expect(offs(synth)).toHaveLength(ons(synth).length)
  })
})

describe('recording', () => {
  test('keeps every event with the time stamp of its source, for any stream', () => {
    const event = fc.record({
      gapMs: fc.double({ min: 0, max: 40, noNaN: true }),
      channel: fc.integer({ min: 0, max: 15 }),
      key: fc.nat(127),
      isOn: fc.boolean(),
    })
    fc.assert(
      fc.property(fc.array(event, { minLength: 1, maxLength: 120 }), (list) => {
        const { engine, window, journaled, journalTimes, run, now } = engineWorkshop([{}])
        engine.receive(recordOrder({ takeSerial: 1 }))
        run(2200)
        const sent: SourceEvent[] = []
        for (const each of list) {
          run(each.gapMs)
          // The page was busy: the event arrives late, but says when it happened.
          const source = {
            portId: 'A',
            timeMs: now() - 3.25,
            status: (each.isOn ? 0x90 : 0x80) | each.channel,
            data1: each.key,
            data2: 70,
          }
          sent.push(source)
          engine.receive({ type: 'input', events: [source] })
        }
        run(400)
        engine.receive({ type: 'stop' })
        const finished = window.find((message) => message.type === 'takeFinished')
        if (finished?.type !== 'takeFinished') throw new Error('A take should be finished')
        expect([...finished.events.timesMs]).toEqual(sent.map((each) => each.timeMs))
        expect([...finished.events.data1]).toEqual(sent.map((each) => each.data1))
        expect(joinTakeEvents(journaled)).toEqual(finished.events)
        for (let i = 1; i < journalTimes.length; i++)
          expect(journalTimes[i]! - journalTimes[i - 1]!).toBeGreaterThanOrEqual(55)
      }),
      { numRuns: 40 },
    )
  })

  test('one bar of count-in before the first beat, with four clicks', () => {
    const { engine, synth, window, run } = engineWorkshop([{}], { click: emptySetup.click })
    engine.receive(recordOrder({ takeSerial: 1 }))
    run(1900)
    const started = window.find((message) => message.type === 'transport')!
    if (started.type !== 'transport' || started.transport.state !== 'recording')
      throw new Error('It should record')
    const startSeconds = (started.transport.startedAtMs - 5_000_000) / 1000
    const clicks = ons(synth).filter(
      (command) => command.channel === 0 && command.atSeconds < startSeconds - 0.001,
    )
    expect(clicks.map((command) => Math.round((command.atSeconds - startSeconds) * 1000))).toEqual([
      -2000, -1500, -1000, -500,
    ])
  })

  test('silence everything ends recording, and the take is kept', () => {
    const { engine, window, input, run } = engineWorkshop([{}])
    engine.receive(recordOrder({ takeSerial: 1 }))
    run(2500)
    input({ status: 0x90, data1: 60 })
    engine.receive({ type: 'panic' })
    const finished = window.find((message) => message.type === 'takeFinished')
    expect(finished?.type === 'takeFinished' && [...finished.events.statuses]).toEqual([0x90, 0x80])
  })

  test('what was played before recording can still become a take, first note on the downbeat', () => {
    const { engine, window, input, run, journaled, now } = engineWorkshop([{}])
    input({ status: 0x90, data1: 60 })
    const firstMs = now()
    run(500)
    input({ status: 0x80, data1: 60 })
    run(100)
    const seen = window.filter((message) => message.type === 'activity').at(-1)
    expect(seen?.type === 'activity' && seen.listenedNotes).toBe(1)
    engine.receive({ type: 'keepListened', projectId: 'p', takeSerial: 3 })
    const finished = window.find((message) => message.type === 'takeFinished')
    expect(finished).toMatchObject({ takeSerial: 3, startTicks: 0, anchorMs: firstMs })
    expect(finished?.type === 'takeFinished' && finished.events.count).toBe(2)
    expect(journaled).toHaveLength(1)
  })

  test('recording again while recording finishes the first take and loses none of it', () => {
    const { engine, window, input, run } = engineWorkshop([{}])
    engine.receive(recordOrder({ takeSerial: 1 }))
    run(2500)
    input({ status: 0x90, data1: 60 })
    input({ status: 0x80, data1: 60 })
    engine.receive(recordOrder({ takeSerial: 2 }))
    const finished = window.filter((message) => message.type === 'takeFinished')
    expect(finished).toMatchObject([{ takeSerial: 1, events: { count: 2 } }])
  })
})
