import { cablePortId } from '@/core/routing/ports'
import { plainRoute } from '@/core/routing/route'
import { engineWorkshop, note, recordOrder } from './engineWorkshop.testing'

const pier = { portId: cablePortId('Pier'), channel: 3 }
const takesOf = (window: ReturnType<typeof engineWorkshop>['window']) =>
  window.filter((message) => message.type === 'takeFinished')
const bytesOf = (messages: readonly { readonly bytes: readonly number[] }[]) =>
  messages.map(({ bytes }) => [...bytes])

describe('a stop is a moment on the sources’ clock', () => {
  test('notes from before it that a busy page hands over later are in the take; later ones are not', () => {
    const { engine, run, input, window, now } = engineWorkshop([{}], {}, false)
    engine.receive(recordOrder())
    run(2500)
    const stopMs = now()
    // The page was busy: it hands over the stop first, then a hundred notes from before, one from after.
    engine.receive({ type: 'stop', atMs: stopMs })
    for (let index = 0; index < 100; index++) {
      input({ status: 0x90, data1: 20 + index, timeMs: stopMs - 200 + index })
      input({ status: 0x80, data1: 20 + index, timeMs: stopMs - 199.5 + index })
    }
    input({ status: 0x90, data1: 1, timeMs: stopMs + 10 })
    run(300)
    expect(takesOf(window)).toHaveLength(0)
    engine.receive({ type: 'settled', takeSerial: 1 })
    const [take] = takesOf(window)
    expect(take!.endMs).toBe(stopMs)
    expect(take!.events.count).toBe(200)
    expect([...take!.events.data1]).not.toContain(1)
    run(50)
    const heard = window.findLast((message) => message.type === 'activity')
    expect(heard?.type === 'activity' && heard.listenedNotes).toBe(1)
  })

  test('a take that is still waited for and the next one each get their own notes', () => {
    const { engine, run, input, window, now } = engineWorkshop([{}], { countInBars: 0 }, false)
    engine.receive(recordOrder())
    run(1000)
    const stopMs = now()
    engine.receive({ type: 'stop', atMs: stopMs })
    engine.receive(recordOrder({ takeSerial: 2 }))
    run(500)
    input({ status: 0x90, data1: 61, timeMs: stopMs - 5 })
    input({ status: 0x90, data1: 62 })
    engine.receive({ type: 'settled', takeSerial: 1 })
    engine.receive({ type: 'stop' })
    engine.receive({ type: 'settled', takeSerial: 2 })
    expect(takesOf(window).map((take) => [take.takeSerial, [...take.events.data1]])).toEqual([
      [1, [61]],
      [2, [62]],
    ])
  })

  test('a page that never answers does not keep the take for ever', () => {
    const { engine, run, input, window } = engineWorkshop([{}], {}, false)
    engine.receive(recordOrder())
    run(2500)
    input({ status: 0x90, data1: 60 })
    engine.receive({ type: 'stop' })
    run(31_000, 50)
    expect(takesOf(window)).toHaveLength(1)
  })

  test('leaving hands over what is being recorded before it says that all is there', () => {
    const { engine, run, input, window } = engineWorkshop([{}], {}, false)
    engine.receive(recordOrder())
    run(2500)
    input({ status: 0x90, data1: 60 })
    engine.receive({ type: 'leave' })
    const told = window.map((message) => message.type)
    expect(told.indexOf('takeFinished')).toBeGreaterThan(0)
    expect(told.at(-1)).toBe('left')
  })
})

