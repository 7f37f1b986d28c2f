import { type Remote, releaseProxy, wrap } from 'comlink'
import { changeTrack } from '@/core/project/commands'
import { contextOf } from '@/core/project/context'
import type { InputAddress, Project, Track } from '@/core/project/schema'
import { feedbackIn, ringInWords } from '@/core/routing/feedback'
import { plainRoute } from '@/core/routing/route'
import type { RecentActivity } from '@/core/routing/wiring'
import type { Milliseconds, Ticks } from '@/core/time/units'
import { epochNowMs } from '@/engine/clock'
import type { ComputeApi } from '@/engine/compute/compute.worker'
import type { EngraverApi } from '@/engine/engraver/engraver.worker'
import { journal } from '@/engine/journal/journal'
import type { Activity, FromEngine, ToEngine, TransportState } from '@/engine/protocol'
import { assetsOf } from './assets'
import { startAutosave } from './autosave'
import { createBacking } from './backing'
import { createChainLog } from './chainLog'
import { createEnginePicture } from './enginePicture'
import { startEngraving } from './engraving'
import { createFilePlayers } from './filePlayers'
import { createLiveNotes } from './liveNotes'
import { createLiveState, type LiveState } from './liveState'
import { holdProject } from './projectLock'
import { createProjectStore } from './projectStore'
import { followCables } from './rig'
import { createSound } from './sound'
import { createSources } from './sources'
import {
  dismissRecording,
  type FinishedRecording,
  finishRecording,
  interruptedRecordings,
  recoverRecording,
  reserveTakeSerial,
  restoreTake,
} from './takes'
import { createTransportControl } from './transportControl'

export type Session = Awaited<ReturnType<typeof openSession>>

/**
 * Everything that runs for an open project: the store with undo and autosave, the engine and its threads, the ports.
 * One project is open at a time; `close` ends all of it.
 */
