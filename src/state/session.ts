import { releaseProxy, wrap } from 'comlink'
import { changeTrack } from '@/core/project/commands'
import { contextOf } from '@/core/project/context'
import type { Project, Track } from '@/core/project/schema'
import type { InputAddress } from '@/core/routing/address'
import { ringInWords } from '@/core/routing/feedback'
import { plainRoute } from '@/core/routing/route'
import type { Milliseconds, Ticks } from '@/core/time/units'
import { feedbackIn } from '@/core/wiring/feedbackIn'
import type { RecentActivity } from '@/core/wiring/wiring'
import { epochNowMs } from '@/engine/clock'
import type { EngraverApi } from '@/engine/engraver/engraver.worker'
import { journal } from '@/engine/journal/journal'
import type { Activity, TransportState } from '@/engine/protocol'
import { assetsOf } from './assets'
import { startAutosave } from './autosave'
import { createBacking } from './backing'
import { createChainLog } from './chainLog'
import { createComputing } from './computing'
import type { LoadedProject } from './database'
import { createEngineLink } from './engineLink'
import { createEnginePicture } from './enginePicture'
import { startEngraving } from './engraving'
import { createFilePlayers } from './filePlayers'
import { leaving, storesBy } from './leaving'
import { createLiveNotes } from './liveNotes'
import { createLiveState, type LiveState } from './liveState'
import { holdProject } from './projectLock'
import { createProjectStore } from './projectStore'
import { followCables } from './rig'
import { createSound } from './sound'
import { createSources } from './sources'
import { createTakeKeeper, longestLeavingMs } from './takeKeeper'
import { reserveTakeSerial, restoreTake } from './takes'
import { createTransportControl } from './transportControl'

export type Session = Awaited<ReturnType<typeof openSession>>

/** The thread that works on files is started this much after a project was opened: first the project, then what it may need. */
const prepareComputingMs: Milliseconds = 1500

/**
 * Everything that runs for an open project: the store with undo and autosave, the engine and its threads, the ports.
 * One project is open at a time; `close` ends all of it.
 */
