import fc from 'fast-check'
import { type EffectSlot, newSlot } from '@/core/effects/catalogue'
import type { Generator } from '@/core/generators/generator'
import { stepLane } from '@/core/project/generatorCommands'
import { cablePortId } from '@/core/routing/ports'
import { plainRoute } from '@/core/routing/route'
import type { EngineTrack } from '../protocol'
import { commandFields } from '../synth/commands'
import { engineTrack } from './engineTrack.testing'
import { engineWorkshop, note, recordOrder } from './engineWorkshop.testing'
import type { PortMessage } from './portSender'

const bar = 40_320
const outPort = cablePortId('Out')

/** Chains to change between: none, one that multiplies, ones that wait, one that deals, one with chance. */
const chains: readonly (readonly EffectSlot[])[] = [
  [],
  [newSlot('chordInKey', 'a')],
  [newSlot('arpeggio', 'a')],
  [newSlot('echo', 'a'), newSlot('humanise', 'b')],
  [newSlot('chordInKey', 'a'), newSlot('dealVoices', 'b', { voices: 3, order: 'the highest' })],
  [newSlot('probability', 'a'), newSlot('strum', 'b'), newSlot('legato', 'c')],
]

const generatorWith = (lanes: readonly ReturnType<typeof stepLane>[]): Generator => ({
  id: 'g',
  name: 'Tide',
  isPlaying: true,
  seed: 1,
  isSeedKept: true,
  earlierSeeds: [],
  work: { kind: 'lanes', lanes: [...lanes] },
})
const generators: readonly (readonly Generator[])[] = [
  [],
  [generatorWith([stepLane('l', 'Lane', { channel: 3, gate: 100 })])],
  [generatorWith([stepLane('l', 'Lane', { channel: 3, cable: 'Out', rate: '1/4', transpose: 5 })])],
]

const contents = [
  [],
  [note(1, 0, bar, 60), note(2, 5040, 20_000, 64), note(3, bar, 3000, 60)],
  [note(4, 0, bar * 3, 62)],
]

const index = (list: readonly unknown[]) => fc.nat(list.length - 1)
const loop = fc.option(fc.constant({ startTicks: 0, endTicks: bar / 2 }))

const action = fc.oneof(
  {
    weight: 6,
    arbitrary: fc.record({
      do: fc.constant('key' as const),
      channel: fc.nat(1),
      key: fc.integer({ min: 60, max: 63 }),
      isOn: fc.boolean(),
    }),
  },
  {
    weight: 6,
    arbitrary: fc.record({ do: fc.constant('run' as const), ms: fc.integer({ min: 1, max: 700 }) }),
  },
  fc.record({ do: fc.constant('play' as const), bar: fc.nat(2), loop }),
  fc.record({
    do: fc.constant('record' as const),
    isLooping: fc.boolean(),
    takeMode: fc.constantFrom('fresh' as const, 'layered' as const),
  }),
  fc.record({ do: fc.constant('stop' as const) }),
  fc.record({ do: fc.constant('effects' as const), track: fc.nat(1), chain: index(chains) }),
  fc.record({ do: fc.constant('playerEffects' as const), chain: index(chains) }),
  fc.record({ do: fc.constant('mute' as const), track: fc.nat(1), isAudible: fc.boolean() }),
  fc.record({
    do: fc.constant('monitor' as const),
    track: fc.nat(1),
    monitor: fc.constantFrom('always' as const, 'never' as const),
  }),
  fc.record({ do: fc.constant('route' as const), track: fc.nat(1), channel: fc.integer({ min: 1, max: 3 }) }),
  fc.record({ do: fc.constant('send' as const), track: fc.nat(1), isSent: fc.boolean() }),
  fc.record({ do: fc.constant('remove' as const), track: fc.nat(1) }),
  fc.record({ do: fc.constant('content' as const), track: fc.nat(1), content: index(contents) }),
  fc.record({ do: fc.constant('generators' as const), which: index(generators) }),
  fc.record({ do: fc.constant('tempo' as const), tempoBpm: fc.constantFrom(90, 120) }),
  fc.record({ do: fc.constant('portLost' as const) }),
  fc.record({ do: fc.constant('panic' as const) }),
)
type Action = typeof action extends fc.Arbitrary<infer A> ? A : never

/**
 * Does it all to an engine with two tracks; then the generators rest, every key goes up and the music plays to its end. Only a
 * loop, which has none, is stopped.
 */
