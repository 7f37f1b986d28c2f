import { TakeRecorder } from '../src/core/capture/takeEvents'
import type { TakeInfo } from '../src/core/capture/takeInfo'
import { takeToNotes } from '../src/core/capture/takeToNotes'
import { chance } from '../src/core/effects/chance'
import { writeProjectFile } from '../src/core/formats/projectFile'
import { ClockFollower, clockStatus } from '../src/core/midi/clock'
import { addTakes } from '../src/core/project/commands'
import { emptyProject, newTrack } from '../src/core/project/create'
import { plainRoute } from '../src/core/routing/route'
import { TempoMap } from '../src/core/time/tempoMap'
import { address, type BenchWindow, openPage, rendererMegabytes, withBrowser } from './browser'
import { atMost, type Figure, percentile, workAtMost } from './figure'

/** What a device sends: note-ons and note-offs in turns over 16 channels, one event a millisecond. */
const deviceSource = `
  let timer
  onmessage = ({ data: { startMs, count, cables, stampsSending } }) => {
    const channels = cables && cables.map((cable) => new BroadcastChannel('unbroken-cable ' + cable))
    let next = 0
    timer = setInterval(() => {
      const nowMs = performance.timeOrigin + performance.now()
      const due = []
      while (next < count && startMs + next <= nowMs) {
        const within = next % 32, isOn = within < 16
        const bytes = [(isOn ? 0x90 : 0x80) | within % 16, 36 + (Math.floor(next / 32) % 60), 64]
        due.push({ timeMs: stampsSending ? performance.timeOrigin + performance.now() : startMs + next, bytes })
        next++
      }
      if (channels) {
        if (due.length) for (const channel of channels) channel.postMessage({ type: 'events', events: due })
      }
      else for (const event of due) postMessage(event)
      if (next >= count) clearInterval(timer)
    }, 1)
  }`

type DeviceWindow = BenchWindow & {
  startDevices(startMs: number, count: number): void
}