describe('what was moved is put back', () => {
  test('on a cable: keys up, pedal up, bend to the middle, then sound off, on every channel that got something', () => {
    const { engine, input, run, ports } = engineWorkshop([
      { sendTo: pier },
      { sendTo: { ...pier, channel: 4 } },
    ])
    input({ status: 0x90, data1: 60 })
    input({ status: 0xb0, data1: 64, data2: 127 })
    input({ status: 0xe0, data1: 0, data2: 100 })
    input({ status: 0xd0, data1: 90 })
    input({ status: 0xb1, data1: 7, data2: 100 })
    run(20)
    ports.length = 0
    engine.receive({ type: 'panic' })
    run(20)
    const sent = bytesOf(ports)
    expect(sent).toEqual(
      expect.arrayContaining([
        [0x82, 60, 64],
        [0xb2, 64, 0],
        [0xe2, 0, 64],
        [0xd2, 0],
        [0xb2, 120, 0],
        [0xb3, 120, 0],
      ]),
    )
    // Volume sets a sound up: it has no rest.
    expect(sent.some(([status, number]) => status === 0xb3 && number === 7)).toBe(false)
    const places = ports.filter(({ bytes }) => (bytes[0]! & 0x0f) === 2)
    expect(places.at(-1)!.bytes).toEqual([0xb2, 120, 0])
  })

  test('on stop, also what was handed over ahead of its time; nothing is sent twice', () => {
    const { engine, run, ports, content } = engineWorkshop([{ sendTo: pier }])
    content('t0', [note(1, 0, 400_000, 40)])
    engine.receive({
      type: 'trackContent',
      trackId: 't0',
      notes: { count: 0, times: new Int32Array(), bytes: new Uint8Array(), origins: new Int32Array() },
      controllers: [{ tick: 0, channel: 1, kind: 'controller', number: 64, value: 127 }],
    })
    engine.receive({ type: 'play', fromTicks: 0, untilTicks: null, loop: null })
    run(30)
    engine.receive({ type: 'stop' })
    const sent = ports.map(({ bytes, timeMs }) => ({ bytes: [...bytes], timeMs }))
    const down = sent.find(({ bytes }) => bytes[1] === 64 && bytes[2] === 127)!
    const up = sent.find(({ bytes }) => bytes[1] === 64 && bytes[2] === 0)!
    expect(up.timeMs).toBeGreaterThan(down.timeMs)
    const count = ports.length
    engine.receive({ type: 'stop' })
    engine.receive({ type: 'panic' })
    run(20)
    expect(ports).toHaveLength(count)
  })

  test('at the synthesiser too, and music that came to its end is left to ring', () => {
    const { engine, input, run, synth, ports, content } = engineWorkshop([{ sendTo: pier }])
    input({ status: 0xe0, data1: 0, data2: 0 })
    engine.receive({ type: 'panic' })
    expect(synth.at(-1)).toMatchObject({ status: 0xe0, key: 0, velocity: 64 })
    content('t0', [note(1, 0, 5000, 40)])
    ports.length = 0
    engine.receive({ type: 'play', fromTicks: 0, untilTicks: 5040, loop: null })
    run(2000)
    expect(bytesOf(ports)).toEqual([
      [0x92, 40, 90],
      [0x82, 40, 64],
    ])
  })

  test('a port that is lost lets go of its pedal, in the take as in what is heard', () => {
    const { engine, input, run, synth, window, now } = engineWorkshop([{}])
    engine.receive(recordOrder())
    run(2500)
    input({ status: 0xb0, data1: 64, data2: 127 })
    input({ status: 0x90, data1: 60 })
    run(100)
    const lostMs = now()
    // A busy page tells of it much later: in the take they end when the port went.
    run(1800)
    engine.receive({ type: 'portLost', portId: 'A', atMs: lostMs })
    expect(synth.slice(-2)).toMatchObject([
      { status: 0x80, key: 60 },
      { status: 0xb0, key: 64, velocity: 0 },
    ])
    engine.receive({ type: 'stop' })
    const { events } = takesOf(window)[0]!
    expect([...events.statuses]).toEqual([0xb0, 0x90, 0x80, 0xb0])
    expect(events.data2[3]).toBe(0)
    expect([...events.timesMs.slice(2)]).toEqual([lostMs, lostMs])
  })

  test('while a take is recorded, sound can be silenced and the take goes on', () => {
    const { engine, input, run, told, window } = engineWorkshop([{}])
    engine.receive(recordOrder())
    run(2500)
    input({ status: 0x90, data1: 60 })
    run(100)
    told.length = 0
    engine.receive({ type: 'hush' })
    expect(told.some(({ message }) => message.type === 'cancel')).toBe(true)
    run(200)
    input({ status: 0x80, data1: 60 })
    input({ status: 0x90, data1: 64 })
    expect(takesOf(window)).toEqual([])
    engine.receive({ type: 'stop' })
    expect([...takesOf(window)[0]!.events.statuses]).toEqual([0x90, 0x80, 0x90])
  })

  test('a pedal that a player holds while the piece starts stays down, and is in the take', () => {
    const { engine, input, run, synth, window } = engineWorkshop([
      { routes: [plainRoute({ portId: 'A', channel: 1 })] },
    ])
    input({ status: 0xb0, data1: 64, data2: 127 })
    engine.receive(recordOrder())
    run(2500)
    const pedal = synth.filter((command) => command.status === 0xb0 && command.key === 64)
    expect(pedal.at(-1)!.velocity).toBe(127)
    input({ status: 0x90, data1: 60 })
    engine.receive({ type: 'stop' })
    const { events } = takesOf(window)[0]!
    expect([...events.statuses]).toContain(0xb0)
  })
})