function perform(actions: readonly Action[]) {
  const first: EngineTrack[] = [
    engineTrack('t0', 1, { sendTo: { portId: outPort, channel: null } }),
    engineTrack('t1', 2, {
      routes: [plainRoute({ portId: 'A', channel: 2 }), plainRoute({ portId: 'generator:g', channel: 3 })],
    }),
  ]
  const workshop = engineWorkshop([])
  const { engine, input, run, content, base, now } = workshop
  let setup = { ...base, tracks: first, countInBars: 0 }
  const tell = (next: Partial<typeof setup>) => {
    setup = { ...setup, ...next }
    engine.receive({ type: 'setup', setup })
  }
  const change = (which: number, fields: Partial<EngineTrack>) =>
    tell({
      tracks: setup.tracks.map((track) => (track.id === `t${which}` ? { ...track, ...fields } : track)),
    })
  let isLooping = false
  tell({})
  for (const each of actions)
    switch (each.do) {
      case 'key':
        input({ status: (each.isOn ? 0x90 : 0x80) | each.channel, data1: each.key })
        break
      case 'run':
        run(each.ms)
        break
      case 'play':
        isLooping = each.loop !== null
        engine.receive({ type: 'play', fromTicks: each.bar * bar, untilTicks: null, loop: each.loop })
        break
      case 'record':
        isLooping = each.isLooping
        tell({ takeMode: each.takeMode })
        engine.receive(recordOrder(each.isLooping ? { endTicks: bar / 2, isLooping: true } : {}))
        break
      case 'stop':
        engine.receive({ type: 'stop' })
        break
      case 'effects':
        change(each.track, { slots: chains[each.chain]! })
        break
      case 'playerEffects':
        tell({ sourceChains: [{ portId: 'A', channel: 1, slots: chains[each.chain]! }] })
        break
      case 'mute':
        change(each.track, { isAudible: each.isAudible })
        break
      case 'monitor':
        change(each.track, {
          monitor: each.monitor === 'always' ? 'always' : 'armed',
          isArmed: each.monitor === 'always',
        })
        break
      case 'route':
        change(each.track, { routes: [plainRoute({ portId: 'A', channel: each.channel })] })
        break
      case 'send':
        change(each.track, { sendTo: each.isSent ? { portId: outPort, channel: null } : null })
        break
      case 'remove':
        tell({
          tracks: setup.tracks.some((track) => track.id === `t${each.track}`)
            ? setup.tracks.filter((track) => track.id !== `t${each.track}`)
            : [...setup.tracks, first[each.track]!],
        })
        break
      case 'content':
        content(`t${each.track}`, contents[each.content]!)
        break
      case 'generators':
        engine.receive({ type: 'generators', generators: generators[each.which]! })
        break
      case 'tempo':
        tell({ tempos: [{ tick: 0, tempoBpm: each.tempoBpm }] })
        break
      case 'portLost':
        engine.receive({ type: 'portLost', portId: 'A', atMs: now() })
        break
      case 'panic':
        engine.receive({ type: 'panic' })
    }
  for (const channel of [0, 1])
    for (let key = 60; key <= 63; key++) input({ status: 0x80 | channel, data1: key })
  engine.receive({ type: 'generators', generators: [] })
  if (isLooping) engine.receive({ type: 'stop' })
  run(14_000, 20)
  return workshop
}

/** What the synthesiser would still sound: it plays commands at their moments; a cancel drops what waits and ends what sounds. */
function leftSounding(told: ReturnType<typeof perform>['told']): string[] {
  let waiting: {
    readonly atMs: number
    readonly channel: number
    readonly key: number
    readonly isOn: boolean
  }[] = []
  const down = new Set<string>()
  const playUntil = (nowMs: number) => {
    const due = waiting.filter(({ atMs }) => atMs <= nowMs).sort((a, b) => a.atMs - b.atMs)
    waiting = waiting.filter(({ atMs }) => atMs > nowMs)
    for (const { channel, key, isOn } of due)
      if (isOn) down.add(`${channel} ${key}`)
      else down.delete(`${channel} ${key}`)
  }
  for (const { nowMs, message } of told) {
    playUntil(nowMs)
    if (message.type === 'cancel') {
      const isMeant = (channel: number) => !message.synthChannels || message.synthChannels.includes(channel)
      waiting = waiting.filter(({ channel }) => !isMeant(channel))
      for (const address of down) if (isMeant(Number(address.split(' ')[0]))) down.delete(address)
    }
    if (message.type !== 'commands') continue
    for (let row = 0; row < message.rows.length; row += commandFields) {
      const [atSeconds, channel, status, key] = message.rows.slice(
        row,
        row + commandFields,
      ) as unknown as number[]
      if (status !== 0x80 && status !== 0x90) continue
      const atMs = atSeconds === 0 ? nowMs : Math.max(nowMs, 5_000_000 + atSeconds! * 1000)
      waiting.push({ atMs, channel: channel!, key: key!, isOn: status === 0x90 })
    }
  }
  playUntil(Number.POSITIVE_INFINITY)
  return [...down]
}

function leftDown(ports: readonly PortMessage[]): string[] {
  const down = new Set<string>()
  for (const { portId, bytes } of [...ports].sort((a, b) => a.timeMs - b.timeMs)) {
    const address = `${portId} ${bytes[0]! & 15} ${bytes[1]}`
    if ((bytes[0]! & 0xf0) === 0x90 && bytes[2]! > 0) down.add(address)
    else if ((bytes[0]! & 0xe0) === 0x80) down.delete(address)
  }
  return [...down]
}

test('whatever is played, changed, recorded and stopped in whatever order: nothing goes on sounding', () => {
  fc.assert(
    fc.property(fc.array(action, { minLength: 5, maxLength: 40 }), (actions) => {
      const { told, ports } = perform(actions)
      expect({ synthesiser: leftSounding(told), ports: leftDown(ports) }).toEqual({
        synthesiser: [],
        ports: [],
      })
    }),
    { numRuns: 150 },
  )
})