/** 4 ports of 16 channels, 1,000 events a second on each, for a minute, with a page that is busy for 500 ms at a time. */
export async function fourPorts(): Promise<Figure[]> {
  const seconds = 60
  const result = await withBrowser([], async (browser) => {
    const page = await openPage(browser)
    await page.addInitScript((source) => {
      const inputs = new Map()
      const access = Object.assign(new EventTarget(), { inputs })
      Object.defineProperty(navigator, 'requestMIDIAccess', { value: async () => access })
      const ports = [1, 2, 3, 4].map((number) => {
        const port = Object.assign(new EventTarget(), {
          id: `bench-${number}`,
          name: `Bench ${number}`,
          state: 'connected',
        })
        inputs.set(port.id, port)
        return port
      })
      // The devices' clock is a thread of its own: it sends what is due to all four.
      const device = new Worker(URL.createObjectURL(new Blob([source], { type: 'text/javascript' })))
      device.onmessage = ({ data }) => {
        for (const port of ports) {
          const event = new Event('midimessage')
          Object.defineProperty(event, 'timeStamp', { value: data.timeMs - performance.timeOrigin })
          port.dispatchEvent(Object.assign(event, { data: Uint8Array.from(data.bytes) }))
        }
      }
      Object.assign(globalThis, {
        startDevices: (startMs: number, count: number) => device.postMessage({ startMs, count }),
      })
    }, deviceSource)
    await page.goto(address)
    await page.getByRole('button', { name: /^New piece/, disabled: false }).click()
    await page.waitForFunction(() => 'unbrokenSession' in globalThis)
    return page.evaluate(async (forSeconds) => {
      const window = globalThis as DeviceWindow
      const session = window.unbrokenSession
      const wait = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))
      // Every stream takes its place first.
      window.startDevices(performance.timeOrigin + performance.now(), 32)
      await wait(4000)
      await session.record()
      while (session.live.getState().transport.state !== 'recording' || session.positionTicks() < 0)
        await wait(20)
      await wait(200)
      const startMs = Math.ceil(performance.timeOrigin + performance.now()) + 0.25
      const count = forSeconds * 1000
      window.startDevices(startMs, count)
      const until = performance.now() + forSeconds * 1000 + 2000
      while (performance.now() < until) {
        const busyUntil = performance.now() + 500
        while (performance.now() < busyUntil);
        await wait(30)
      }
      session.stop()
      await wait(4000)
      const measured = await session.measureEngine(false)
      const { project } = session.store.getState()
      const take = project.takes.at(-1)!
      const events = await session.takeEvents(take.serial)
      const seen = new Map<string, number>()
      let worstMs = 0
      for (let i = 0; i < events.count; i++) {
        const portId = events.portIds[events.ports[i]!]!
        const index = seen.get(portId) ?? 0
        seen.set(portId, index + 1)
        worstMs = Math.max(worstMs, Math.abs(events.timesMs[i]! - (startMs + index)))
      }
      const ticksPerMs = (project.tempos[0]!.tempoBpm * 10_080) / 60_000
      let [onTracks, misrouted, endless, worstOnsetMs] = [0, 0, 0, 0]
      for (const track of project.tracks) {
        const clip = track.clips.find((candidate) => candidate.takeSerial === take.serial)
        const route = track.routes[0]
        for (const note of clip?.notes ?? []) {
          onTracks++
          if (note.origin.kind !== 'played') continue
          const portId = events.portIds[events.ports[note.origin.eventIndex]!]
          if (route?.channel !== note.channel || route.portId !== portId) misrouted++
          const due = startMs + (note.origin.eventIndex >> 2) - take.anchorMs
          worstOnsetMs = Math.max(worstOnsetMs, Math.abs(note.onsetTicks / ticksPerMs - due))
          // Every note of the device is 16 ms long; a hanging one would last to the end.
          if (note.durationTicks > 10_080) endless++
        }
      }
      return {
        lost: 4 * count - events.count,
        notesLost: 4 * (Math.floor(count / 32) * 16 + Math.min(16, count % 32)) - onTracks,
        misrouted,
        endless,
        worstMs: Math.max(worstMs, worstOnsetMs),
        inEngineMs: measured.journal.longestInEngineMs,
        fromSourceMs: measured.journal.longestFromSourceMs,
      }
    }, seconds)
  })
  const where = '4 ports × 16 channels, 1,000 events a second on each, 60 s, page busy for 500 ms at a time'
  return [
    atMost(
      `events and notes lost: ${where}`,
      Math.abs(result.lost) + Math.abs(result.notesLost),
      'events',
      0,
    ),
    atMost('misrouted, the same load', result.misrouted, 'notes', 0),
    atMost('hanging, the same load', result.endless, 'notes', 0),
    atMost('stored time against the source’s time stamp, the same load', result.worstMs, 'ms', 0.1),
    atMost(
      'journal: longest time from an event’s arrival in the engine until it was stored, the same load',
      result.inEngineMs,
      'ms',
      250,
    ),
    atMost(
      'journal: longest time from the source’s time stamp until it was stored, with what the page held back, the same load',
      result.fromSourceMs,
      'ms',
      1000,
    ),
  ]
}

/**
 * The same load over four cables, which end in the engine's thread, with a busy page. The synthesiser is not started: 64
 * parts of 2,000 notes a second would take a whole core of their own, and this is about the engine.
 */
export async function monitoring(): Promise<Figure[]> {
  const delays = await withBrowser([], async (browser) => {
    const page = await openPage(browser)
    await page.addInitScript((source) => {
      Object.assign(globalThis, {
        startDevices(startMs: number, count: number) {
          const device = new Worker(URL.createObjectURL(new Blob([source], { type: 'text/javascript' })))
          const cables = ['Bench 1', 'Bench 2', 'Bench 3', 'Bench 4']
          device.postMessage({ startMs, count, cables, stampsSending: true })
        },
      })
    }, deviceSource)
    await page.goto(address)
    await page.getByRole('button', { name: /^New piece/, disabled: false }).click()
    await page.waitForFunction(() => 'unbrokenSession' in globalThis)
    return page.evaluate(async () => {
      const window = globalThis as DeviceWindow
      const session = window.unbrokenSession
      const wait = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))
      session.store.getState().apply('read cables', (before) => ({
        ...before,
        cables: ['Bench 1', 'Bench 2', 'Bench 3', 'Bench 4'],
      }))
      await wait(500)
      window.startDevices(performance.timeOrigin + performance.now(), 32)
      await wait(4000)
      // A first stretch is played to warm up.
      window.startDevices(performance.timeOrigin + performance.now(), 4000)
      await wait(5000)
      await session.measureEngine(true)
      window.startDevices(performance.timeOrigin + performance.now(), 20_000)
      const until = performance.now() + 20_000
      while (performance.now() < until) {
        const busyUntil = performance.now() + 500
        while (performance.now() < busyUntil);
        await wait(30)
      }
      const { delays } = await session.measureEngine(false)
      session.stop()
      return { inEngine: [...delays.inEngineMs], fromSource: [...delays.fromSourceMs] }
    })
  })
  const { inEngine, fromSource } = delays
  const load = '4 cables, 1,000 events a second on each, page busy for 500 ms at a time'
  return [
    atMost(
      `monitoring: from the event’s own time stamp in another thread to its synthesiser command, median of ${fromSource.length} (${load})`,
      percentile(fromSource, 0.5),
      'ms',
      3,
    ),
    atMost('the same, 99th percentile', percentile(fromSource, 0.99), 'ms', 3),
    atMost(
      `monitoring: the engine’s own part of it, from the message it came in, 99th percentile`,
      percentile(inEngine, 0.99),
      'ms',
      3,
    ),
  ]
}