export async function openSession(initial: Project, isStored: boolean) {
  const store = createProjectStore(initial)
  const live = createLiveState()
  const autosave = startAutosave(store, isStored ? initial : null)
  const lock = holdProject(
    initial.id,
    (isReadOnly) =>
      void (isReadOnly ? autosave.flush() : Promise.resolve()).then(() =>
        store.getState().setReadOnly(isReadOnly),
      ),
  )

  const engineWorker = new Worker(new URL('../engine/transport/engine.worker.ts', import.meta.url), {
    type: 'module',
  })
  const engraverWorker = new Worker(new URL('../engine/engraver/engraver.worker.ts', import.meta.url), {
    type: 'module',
  })
  const engraver = wrap<EngraverApi>(engraverWorker)
  const engraving = startEngraving(store, engraver)
  let computeWorker: Worker | undefined
  let compute: Remote<ComputeApi> | undefined

  const tellEngine = (message: ToEngine, transfer: Transferable[] = []) =>
    engineWorker.postMessage(message, transfer)

  const activityListeners = new Set<(events: readonly Activity[]) => void>()
  const liveNotes = createLiveNotes()
  const measureWaiters: ((measured: Extract<FromEngine, { type: 'measured' }>) => void)[] = []

  engineWorker.onmessage = (event: MessageEvent<FromEngine>) => {
    const message = event.data
    switch (message.type) {
      case 'transport':
        onTransport(message.transport)
        return
      case 'activity':
        live.setState({
          listenedNotes: message.listenedNotes,
          streams: message.streams,
          ...(message.flows && { flows: message.flows }),
        })
        onActivity(message.events)
        return
      case 'takeFinished':
        onTakeFinished(message)
        return
      case 'measured':
        for (const resolve of measureWaiters.splice(0)) resolve(message)
        return
      case 'send':
        sources.send(message.messages)
        return
      case 'portShut':
        live.setState({ shutPortId: message.portId })
        return
      case 'cableReaders':
        live.setState({
          cableReaders: { ...live.getState().cableReaders, [message.name]: message.programs },
        })
        return
      case 'followedClock':
        live.setState({ followedClock: { isRunning: message.isRunning, tempoBpm: message.tempoBpm } })
        return
      case 'slept':
        notify(
          `This machine slept for ${Math.round(message.sleptMs / 1000)} s. ${message.wasRecording ? 'The recording was ended where it fell asleep; everything played up to then is in the take.' : 'Nothing was being recorded.'}`,
        )
        return
      case 'journalCaughtUp':
        notify('There is room again: everything that was played is stored.')
        return
      case 'journalFailed':
        notify(
          message.isFull
            ? 'The browser’s storage is full, so what is being played is only in memory. Keep this tab open and free some space: it is stored as soon as there is room. Or stop, and save the project to a file under Deliver.'
            : `What is being played could not be stored safely (${message.reason}). It is still in memory, and is tried again every second; to be safe, stop and save the project to a file.`,
          true,
        )
    }
  }

  function notify(text: string, isProblem = false): void {
    live.setState({ notice: { text, isProblem } })
  }

  const sound = createSound({
    engine: tellEngine,
    state: (audio) => live.setState({ audio }),
    problem: (text) => notify(text, true),
  })
  const startAudio = sound.start

  const backing = createBacking({
    store,
    context: sound.context,
    audioSecondsAt: sound.audioSecondsAt,
    problem: (text) => notify(text, true),
  })
  const enginePicture = createEnginePicture(tellEngine, sound.synthChannelOf)
  function showProject(project: Project): void {
    enginePicture.tell(project)
    sound.setProject(project)
    void backing.load(project)
  }
  showProject(initial)
  const unsubscribe = store.subscribe((state, previous) => {
    if (state.project !== previous.project) showProject(state.project)
  })

  const cables = followCables()
  const files = createFilePlayers(store)
  files
    .load()
    .catch((error) => notify(`A file that plays could not be read: ${error.message ?? error}`, true))
  const sources = createSources({
    store,
    files,
    isSeatingEveryone: () => live.getState().isSeatingEveryone,
    toEngine: tellEngine,
    beforeSound: () => void startAudio(),
    midi: (midi) => live.setState({ midi }),
    keyboard: (keyboard) => live.setState({ keyboard }),
  })

  const control = createTransportControl({
    store,
    transport: () => live.getState().transport,
    stand: (ticks) => live.setState({ transport: { state: 'stopped', ticks } }),
    tellEngine,
    startAudio,
    flush: autosave.flush,
    onRecord: (takeSerial) => chainLog.begin(takeSerial),
  })
  const positionTicks = (): Ticks => control.place().ticks
  const chainLog = createChainLog(store, positionTicks)

  // ── what the engine tells ──

  function onTransport(transport: TransportState): void {
    const before = live.getState().transport
    const isSameRun =
      'startedAtMs' in transport &&
      'startedAtMs' in before &&
      transport.startedAtMs === before.startedAtMs &&
      transport.state === before.state
    live.setState({ transport })
    // Along a followed clock only the line moves.
    if (isSameRun) return
    backing.onTransport(transport, contextOf(store.getState().project).tempoMap, epochNowMs())
    if (transport.state === 'recording') {
      liveNotes.clear()
      sources.perform(transport.startedAtMs, transport.fromTicks, transport.loop)
    } else if (transport.state !== 'waiting') {
      sources.stopPerforming()
      if (transport.state === 'stopped') live.setState({ isRehearsing: false })
    }
  }

  function onActivity(events: readonly Activity[]): void {
    assignToWhoeverPlays(events)
    sources.onActivity(events)
    liveNotes.take(events)
    for (const listener of activityListeners) listener(events)
  }

  /** A track that waits takes the first stream that plays a note. */
  function assignToWhoeverPlays(events: readonly Activity[]): void {
    const trackId = live.getState().assigningTrackId
    const stroke = trackId === null ? undefined : events.find((event) => event.isOn)
    if (trackId === null || !stroke) return
    live.setState({ assigningTrackId: null })
    store.getState().apply('assign a track by playing', (project) =>
      changeTrack(project, trackId, (track) => ({
        ...track,
        routes: [plainRoute({ portId: stroke.portId, channel: stroke.channel })],
      })),
    )
  }

  function onTakeFinished(message: FinishedRecording): void {
    liveNotes.clear()
    const finished = finishRecording(store, message, chainLog.finish(message.takeSerial))
    if (!finished) {
      notify('Nothing was played, so no take was kept.')
      return
    }
    finished.stored.catch((error) =>
      notify(
        `The passes of ${finished.name} are in the piece, but could not be stored as they were played: ${error.message ?? error}`,
        true,
      ),
    )
    live.setState({
      // The next pass begins where this one did.
      ...(live.getState().transport.state === 'stopped' && {
        transport: { state: 'stopped', ticks: message.startTicks },
      }),
      lastTake: { ...finished.account, name: finished.name, passes: finished.passes },
      interruptedTakes: live.getState().interruptedTakes.filter((serial) => serial !== message.takeSerial),
    })
  }

  // ── takes that were interrupted by a crash or a closed page ──

  interruptedRecordings(initial)
    .then((interruptedTakes) => {
      if (interruptedTakes.length > 0) live.setState({ interruptedTakes })
    })
    .catch((error) => notify(`Interrupted takes could not be looked for: ${error.message ?? error}`, true))

  async function recoverTake(takeSerial: number): Promise<void> {
    const recording = await recoverRecording(initial.id, takeSerial)
    if (recording) onTakeFinished(recording)
  }

  async function dismissTake(takeSerial: number): Promise<void> {
    await dismissRecording(initial.id, takeSerial)
    live.setState({
      interruptedTakes: live.getState().interruptedTakes.filter((serial) => serial !== takeSerial),
    })
  }

  // ── commands ──

  /** What was played while nothing recorded becomes a take. */
  function keepListened(): void {
    if (store.getState().isReadOnly) return
    tellEngine({ type: 'keepListened', projectId: initial.id, takeSerial: reserveTakeSerial(store) })
  }

  function stop(): void {
    tellEngine({ type: 'stop' })
    sources.stopPerforming()
    live.setState({ isRehearsing: false })
  }

  /** Asks the stand-ins to play without recording, to see and hear that everything is connected. */
  async function rehearse(): Promise<void> {
    await startAudio()
    live.setState({ isRehearsing: true })
    sources.perform(epochNowMs() + 200, 0)
  }

  function setArmed(trackId: string, isArmed: boolean): void {
    store
      .getState()
      .apply(isArmed ? 'arm a track' : 'disarm a track', (project) =>
        changeTrack(project, trackId, (track: Track) => ({ ...track, isArmed })),
      )
  }

  // ── connecting ──

  /** Where a track's notes are sent besides its own sound. A way that would feed itself is refused, and said. */
  function setSend(trackId: string, sendTo: InputAddress | null): void {
    const { project } = store.getState()
    const tried = changeTrack(project, trackId, (track) => ({ ...track, sendTo }))
    const ring = feedbackIn(tried)
    if (ring.length > 0 && feedbackIn(project).length === 0) {
      notify(
        `That would feed back: ${ringInWords(ring)}. Each sends what the next one hears, so notes would multiply. Nothing was changed.`,
        true,
      )
      return
    }
    store.getState().apply('send a track to a port', () => tried)
  }

  /** What was seen of the world lately, for the check of the wiring. */
  function recentActivity(state: LiveState = live.getState()): RecentActivity {
    return {
      ports: state.midi.state === 'ready' ? state.midi.ports : null,
      streams: state.streams,
      readCables: Object.entries(state.cableReaders)
        .filter(([, programs]) => programs.length > 0)
        .map(([name]) => name),
    }
  }

  function openPort(portId: string): void {
    tellEngine({ type: 'openPort', portId })
    live.setState({ shutPortId: null })
  }

  function computeApi(): Remote<ComputeApi> {
    if (!compute) {
      computeWorker = new Worker(new URL('../engine/compute/compute.worker.ts', import.meta.url), {
        type: 'module',
      })
      compute = wrap<ComputeApi>(computeWorker)
    }
    return compute
  }

  return {
    store,
    live,
    saveStatus: autosave.status,
    flushSave: autosave.flush,
    engraver,
    engraving,
    computeApi,
    takeOver: lock.takeOver,
    startAudio,
    ...control,
    stop,
    rehearse,
    positionTicks,
    setArmed,
    setSend,
    recentActivity,
    openPort,
    cables,
    files,
    backing,
    restoreTake: (takeSerial: number, which: 'played' | 'result' = 'played') =>
      restoreTake(store, takeSerial, which),
    seatEveryone: (isSeatingEveryone: boolean) => live.setState({ isSeatingEveryone }),
    /** Strokes of the click, to play along with; a stand-in plays along by itself. */
    clickAt(timesMs: readonly Milliseconds[], address: InputAddress) {
      tellEngine({ type: 'clickAt', timesMs })
      if (sources.isStandIn(address.portId)) sources.strikeAlong(address, timesMs)
    },
    keepListened,
    forgetListened: () => tellEngine({ type: 'forgetListened' }),
    assignByPlaying: (trackId: string | null) => live.setState({ assigningTrackId: trackId }),
    recoverTake,
    dismissTake,
    notify,
    dismissNotice: () => live.setState({ notice: null }),
    panic: () => {
      sources.stopPerforming()
      tellEngine({ type: 'panic' })
    },
    audition: (trackId: string, key: number, velocity = 90) => {
      void startAudio()
      tellEngine({ type: 'audition', trackId, key, velocity })
    },
    input: sources.input,
    liveNotes: liveNotes.list,
    onActivity(listener: (events: readonly Activity[]) => void) {
      activityListeners.add(listener)
      return () => activityListeners.delete(listener)
    },
    onSynthReport: sound.onReport,
    measureSynth: sound.measure,
    /** Begins or ends measuring in the engine, and gives what was measured since it began. */
    measureEngine(isOn: boolean): Promise<Extract<FromEngine, { type: 'measured' }>> {
      return new Promise((resolve) => {
        measureWaiters.push(resolve)
        tellEngine({ type: 'measure', isOn })
      })
    },
    /** Files kept with the project. */
    assets: () => {
      const { project } = store.getState()
      return assetsOf(
        project.id,
        project.assets.map((asset) => asset.id),
      )
    },
    takeEvents: (takeSerial: number) => journal.eventsOf(initial.id, takeSerial),
    async close() {
      tellEngine({ type: 'stop' })
      unsubscribe()
      engraving.stop()
      chainLog.close()
      sources.close()
      backing.close()
      cables.close()
      await autosave.stop()
      lock.release()
      engraver[releaseProxy]()
      engraverWorker.terminate()
      computeWorker?.terminate()
      // The engine gets a moment to write the last of a take.
      setTimeout(() => engineWorker.terminate(), 1000)
      await sound.close()
    },
  }
}