export async function openSession(loaded: LoadedProject) {
  const initial = loaded.project
  const live = createLiveState()
  function notify(text: string, isProblem = false): void {
    live.setState({ notice: { text, isProblem } })
  }
  const problem = (text: string) => notify(text, true)
  const store = createProjectStore(initial, problem)
  /** Typed text that waits to become a change. */
  const edits = new Set<() => void>()
  const autosave = startAutosave({
    store,
    stored: loaded,
    collectEdits: () => {
      for (const collect of edits) collect()
    },
    onSaved: (project) =>
      void takeKeeper.file(project.takes.map((take) => take.serial)).catch((error) => problem(String(error))),
    onWrittenAgain: () =>
      problem(
        'This browser’s data were cleared while the piece was open. Everything you see has been stored again, but takes as they were played and files kept with the piece may be gone. Save the project to a file under Deliver.',
      ),
  })

  const engine = createEngineLink({
    live,
    transport: onTransport,
    activity: onActivity,
    settle: () => sources.handedOver(),
    takeFinished(recording) {
      liveNotes.clear()
      takeKeeper.keep(recording)
    },
    send: (messages) => sources.send(messages),
    notify,
  })
  const engraverWorker = new Worker(new URL('../engine/engraver/engraver.worker.ts', import.meta.url), {
    type: 'module',
  })
  const engraver = wrap<EngraverApi>(engraverWorker)
  const engraving = startEngraving(store, engraver)
  engraverWorker.onerror = (event) => {
    event.preventDefault()
    engraving.fail(event.message || 'the part of the program that engraves could not be loaded')
  }
  const computing = createComputing()
  const prepareTimer = setTimeout(computing.prepare, prepareComputingMs)

  const activityListeners = new Set<(events: readonly Activity[]) => void>()
  const liveNotes = createLiveNotes()

  const sound = createSound({
    engine: engine.tell,
    state: (audio) => live.setState({ audio }),
    problem,
  })
  const startAudio = sound.start

  const backing = createBacking({
    store,
    context: sound.context,
    audioSecondsAt: sound.audioSecondsAt,
    problem,
  })
  const enginePicture = createEnginePicture(engine.tell, sound.synthChannelOf)
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
  files.load().catch((error) => problem(`A file that plays could not be read: ${error.message ?? error}`))
  const sources = createSources({
    store,
    files,
    isSeatingEveryone: () => live.getState().isSeatingEveryone,
    toEngine: engine.tell,
    beforeSound: () => void startAudio(),
    midi: (midi) => live.setState({ midi }),
    keyboard: (keyboard) => live.setState({ keyboard }),
    problem,
  })

  const control = createTransportControl({
    store,
    transport: () => live.getState().transport,
    stand: (ticks) => live.setState({ transport: { state: 'stopped', ticks } }),
    tellEngine: engine.tell,
    startAudio,
    flush: autosave.flush,
    onRecord: (takeSerial) => chainLog.begin(takeSerial),
  })
  const positionTicks = (): Ticks => control.place().ticks
  const chainLog = createChainLog(store, positionTicks)
  const takeKeeper = createTakeKeeper({
    projectId: initial.id,
    store,
    live,
    performed: chainLog.finish,
    notify,
  })
  takeKeeper
    .lookForInterrupted()
    .catch((error) => problem(`Interrupted takes could not be looked for: ${error.message ?? error}`))

  const lock = holdProject(initial.id, {
    held: () => store.getState().setReadOnly(false),
    refused: () => store.getState().setReadOnly(true),
    lost: () =>
      void endRecording()
        .then(autosave.flush)
        .then(() => store.getState().setReadOnly(true)),
  })

  /** Ends what is being recorded; resolves when its take is in the project, or when the engine took too long. */
  async function endRecording(): Promise<void> {
    control.cancelRecord()
    engine.tell({ type: 'stop', atMs: epochNowMs() })
    await sources.handedOver()
    await Promise.race([engine.leave(), new Promise((resolve) => setTimeout(resolve, longestLeavingMs))])
  }

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

  // ── commands ──

  /** What was played while nothing recorded becomes a take. */
  function keepListened(): void {
    if (store.getState().isReadOnly) return
    engine.tell({ type: 'keepListened', projectId: initial.id, takeSerial: reserveTakeSerial(store) })
  }

  /** @param press the press that asks for it: what was played before that moment belongs to the take, whenever it arrives */
  function stop(press?: { readonly timeStamp: number }): void {
    control.cancelRecord()
    engine.tell({ type: 'stop', atMs: press ? performance.timeOrigin + press.timeStamp : epochNowMs() })
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
      problem(
        `That would feed back: ${ringInWords(ring)}. Each sends what the next one hears, so notes would multiply. Nothing was changed.`,
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
    engine.tell({ type: 'openPort', portId })
    live.setState({ shutPortId: null })
  }

  const stopStoring = storesBy(async () => {
    await endRecording()
    await autosave.flush()
  })

  async function close(): Promise<void> {
    clearTimeout(prepareTimer)
    stopStoring()
    // A take that is being recorded is finished first, and saved with the project.
    await endRecording()
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
    computing.stop()
    engine.end()
    await sound.close()
  }

  return {
    store,
    live,
    saveStatus: autosave.status,
    flushSave: autosave.flush,
    writeOver: autosave.writeOver,
    /** Typed text that becomes a change only after a pause: asked for before anything is stored. @returns how to end that */
    holdEdit(collect: () => void) {
      edits.add(collect)
      return () => edits.delete(collect)
    },
    engraver,
    engraving,
    computing,
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
      engine.tell({ type: 'clickAt', timesMs })
      if (sources.isStandIn(address.portId)) sources.strikeAlong(address, timesMs)
    },
    keepListened,
    forgetListened: () => engine.tell({ type: 'forgetListened' }),
    assignByPlaying: (trackId: string | null) => live.setState({ assigningTrackId: trackId }),
    recoverTake: takeKeeper.recover,
    dismissTake: takeKeeper.dismiss,
    notify,
    dismissNotice: () => live.setState({ notice: null }),
    panic: () => {
      sources.stopPerforming()
      live.setState({ isRehearsing: false })
      control.cancelRecord()
      engine.tell({ type: 'panic' })
    },
    audition: (trackId: string, key: number, velocity = 90) => {
      void startAudio()
      engine.tell({ type: 'audition', trackId, key, velocity })
    },
    input: sources.input,
    liveNotes: liveNotes.list,
    onActivity(listener: (events: readonly Activity[]) => void) {
      activityListeners.add(listener)
      return () => activityListeners.delete(listener)
    },
    onSynthReport: sound.onReport,
    measureSynth: sound.measure,
    measureEngine: engine.measure,
    /** Files kept with the project. */
    assets: () => {
      const { project } = store.getState()
      return assetsOf(
        project.id,
        project.assets.map((asset) => asset.id),
      )
    },
    takeEvents: (takeSerial: number) => journal.eventsOf(initial.id, takeSerial),
    close() {
      const closed = close()
      leaving(initial.id, closed)
      return closed
    },
  }
}