/** A clock that is off by up to ±3 ms, followed for five minutes at five tempi; from the ninth quarter on. */
export function followedClock(): Figure[] {
  let [tempoError, positionErrorMs] = [0, 0]
  for (const tempoBpm of [48, 92, 120, 151, 210]) {
    const follower = new ClockFollower()
    const msPerClock = 60_000 / tempoBpm / 24
    const msPerTick = msPerClock / 420
    follower.receive(clockStatus.start, 0, 0, 0)
    for (let clock = 0; clock * msPerClock < 300_000; clock++) {
      const dueMs = 1 + clock * msPerClock
      follower.receive(clockStatus.clock, 0, 0, dueMs + (chance(tempoBpm, clock, 1) * 2 - 1) * 3)
      const followed = follower.at(dueMs)
      if (clock < 8 * 24 || followed.state !== 'running') continue
      tempoError = Math.max(tempoError, Math.abs(followed.tempoBpm / tempoBpm - 1))
      const due = (followed.timeMs - 1) / msPerTick
      positionErrorMs = Math.max(positionErrorMs, Math.abs(followed.ticks - due) * msPerTick)
    }
  }
  return [
    atMost('followed clock with ±3 ms jitter, simulated: worst tempo error', tempoError * 100, '%', 0.1),
    atMost('followed clock with ±3 ms jitter, simulated: worst position error', positionErrorMs, 'ms', 2),
  ]
}

/** Clocks handed to a MIDI port while the piece plays and the page is busy now and then. */
export async function sentClock(): Promise<Figure[]> {
  const stamps = await withBrowser([], async (browser) => {
    const page = await openPage(browser)
    await page.addInitScript(() => {
      const stamps: { stamp: number; handedMs: number }[] = []
      const output = {
        id: 'out',
        name: 'Out',
        state: 'connected',
        send(bytes: number[], stamp: number) {
          if (bytes[0] === 0xf8) stamps.push({ stamp, handedMs: performance.now() })
        },
      }
      const access = Object.assign(new EventTarget(), {
        inputs: new Map(),
        outputs: new Map([['out', output]]),
      })
      Object.defineProperty(navigator, 'requestMIDIAccess', { value: async () => access })
      Object.assign(globalThis, { stamps })
    })
    await page.goto(address)
    await page.getByRole('button', { name: /Open the demo/, disabled: false }).click()
    await page.waitForFunction(() => 'unbrokenSession' in globalThis)
    return page.evaluate(async () => {
      const session = (globalThis as BenchWindow).unbrokenSession
      const wait = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))
      session.store.getState().apply('clock', (before) => ({
        ...before,
        clock: { ...before.clock, sendTo: ['out'] },
      }))
      await wait(500)
      await session.playOn()
      // The instruments are fetched and unpacked in the first seconds, on the cores that the engine needs too.
      await wait(4000)
      ;(globalThis as unknown as { stamps: unknown[] }).stamps.length = 0
      const until = performance.now() + 20_000
      while (performance.now() < until) {
        // A page at work: 20 ms at a time.
        const busyUntil = performance.now() + 20
        while (performance.now() < busyUntil);
        await wait(20)
      }
      session.stop()
      return (globalThis as unknown as { stamps: { stamp: number; handedMs: number }[] }).stamps
    })
  })
  const idealMs = 60_000 / 92 / 24
  // A device sends a message at its stamp, or at once when it gets it later.
  const arrivals = stamps.map(({ stamp, handedMs }) => Math.max(stamp, handedMs))
  const errors = arrivals.slice(1).map((arrival, index) => Math.abs(arrival - arrivals[index]! - idealMs))
  const late = stamps.filter(({ stamp, handedMs }) => handedMs > stamp).length
  return [
    atMost(
      `sent clock: interval error on arrival at a simulated port against ideal, 99th percentile of ${errors.length} (${late} handed over late)`,
      percentile(errors, 0.99),
      'ms',
      1,
    ),
  ]
}

