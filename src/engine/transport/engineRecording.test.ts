import fc from 'fast-check'
import { splitPasses } from '@/core/capture/passes'
import { takeToNotes } from '@/core/capture/takeToNotes'
import { newSlot } from '@/core/effects/catalogue'
import { cablePortId } from '@/core/routing/ports'
import { plainRoute } from '@/core/routing/route'
import { TempoMap } from '@/core/time/tempoMap'
import { engineWorkshop, finishedTakes, note, ons, recordOrder } from './engineWorkshop.testing'

const bar = 40_320
const loopOrder = (fields = {}) => recordOrder({ endTicks: bar, isLooping: true, ...fields })

describe('recording in a loop', () => {
  test('a player 60 ms early in each of four passes: nothing is lost, each stroke on its downbeat', () => {
    const { engine, run, input, window, now } = engineWorkshop([{}])
    engine.receive(loopOrder())
    // 120 ms of lead and two seconds of count-in; a pass is two seconds.
    run(2120 - 60)
    for (let pass = 0; pass < 4; pass++) {
      input({ status: 0x90, data1: 60 + pass })
      run(500)
      input({ status: 0x80, data1: 60 + pass })
      run(1500)
    }
    engine.receive({ type: 'stop' })
    const take = finishedTakes(window)[0]!
    expect(take).toMatchObject({ passMs: 2000, startTicks: 0, events: { count: 8 } })
    const passes = splitPasses(take.events, { anchorMs: take.anchorMs, passMs: 2000, earlyMs: 60 }, now())
    expect(passes.map((pass) => [pass.index, [...pass.events.data1]])).toEqual([
      [0, [60, 60]],
      [1, [61, 61]],
      [2, [62, 62]],
      [3, [63, 63]],
    ])
  })

  test('layered: what was played in a pass sounds in the next ones, at its place', () => {
    const { engine, run, input, synth } = engineWorkshop([{}], { takeMode: 'layered' })
    engine.receive(loopOrder())
    run(2120 + 500)
    input({ status: 0x90, data1: 72 })
    run(250)
    input({ status: 0x80, data1: 72 })
    run(5000)
    const heard = ons(synth).filter((command) => command.key === 72)
    // Live once (at once), then in the passes that follow, two seconds apart.
    expect(heard[0]!.atSeconds).toBe(0)
    const again = heard.slice(1).map((command) => command.atSeconds)
    expect(again.length).toBeGreaterThanOrEqual(2)
    expect(again[0]).toBeCloseTo(2.12 + 2.5, 2)
    expect(again[1]! - again[0]!).toBeCloseTo(2, 6)
  })

  test('fresh: earlier passes are silent, and the music that was there steps back for whoever plays', () => {
    const { engine, run, input, synth, content } = engineWorkshop([{}, {}])
    content('t0', [note(1, 0, 5000, 40), note(2, 30_240, 5000, 41)])
    content('t1', [note(3, 30_240, 5000, 50)])
    engine.receive(loopOrder())
    run(2120 + 200)
    input({ status: 0x90, data1: 72 })
    run(100)
    input({ status: 0x80, data1: 72 })
    run(6000)
    const keys = ons(synth).map((command) => command.key)
    expect(keys.filter((key) => key === 72)).toHaveLength(1)
    expect(keys.filter((key) => key === 40)).toHaveLength(1)
    expect(keys).not.toContain(41)
    expect(keys.filter((key) => key === 50).length).toBeGreaterThanOrEqual(3)
  })

  test('for any playing in a loop, every note-on that arrived is in exactly one pass, with its note-off', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            gapMs: fc.integer({ min: 5, max: 900 }),
            key: fc.integer({ min: 60, max: 66 }),
            isOn: fc.boolean(),
          }),
          { minLength: 1, maxLength: 40 },
        ),
        (moves) => {
          const { engine, run, input, window, now } = engineWorkshop([{}])
          engine.receive(loopOrder())
          run(2120)
          let strokes = 0
          for (const { gapMs, key, isOn } of moves) {
            run(gapMs)
            input({ status: isOn ? 0x90 : 0x80, data1: key })
            if (isOn) strokes++
          }
          engine.receive({ type: 'stop' })
          const take = finishedTakes(window)[0]!
          const loop = { anchorMs: take.anchorMs, passMs: take.passMs!, earlyMs: take.earlyMs }
          const passes = splitPasses(take.events, loop, now())
          const inPasses = passes.reduce(
            (sum, pass) => sum + pass.events.statuses.filter((status) => status === 0x90).length,
            0,
          )
          expect(inPasses).toBe(strokes)
        },
      ),
      { numRuns: 30 },
    )
  })
})

