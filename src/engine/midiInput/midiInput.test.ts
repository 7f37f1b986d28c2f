import type { SourceEvent } from '../protocol'
import { ComputerKeyboard, computerKeyboardPortId } from './computerKeyboard'
import {
  followMidiPorts,
  listenToPort,
  type MidiAvailability,
  type MidiInputPort,
  type MidiPorts,
} from './midiInputs'

/** A port of the shape of the W3C Web MIDI API. */
class Port extends EventTarget implements MidiInputPort {
  state: 'connected' | 'disconnected' = 'connected'
  constructor(
    readonly id: string,
    readonly name: string | null = id,
  ) {
    super()
  }

  send(timeStamp: number, ...bytes: number[]): void {
    const event = new Event('midimessage')
    Object.defineProperty(event, 'timeStamp', { value: timeStamp })
    this.dispatchEvent(Object.assign(event, { data: Uint8Array.from(bytes) }))
  }
}

describe('a MIDI port', () => {
  test('gives messages with the time stamp of the device, whenever they arrive', () => {
    const port = new Port('A')
    const received: SourceEvent[] = []
    const stop = listenToPort(
      port,
      (event) => received.push(event),
      () => undefined,
    )
    port.send(1234.5, 0x92, 60, 100)
    port.send(1300.25, 0xc2, 7)
    expect(received).toEqual([
      { portId: 'A', timeMs: performance.timeOrigin + 1234.5, status: 0x92, data1: 60, data2: 100 },
      { portId: 'A', timeMs: performance.timeOrigin + 1300.25, status: 0xc2, data1: 7, data2: 0 },
    ])
    stop()
    port.send(1400, 0x92, 60, 0)
    expect(received).toHaveLength(2)
  })

  test('of system messages only the clock comes through', () => {
    const port = new Port('A')
    const received: SourceEvent[] = []
    listenToPort(
      port,
      (event) => received.push(event),
      () => undefined,
    )
    port.send(0, 0xf8)
    port.send(0, 0xf0, 0x7e, 0xf7)
    port.send(5, 0xfa)
    expect(received.map((event) => event.status)).toEqual([0xf8, 0xfa])
  })
})

describe('what is no MIDI message', () => {
  test.each([
    ['a data byte above 127', [0x90, 0xc8, 0x64], /data byte 200; data bytes go up to 127/],
    ['a missing velocity', [0x90, 60], /2 of 3 bytes/],
    ['a missing program', [0xc0], /1 of 2 bytes/],
    ['no status byte', [60, 64], /begins with 60/],
  ])('%s is refused with the reason, and nothing is made up for it', (_, bytes, reason) => {
    const port = new Port('A')
    const received: SourceEvent[] = []
    const refused: string[] = []
    listenToPort(
      port,
      (event) => received.push(event),
      (why) => refused.push(why),
    )
    port.send(0, ...bytes)
    expect(received).toEqual([])
    expect(refused).toHaveLength(1)
    expect(refused[0]).toMatch(reason)
  })

  test('a port with a very long identifier and name is known by short ones, and told from its twin', () => {
    const long = 'p'.repeat(400)
    const ids = [long, `${long}2`].map((id) => {
      const received: SourceEvent[] = []
      const port = new Port(id)
      listenToPort(
        port,
        (event) => received.push(event),
        () => undefined,
      )
      port.send(0, 0x90, 60, 64)
      return received[0]!.portId
    })
    expect(ids[0]).not.toBe(ids[1])
    expect(Math.max(...ids.map((id) => id.length))).toBeLessThanOrEqual(300)
  })
})