/** A project with one take of two hours: 500,000 events on 16 tracks. */
function longTakeFile(): Uint8Array {
  const tempoMap = new TempoMap([{ tick: 0, tempoBpm: 100 }])
  let project = { ...emptyProject('long', 'Two hours', 0), tempos: [{ tick: 0, tempoBpm: 100 }] }
  for (let channel = 1; channel <= 16; channel++)
    project = newTrack(project, {
      name: `Player ${channel}`,
      instrument: { kind: 'program', program: channel },
      routes: [plainRoute({ portId: 'bench', channel })],
    }).project
  const recorder = new TakeRecorder()
  const anchorMs = 1_000_000
  const stepMs = 7_200_000 / 500_000
  for (let i = 0; i < 500_000; i++) {
    const [within, turn] = [i % 32, Math.floor(i / 32)]
    recorder.add(
      'bench',
      anchorMs + i * stepMs,
      (within < 16 ? 0x90 : 0x80) | (within % 16),
      40 + (turn % 50),
      64,
    )
  }
  const events = recorder.slice()
  const takeSerial = project.nextSerial
  const take: TakeInfo = {
    serial: takeSerial,
    name: 'Two hours',
    recordedAtMs: anchorMs,
    startTicks: 0,
    anchorMs,
    durationMs: 7_200_000,
    eventCount: events.count,
    tempos: project.tempos,
    listeners: project.tracks.map((track) => ({ trackId: track.id, routes: [...track.routes] })),
    compensations: [],
    earlyMs: 60,
    loop: null,
    clockPoints: [],
    chains: [],
  }
  const placement = {
    takeSerial,
    startTicks: 0,
    anchorMs,
    endMs: anchorMs + 7_200_000,
    tempoMap,
    earlyMs: 60,
  }
  const recorded = takeToNotes(events, placement, project.tracks, takeSerial + 1)
  return writeProjectFile({
    project: addTakes(project, [{ take, tracks: recorded.tracks }], recorded.nextNoteId),
    takes: [{ takeSerial, events }],
    assets: [],
    sounds: [],
  })
}

/** Opens it from the shelf's storage: from the address to the tracks drawn. */
export async function longTake(): Promise<Figure[]> {
  const bytes = longTakeFile()
  return withBrowser([], async (browser) => {
    const page = await openPage(browser)
    await page.goto(address)
    await page.getByRole('button', { name: /Open the demo/, disabled: false }).waitFor()
    await page.getByLabel('File to bring in').setInputFiles({
      name: 'long.voice',
      mimeType: 'application/zip',
      buffer: Buffer.from(bytes),
    })
    await page.waitForURL(/step=tracks/, { timeout: 180_000 })
    await page.waitForFunction(() => 'unbrokenSession' in globalThis, undefined, { timeout: 60_000 })
    const projectAddress = page.url()
    const openings: number[] = []
    for (let i = 0; i < 4; i++) {
      await page.goto('about:blank')
      const began = performance.now()
      await page.goto(projectAddress, { waitUntil: 'commit' })
      await page
        .getByTestId('selection')
        .filter({ hasText: /\d notes/ })
        .waitFor({ timeout: 60_000 })
      openings.push(performance.now() - began)
      await page.waitForTimeout(3000)
    }
    return [
      workAtMost(
        'open a project with a 2-hour take of 500,000 events, from its address to its tracks (median of 4)',
        percentile(openings, 0.5),
        'ms',
        2000,
        'storage',
      ),
      atMost('memory with it open, whole renderer process', rendererMegabytes(), 'MB', 500),
    ]
  })
}