describe('how a recording begins and ends', () => {
  test('with the first note: it is the downbeat, to the millisecond', () => {
    const { engine, run, input, window, now } = engineWorkshop([{}])
    engine.receive(recordOrder({ startsWithFirstNote: true }))
    run(3000)
    const states = () =>
      window.flatMap((message) => (message.type === 'transport' ? [message.transport.state] : []))
    expect(states()).toEqual(['waiting'])
    const playedAt = now()
    input({ status: 0x90, data1: 60 })
    expect(states()).toEqual(['waiting', 'recording'])
    run(500)
    engine.receive({ type: 'stop' })
    expect(finishedTakes(window)[0]).toMatchObject({
      anchorMs: playedAt,
      startTicks: 0,
      events: { count: 1 },
    })
  })

  test('a stretch with a run-up: it starts before, records only the stretch, and ends by itself', () => {
    const { engine, run, input, window } = engineWorkshop([{}])
    engine.receive(recordOrder({ fromTicks: 0, startTicks: bar, endTicks: 2 * bar }))
    run(1000)
    input({ status: 0x90, data1: 50 })
    run(100)
    input({ status: 0x80, data1: 50 })
    run(2000)
    input({ status: 0x90, data1: 60 })
    // Held over the end: the recording waits for the release.
    run(1400)
    expect(finishedTakes(window)).toEqual([])
    input({ status: 0x80, data1: 60 })
    run(20)
    const take = finishedTakes(window)[0]!
    expect(take).toMatchObject({ startTicks: bar, endTicks: 2 * bar, events: { count: 4 } })
    // No count-in: the run-up is one. Bar 2 begins two seconds after bar 1.
    expect(take.anchorMs).toBe(5_000_000 + 120 + 2000)
  })

  test('a machine that slept ends the recording where it fell asleep', () => {
    const { engine, run, input, window, sleep } = engineWorkshop([{}])
    engine.receive(recordOrder())
    run(3000)
    input({ status: 0x90, data1: 60 })
    run(100)
    sleep(60_000)
    engine.tick()
    expect(window).toContainEqual({ type: 'slept', sleptMs: 60_000, wasRecording: true })
    const take = finishedTakes(window)[0]!
    expect(take.endMs).toBe(5_003_100)
    expect([...take.events.statuses]).toEqual([0x90, 0x80])
  })

  test('with listening off, what is played outside is forgotten and still counted', () => {
    const { engine, run, input, window } = engineWorkshop([{}], { isListening: false })
    input({ status: 0x90, data1: 60 })
    run(100)
    const told = window.findLast((message) => message.type === 'activity')
    expect(told).toMatchObject({ listenedNotes: 0, streams: [{ noteOns: 1, outside: 1 }] })
    engine.receive({ type: 'keepListened', projectId: 'p', takeSerial: 1 })
    expect(finishedTakes(window)).toEqual([])
  })

  test('what was played along to the piece is kept where it was played', () => {
    const { engine, run, input, window, content } = engineWorkshop([{}])
    content('t0', [note(1, 0, 400_000, 40)])
    engine.receive({ type: 'play', fromTicks: bar, untilTicks: null, loop: null })
    run(120 + 1000)
    input({ status: 0x90, data1: 60 })
    engine.receive({ type: 'stop' })
    engine.receive({ type: 'keepListened', projectId: 'p', takeSerial: 1 })
    expect(finishedTakes(window)[0]).toMatchObject({ startTicks: bar + 20_160, anchorMs: 5_001_120 })
  })
})