describe('the browser’s MIDI', () => {
  const withRequest = async (request: unknown) => {
    const told: { availability: MidiAvailability; ports: MidiPorts }[] = []
    Object.defineProperty(globalThis, 'navigator', {
      value: { requestMIDIAccess: request },
      configurable: true,
    })
    await followMidiPorts((availability, ports) => told.push({ availability, ports }))
    return told
  }

  test('ports are followed as they come and go', async () => {
    const [first, second] = [new Port('A', 'Grey keyboard'), new Port('B', null)]
    const access = Object.assign(new EventTarget(), { inputs: new Map([[first.id, first]]) })
    const told = await withRequest(async () => access)
    access.inputs.set(second.id, second)
    access.dispatchEvent(new Event('statechange'))
    first.state = 'disconnected'
    access.dispatchEvent(new Event('statechange'))
    expect(told.map(({ ports }) => ports.inputs.map((port) => port.id))).toEqual([['A'], ['A', 'B'], ['B']])
    expect(told[1]!.availability).toEqual({
      state: 'ready',
      ports: [
        { id: 'A', name: 'Grey keyboard' },
        { id: 'B', name: 'Unnamed port' },
      ],
      outputs: [],
    })
  })

  test.each([
    ['there is none', undefined, /This browser has no MIDI/],
    ['it is refused', () => Promise.reject(new DOMException('', 'NotAllowedError')), /did not allow MIDI/],
    [
      'it is refused for security',
      () => Promise.reject(new DOMException('', 'SecurityError')),
      /did not allow MIDI/,
    ],
    [
      'the machine has no MIDI system',
      () => Promise.reject(new DOMException('', 'InvalidStateError')),
      /no MIDI system/,
    ],
  ])('when %s, that is said, and what still works', async (_, request, message) => {
    const [{ availability, ports }] = (await withRequest(request)) as [
      Awaited<ReturnType<typeof withRequest>>[number],
    ]
    expect(ports).toEqual({ inputs: [], outputs: [] })
    expect(availability.state === 'unavailable' && availability.reason).toMatch(message)
    expect(availability.state === 'unavailable' && availability.reason).toMatch(/computer keyboard/)
  })
})

describe('the computer keyboard', () => {
  function keyboard() {
    const target = new EventTarget()
    const received: SourceEvent[] = []
    const lowest: number[] = []
    const source = new ComputerKeyboard(
      target as Window,
      (event) => received.push(event),
      (settings) => lowest.push(settings.lowestKey),
    )
    const press = (type: 'keydown' | 'keyup', code: string, fields: object = {}) =>
      target.dispatchEvent(
        Object.assign(new Event(type, { cancelable: true }), { code, repeat: false, ...fields }),
      )
    const keys = () => received.map((event) => [event.status, event.data1])
    return { target, source, press, received, keys, lowest }
  }

  beforeAll(() => {
    // Node has no elements: nothing that is pressed here is a field.
    Object.assign(globalThis, { HTMLElement: class {} })
  })

  test('plays by the place of a key, once however long it is held', () => {
    const { press, keys, received } = keyboard()
    press('keydown', 'KeyA')
    press('keydown', 'KeyA', { repeat: true })
    press('keydown', 'KeyW')
    press('keyup', 'KeyA')
    press('keyup', 'KeyW')
    expect(keys()).toEqual([
      [0x90, 60],
      [0x90, 61],
      [0x80, 60],
      [0x80, 61],
    ])
    expect(received.every((event) => event.portId === computerKeyboardPortId)).toBe(true)
  })

  test('changing the octave lets go of what is held, and a key ends the note it began', () => {
    const { press, keys, lowest } = keyboard()
    press('keydown', 'KeyS')
    press('keydown', 'KeyX')
    press('keyup', 'KeyS')
    press('keydown', 'KeyS')
    expect(keys()).toEqual([
      [0x90, 62],
      [0x80, 62],
      [0x90, 74],
    ])
    for (let i = 0; i < 20; i++) press('keydown', 'KeyZ')
    expect(Math.min(...lowest)).toBe(12)
  })

  test('command keys are no notes, and losing the page lets go of everything', () => {
    const { target, press, keys } = keyboard()
    press('keydown', 'KeyA', { ctrlKey: true })
    press('keydown', 'KeyA', { metaKey: true })
    press('keydown', 'KeyR')
    expect(keys()).toEqual([])
    press('keydown', 'KeyD')
    target.dispatchEvent(new Event('blur'))
    expect(keys()).toEqual([
      [0x90, 64],
      [0x80, 64],
    ])
  })

  test('after it is put away it plays no more', () => {
    const { source, press, keys } = keyboard()
    press('keydown', 'KeyA')
    source.dispose()
    press('keydown', 'KeyS')
    expect(keys()).toEqual([
      [0x90, 60],
      [0x80, 60],
    ])
  })
})
