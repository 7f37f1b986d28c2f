import type { TakeEvents } from '@/core/capture/takeEvents'
import type { Note } from '@/core/event/note'
import { packNotes } from '@/core/event/noteColumns'
import type { EngineSetup, EngineTrack, FromEngine, SourceEvent, ToEngine } from '../protocol'
import { commandFields, type SynthMessage } from '../synth/commands'
import { Engine } from './engine'
import { emptySetup } from './engineNow'
import { engineTrack } from './engineTrack.testing'
import type { PortMessage } from './portSender'

/** An engine in a world of plain objects: its clock is moved by hand. */
export function engineWorkshop(
  tracks: readonly Partial<EngineTrack>[],
  setup: Partial<EngineSetup> = {},
  /** Whether the window holds nothing back when a take ends; otherwise the test answers for it. */
  isPageFree = true,
) {
  let nowMs = 5_000_000
  const synth: { atSeconds: number; channel: number; status: number; key: number; velocity: number }[] = []
  const cancels: (readonly number[] | undefined)[] = []
  /** Everything the synthesiser was told, in order, with the moment it was told. */
  const told: { readonly nowMs: number; readonly message: SynthMessage }[] = []
  const window: FromEngine[] = []
  const journaled: TakeEvents[] = []
  const ports: PortMessage[] = []
  const journalTimes: number[] = []
  const engine: Engine = new Engine({
    nowMs: () => nowMs,
    toSynth: (message: SynthMessage) => {
      told.push({ nowMs, message })
      if (message.type === 'cancel') cancels.push(message.synthChannels)
      if (message.type !== 'commands') return
      for (let row = 0; row < message.rows.length; row += commandFields) {
        const [atSeconds, channel, status, key, velocity] = message.rows.slice(row, row + commandFields)
        synth.push({
          atSeconds: atSeconds!,
          channel: channel!,
          status: status!,
          key: key!,
          velocity: velocity!,
        })
      }
    },
    toWindow: (message) => {
      window.push(message)
      if (message.type === 'settle' && isPageFree)
        engine.receive({ type: 'settled', takeSerial: message.takeSerial })
    },
    toPorts: (messages) => ports.push(...messages),
    journal: {
      begin: async () => undefined,
      append: async (_project, _take, _sequence, events) => {
        journaled.push(events)
        journalTimes.push(nowMs)
        return nowMs
      },
      finish: async () => undefined,
    },
  })
  const all: EngineTrack[] = tracks.map((track, index) => engineTrack(`t${index}`, index + 1, track))
  const base: EngineSetup = {
    ...emptySetup,
    tracks: all,
    tempos: [{ tick: 0, tempoBpm: 120 }],
    meters: [{ tick: 0, numerator: 4, denominator: 4 }],
    countInBars: 1,
    click: { ...emptySetup.click, isOn: false },
    ...setup,
  }
  engine.receive({ type: 'setup', setup: base })
  // Audio time 0 is epoch time 5,000,000.
  engine.receive({ type: 'clock', sample: { contextSeconds: 0, epochMs: 5_000_000 } })
  const run = (forMs: number, stepMs = 5) => {
    const until = nowMs + forMs
    while (nowMs < until) {
      nowMs = Math.min(until, nowMs + stepMs)
      engine.tick()
    }
  }
  const runTo = (timeMs: number) => run(timeMs - nowMs)
  /** Time goes on and nothing runs. */
  const sleep = (forMs: number) => {
    nowMs += forMs
  }
  const input = (event: Partial<SourceEvent> & { status: number; data1: number }) =>
    engine.receive({ type: 'input', events: [{ portId: 'A', timeMs: nowMs, data2: 80, ...event }] })
  const content = (trackId: string, notes: readonly Note[]) =>
    engine.receive({ type: 'trackContent', trackId, notes: packNotes(notes), controllers: [] })
  const setTracks = (change: (track: EngineTrack) => EngineTrack) =>
    engine.receive({ type: 'setup', setup: { ...base, tracks: all.map(change) } })
  return {
    engine,
    synth,
    cancels,
    told,
    window,
    ports,
    base,
    journaled,
    journalTimes,
    run,
    runTo,
    sleep,
    input,
    content,
    setTracks,
    now: () => nowMs,
  }
}

export const recordOrder = (fields: Partial<Extract<ToEngine, { type: 'record' }>> = {}): ToEngine => ({
  type: 'record',
  projectId: 'p',
  takeSerial: 1,
  fromTicks: 0,
  startTicks: 0,
  endTicks: null,
  isLooping: false,
  earlyMs: 60,
  startsWithFirstNote: false,
  ...fields,
})

export const note = (id: number, onsetTicks: number, durationTicks: number, key: number): Note => ({
  id,
  onsetTicks,
  durationTicks,
  key,
  velocity: 90,
  releaseVelocity: 64,
  channel: 1,
  origin: { kind: 'drawn' },
})
export const ons = (synth: ReturnType<typeof engineWorkshop>['synth']) =>
  synth.filter((command) => command.status === 0x90)
export const offs = (synth: ReturnType<typeof engineWorkshop>['synth']) =>
  synth.filter((command) => command.status === 0x80)

export const finishedTakes = (window: ReturnType<typeof engineWorkshop>['window']) =>
  window.filter((message) => message.type === 'takeFinished')