describe('routes, monitoring and sends', () => {
  test('keys are divided, transposed and shaped on the way', () => {
    const { input, synth } = engineWorkshop([
      { routes: [{ ...plainRoute({ portId: 'A', channel: 1 }), highKey: 59, transposeSemitones: -12 }] },
      {
        routes: [
          {
            ...plainRoute({ portId: 'A', channel: 1 }),
            lowKey: 60,
            velocity: { kind: 'fixed', velocity: 99 },
          },
        ],
      },
    ])
    input({ status: 0x90, data1: 50, data2: 20 })
    input({ status: 0x90, data1: 70, data2: 20 })
    input({ status: 0x80, data1: 50 })
    expect(synth.map(({ channel, status, key, velocity }) => [channel, status, key, velocity])).toEqual([
      [1, 0x90, 38, 20],
      [2, 0x90, 70, 99],
      [1, 0x80, 38, 0],
    ])
  })

  test.each([
    ['always', false, 1],
    ['armed', false, 0],
    ['armed', true, 1],
    ['off', true, 0],
  ] as const)('monitor %s, armed %s: heard %d times', (monitor, isArmed, times) => {
    const { input, synth } = engineWorkshop([{ monitor, isArmed }])
    input({ status: 0x90, data1: 60 })
    expect(ons(synth)).toHaveLength(times)
  })

  test('disarming a track that is heard when armed ends what it sounds', () => {
    const { input, synth, setTracks } = engineWorkshop([{ monitor: 'armed' }])
    input({ status: 0x90, data1: 60 })
    setTracks((track) => ({ ...track, isArmed: false }))
    expect(synth.filter((command) => command.status === 0x80)).toHaveLength(1)
  })

  test('what a track plays is sent to its cable, live and from the piece, and ended on stop', () => {
    const { engine, input, run, content, ports } = engineWorkshop([
      { sendTo: { portId: cablePortId('Pier'), channel: 7 } },
    ])
    input({ status: 0x90, data1: 60 })
    input({ status: 0x80, data1: 60 })
    run(20)
    expect(ports.map((message) => message.bytes[0])).toEqual([0x96, 0x86])
    content('t0', [note(1, 0, 400_000, 40)])
    engine.receive({ type: 'play', fromTicks: 0, untilTicks: null, loop: null })
    run(1000)
    engine.receive({ type: 'stop' })
    expect(ports.slice(2).map((message) => [message.bytes[0], message.bytes[1]])).toEqual([
      [0x96, 40],
      [0x86, 40],
      [0xb6, 120],
    ])
    expect(ports[2]!.timeMs).toBeCloseTo(5_000_140, 6)
  })

  test('a track in a ring of feedback sends nothing', () => {
    const { input, run, ports } = engineWorkshop([
      {
        routes: [plainRoute({ portId: cablePortId('Pier'), channel: null })],
        sendTo: { portId: cablePortId('Pier'), channel: null },
      },
    ])
    input({ portId: cablePortId('Pier'), status: 0x90, data1: 60 })
    run(50)
    expect(ports).toEqual([])
  })

  test('a port that floods is shut, what sounded from it ends, and it can be opened again', () => {
    const { engine, input, synth, window } = engineWorkshop([{}])
    for (let i = 0; i < 8000; i++) input({ status: 0x90, data1: 60 })
    expect(window.filter((message) => message.type === 'portShut')).toEqual([
      { type: 'portShut', portId: 'A' },
    ])
    expect(synth.at(-1)!.status).toBe(0x80)
    const before = synth.length
    input({ status: 0x90, data1: 62 })
    expect(synth).toHaveLength(before)
    engine.receive({ type: 'openPort', portId: 'A' })
    input({ status: 0x90, data1: 62 })
    expect(synth.length).toBeGreaterThan(before)
  })

  test('a playing offset moves a track, not what it is', () => {
    const { engine, run, content, synth } = engineWorkshop([{ offsetMs: 0 }, { offsetMs: -15 }])
    content('t0', [note(1, 10_080, 100, 40)])
    content('t1', [note(2, 10_080, 100, 41)])
    engine.receive({ type: 'play', fromTicks: 0, untilTicks: null, loop: null })
    run(1500)
    const [late, early] = [40, 41].map((key) => ons(synth).find((command) => command.key === key)!.atSeconds)
    expect(late! - early!).toBeCloseTo(0.015, 9)
  })
})

describe('clock', () => {
  test('sent: position, start, 24 to the quarter at its exact time, stop', () => {
    const { engine, run, ports } = engineWorkshop([{}], { clockTo: ['P', cablePortId('Pier')] })
    engine.receive({ type: 'play', fromTicks: 0, untilTicks: null, loop: null })
    run(2000)
    engine.receive({ type: 'stop' })
    run(20)
    const sent = ports.filter((message) => message.portId === 'P')
    expect(sent.slice(0, 2).map((message) => message.bytes)).toEqual([[0xf2, 0, 0], [0xfa]])
    expect(sent.at(-1)!.bytes).toEqual([0xfc])
    const clocks = sent.filter((message) => message.bytes[0] === 0xf8)
    for (const [index, clock] of clocks.entries())
      expect(clock.timeMs).toBeCloseTo(5_000_120 + (index * 500) / 24, 6)
    expect(ports.filter((message) => message.portId === cablePortId('Pier'))).toHaveLength(sent.length)
  })

  test('sent from the middle: song position and continue', () => {
    const { engine, run, ports } = engineWorkshop([{}], { clockTo: ['P'] })
    engine.receive({ type: 'play', fromTicks: 8 * bar, untilTicks: null, loop: null })
    run(100)
    expect(ports.slice(0, 2).map((message) => message.bytes)).toEqual([[0xf2, 0, 1], [0xfb]])
  })
})

describe('what a take is played to', () => {
  const slow = { tempos: [{ tick: 0, tempoBpm: 60 }] }
  const fast = [{ tick: 0, tempoBpm: 120 }]

  test('a tempo changed meanwhile waits for its end, and that is said once', () => {
    const { engine, run, input, window, base } = engineWorkshop([{}], { ...slow, countInBars: 0 })
    engine.receive(recordOrder())
    run(120)
    for (let beat = 0; beat < 4; beat++) {
      if (beat > 1) engine.receive({ type: 'setup', setup: { ...base, tempos: fast, countInBars: beat } })
      input({ status: 0x90, data1: 60 + beat })
      run(500)
      input({ status: 0x80, data1: 60 + beat })
      run(500)
    }
    expect(window.filter(({ type }) => type === 'tempoWaits')).toHaveLength(1)
    engine.receive({ type: 'stop' })
    const take = finishedTakes(window)[0]!
    expect(take.playedTo.tempos).toEqual(slow.tempos)
    const { tracks } = takeToNotes(
      take.events,
      { ...take, tempoMap: new TempoMap(take.playedTo.tempos) },
      [{ id: 't0', routes: base.tracks[0]!.routes }],
      1,
    )
    expect(tracks[0]!.notes.map(({ onsetTicks }) => Math.round(onsetTicks / 10_080))).toEqual([0, 1, 2, 3])
    // The next one runs at the new tempo.
    window.length = 0
    engine.receive(recordOrder({ takeSerial: 2 }))
    expect(window).toContainEqual({
      type: 'transport',
      transport: expect.objectContaining({ state: 'recording', tempos: fast }),
    })
  })

  test('a recording that another one follows at once hands on the tempo that waited', () => {
    const { engine, run, input, window, base } = engineWorkshop([{}], slow)
    engine.receive(recordOrder())
    run(4200)
    input({ status: 0x90, data1: 60 })
    engine.receive({ type: 'setup', setup: { ...base, tempos: fast } })
    engine.receive(recordOrder({ takeSerial: 2 }))
    run(2200)
    input({ status: 0x90, data1: 62 })
    engine.receive({ type: 'stop' })
    expect(finishedTakes(window).map(({ playedTo: { tempos } }) => tempos)).toEqual([slow.tempos, fast])
  })

  test('who listens is as at the end; effects of players are kept as they were, with what was changed, where', () => {
    const up = (semitones: number) => [newSlot('transpose', 'a', { semitones })]
    const address = { portId: 'A', channel: 1 }
    const chain = (semitones: number) => ({ sourceChains: [{ ...address, slots: up(semitones) }] })
    const { engine, run, input, window, base } = engineWorkshop([{ isArmed: false }, {}], {
      ...chain(12),
      countInBars: 0,
    })
    engine.receive(recordOrder())
    run(120 + 500)
    input({ status: 0x90, data1: 60 })
    engine.receive({ type: 'setup', setup: { ...base, ...chain(7) } })
    run(1000)
    const tracks = base.tracks.map((track, index) => ({ ...track, isArmed: index === 0 }))
    engine.receive({ type: 'setup', setup: { ...base, ...chain(7), tracks } })
    engine.receive({ type: 'stop' })
    expect(finishedTakes(window)[0]!.playedTo).toMatchObject({
      listeners: [{ trackId: 't0' }],
      chains: [{ ...address, slots: up(12), changes: [{ tick: 10_080, slots: up(7) }] }],
    })
  })

  test('what was played along outside recording lies along the tempi that were heard then', () => {
    const { engine, run, input, window, base, content } = engineWorkshop([{}], slow)
    content('t0', [note(1, 0, 100_000, 40)])
    engine.receive({ type: 'play', fromTicks: 0, untilTicks: null, loop: null })
    run(120 + 1000)
    input({ status: 0x90, data1: 60 })
    run(300)
    engine.receive({ type: 'stop' })
    engine.receive({ type: 'setup', setup: { ...base, tempos: fast } })
    engine.receive({ type: 'keepListened', projectId: 'p', takeSerial: 3 })
    expect(finishedTakes(window)[0]).toMatchObject({ startTicks: 10_080, playedTo: { tempos: slow.tempos } })
  })
})
