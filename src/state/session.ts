import { type Remote, releaseProxy, wrap } from 'comlink'
import { createStore } from 'zustand/vanilla'
import type { TakeAccount } from '@/core/capture/takeToNotes'
import { columnBuffers, packNotes } from '@/core/event/noteColumns'
import { changeTrack } from '@/core/project/commands'
import { projectEndTicks, soundingControllers, soundingNotes } from '@/core/project/create'
import { chainOf, playingEndTicks } from '@/core/project/printing'
import type { InputAddress, Project, Stretch, Track } from '@/core/project/schema'
import { feedbackRing, ringInWords } from '@/core/routing/feedback'
import { cableName } from '@/core/routing/ports'
import { plainRoute } from '@/core/routing/route'
import type { RecentActivity } from '@/core/routing/wiring'
import { MeterMap } from '@/core/time/meterMap'
import { TempoMap } from '@/core/time/tempoMap'
import type { Milliseconds, Ticks } from '@/core/time/units'
import { epochNowMs } from '@/engine/clock'
import type { ComputeApi } from '@/engine/compute/compute.worker'
import type { EngraverApi } from '@/engine/engraver/engraver.worker'
import { journal } from '@/engine/journal/journal'
import type { KeyboardSettings } from '@/engine/midiInput/computerKeyboard'
import type { MidiAvailability } from '@/engine/midiInput/midiInputs'
import type {
  Activity,
  EngineTrack,
  FromEngine,
  StreamCount,
  ToEngine,
  TransportState,
} from '@/engine/protocol'
import { type Place, Timeline } from '@/engine/transport/timeline'
import { assetsOf } from './assets'
import { startAutosave } from './autosave'
import { createBacking } from './backing'
import { createChainLog } from './chainLog'
import { startEngraving } from './engraving'
import { createFilePlayers } from './filePlayers'
import { holdProject } from './projectLock'
import { createProjectStore } from './projectStore'
import { followCables } from './rig'
import { type AudioState, clickSynthChannel, createSound } from './sound'
import { createSources } from './sources'
import {
  compensationsOf,
  dismissRecording,
  type FinishedRecording,
  finishRecording,
  interruptedRecordings,
  recoverRecording,
  reserveTakeSerial,
  restoreTake,
} from './takes'
import { throwForStart } from './throws'

/** What is happening right now: nothing of it is stored. */
export interface LiveState {
  readonly transport: TransportState
  readonly midi: MidiAvailability
  readonly audio: AudioState
  readonly keyboard: KeyboardSettings
  /** The stand-ins play without being recorded. */
  readonly isRehearsing: boolean
  /** Said to the user until dismissed. */
  readonly notice: { readonly text: string; readonly isProblem: boolean } | null
  readonly lastTake: (TakeAccount & { readonly name: string; readonly passes: number }) | null
  readonly interruptedTakes: readonly number[]
  /** Notes played outside recording that can still become a take. */
  readonly listenedNotes: number
  /** The track that waits for whoever plays next. */
  readonly assigningTrackId: string | null
  /** Every stream that plays gets a track of its own. */
  readonly isSeatingEveryone: boolean
  /** What was heard from each stream since the project was opened. */
  readonly streams: readonly StreamCount[]
  /** Programs that read the cables written to, by cable. */
  readonly cableReaders: Readonly<Record<string, readonly string[]>>
  /** A port that was shut because more came from it than anybody plays. */
  readonly shutPortId: string | null
  readonly followedClock: { readonly isRunning: boolean; readonly tempoBpm: number | null }
}

/** A note that is being recorded right now, for the pictures. */
export interface LiveNote {
  readonly trackId: string
  readonly key: number
  readonly velocity: number
  readonly onsetTicks: Ticks
  endTicks: Ticks | null
  /** Which turn of the loop it was played in. */
  readonly pass: number
}

export type Session = Awaited<ReturnType<typeof openSession>>

/**
 * Everything that runs for an open project: the store with undo and autosave, the engine and its threads, the ports.
 * One project is open at a time; `close` ends all of it.
 */
export async function openSession(initial: Project, isStored: boolean) {
  const store = createProjectStore(initial)
  const live = createStore<LiveState>(() => ({
    transport: { state: 'stopped', ticks: 0 },
    midi: { state: 'asking' },
    audio: 'waiting for a key or click',
    keyboard: { lowestKey: 60, velocity: 84 },
    isRehearsing: false,
    notice: null,
    lastTake: null,
    interruptedTakes: [],
    listenedNotes: 0,
    assigningTrackId: null,
    isSeatingEveryone: false,
    streams: [],
    cableReaders: {},
    shutPortId: null,
    followedClock: { isRunning: false, tempoBpm: null },
  }))
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
  let liveNotes: LiveNote[] = []
  const measureWaiters: ((measured: Extract<FromEngine, { type: 'measured' }>) => void)[] = []

  engineWorker.onmessage = (event: MessageEvent<FromEngine>) => {
    const message = event.data
    switch (message.type) {
      case 'transport':
        onTransport(message.transport)
        return
      case 'activity':
        live.setState({ listenedNotes: message.listenedNotes, streams: message.streams })
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

  // ── the engine's picture of the project ──

  let pushedGenerators: Project['generators'] | null = null
  const pushedContent = new Map<string, readonly unknown[]>()
  function pushProject(project: Project): void {
    const hasSolo = project.tracks.some((track) => track.isSolo)
    const tracks: EngineTrack[] = project.tracks.map((track) => ({
      id: track.id,
      synthChannel: sound.synthChannelOf(track.id),
      routes: track.routes,
      monitor: track.monitor,
      sendTo: track.sendTo,
      channel: track.channel,
      offsetMs: track.offsetMs,
      hasSound: track.instrument.kind !== 'none',
      isArmed: track.isArmed,
      isAudible: !track.isMuted && (!hasSolo || track.isSolo),
      ...chainOf(track),
    }))
    tellEngine({
      type: 'setup',
      setup: {
        tracks,
        tempos: project.tempos,
        meters: project.meters,
        countInBars: project.countIn === 'firstNote' ? 0 : project.countIn,
        click: project.click,
        clickSynthChannel,
        takeMode: project.recording.takeMode,
        isListening: project.isListening,
        compensations: compensationsOf(project),
        sourceChains: project.sources
          .filter((source) => source.effects.length > 0)
          .map(({ address, effects }) => ({ ...address, slots: effects })),
        clockTo: project.clock.sendTo,
        clockFrom: project.clock.follow,
        cables: cablesRead(project),
      },
    })
    if (pushedGenerators !== project.generators) {
      pushedGenerators = project.generators
      tellEngine({ type: 'generators', generators: project.generators })
    }
    for (const track of project.tracks) {
      const notes = soundingNotes(track)
      const known = pushedContent.get(track.id)
      if (known?.[0] === notes && known[1] === track.clips) continue
      if (known?.[0] === notes && notes.length === 0) continue
      pushedContent.set(track.id, [notes, track.clips])
      const columns = packNotes(notes)
      const controllers = soundingControllers(track)
      tellEngine(
        { type: 'trackContent', trackId: track.id, notes: columns, controllers },
        columnBuffers(columns),
      )
    }
    sound.setProject(project)
    void backing.load(project)
  }
  const backing = createBacking({
    store,
    context: sound.context,
    audioSecondsAt: sound.audioSecondsAt,
    problem: (text) => notify(text, true),
  })
  pushProject(initial)
  const unsubscribe = store.subscribe((state, previous) => {
    if (state.project !== previous.project) pushProject(state.project)
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

  const chainLog = createChainLog(store, () => positionTicks())

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
    backing.onTransport(transport, tempoMapOf(store.getState().project), epochNowMs())
    if (transport.state === 'recording') {
      liveNotes = []
      sources.perform(transport.startedAtMs, transport.fromTicks, transport.loop)
    } else if (transport.state !== 'waiting') {
      sources.stopPerforming()
      if (transport.state === 'stopped') live.setState({ isRehearsing: false })
    }
  }

  function onActivity(events: readonly Activity[]): void {
    assignToWhoeverPlays(events)
    sources.onActivity(events)
    for (const event of events) {
      if (event.ticks === null) continue
      for (const trackId of event.trackIds) {
        if (event.isOn)
          liveNotes.push({
            trackId,
            key: event.key,
            velocity: event.velocity,
            onsetTicks: event.ticks,
            endTicks: null,
            pass: event.pass,
          })
        else {
          const open = liveNotes.findLast(
            (note) => note.trackId === trackId && note.key === event.key && note.endTicks === null,
          )
          if (open) open.endTicks = event.ticks
        }
      }
    }
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
    liveNotes = []
    const finished = finishRecording(store, message, chainLog.finish(message.takeSerial))
    if (!finished) {
      notify('Nothing was played, so no take was kept.')
      return
    }
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

  void interruptedRecordings(initial).then((interruptedTakes) => {
    if (interruptedTakes.length > 0) live.setState({ interruptedTakes })
  })

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

  // ── commands of the transport ──

  /** Place now; runs on while playing, and round in a loop. */
  function place(): Place {
    const { transport } = live.getState()
    if (transport.state === 'stopped' || transport.state === 'waiting')
      return { pass: 0, ticks: transport.ticks }
    return new Timeline(tempoMapOf(store.getState().project), transport).placeAt(epochNowMs())
  }

  const positionTicks = (): Ticks => place().ticks

  /** The marked stretch, while it is to be looped. */
  function loopStretch(): Stretch | null {
    const { stretch, isLooping } = store.getState().project.recording
    return isLooping ? stretch : null
  }

  /** Chance that is not kept is thrown anew at every start; that is no step of history. */
  function throwDice(): void {
    const { project, isReadOnly } = store.getState()
    const thrown = throwForStart(project)
    if (thrown !== project && !isReadOnly) store.setState({ project: thrown })
  }

  async function play(fromTicks: Ticks, untilTicks: Ticks | null, loop = loopStretch()): Promise<void> {
    await startAudio()
    throwDice()
    const isInLoop = loop !== null && fromTicks < loop.endTicks
    tellEngine({
      type: 'play',
      fromTicks,
      untilTicks: isInLoop ? null : untilTicks,
      loop: isInLoop ? loop : null,
    })
  }

  /** Plays on from where it stopped; from the beginning when nothing is left to play. */
  function playOn(): Promise<void> {
    const { transport } = live.getState()
    const loop = loopStretch()
    const endTicks = playingEndTicks(store.getState().project)
    const here = transport.state === 'stopped' ? transport.ticks : 0
    if (loop) return play(here < loop.endTicks ? here : loop.startTicks, endTicks, loop)
    return play(endTicks === null || here < endTicks ? here : 0, endTicks)
  }

  async function record(): Promise<void> {
    if (store.getState().isReadOnly) return
    const fromTicks = recordingStartTicks()
    const { project } = store.getState()
    const { stretch, isLooping } = project.recording
    // A stretch that lies behind the playing position is not meant.
    const marked = stretch && fromTicks < stretch.endTicks ? stretch : null
    const startTicks = marked ? marked.startTicks : fromTicks
    await startAudio()
    throwDice()
    const takeSerial = reserveTakeSerial(store)
    chainLog.begin(takeSerial)
    await autosave.flush()
    tellEngine({
      type: 'record',
      projectId: initial.id,
      takeSerial,
      fromTicks: marked && isLooping ? startTicks : Math.min(fromTicks, startTicks),
      startTicks,
      endTicks: marked?.endTicks ?? null,
      isLooping: isLooping && marked !== null,
      // Half a sixteenth: what is nearer to the downbeat than to the step before it.
      earlyMs: (60_000 / tempoMapOf(project).tempoAt(startTicks) / 4) * 0.5,
      startsWithFirstNote: project.countIn === 'firstNote',
    })
  }

  /**
   * Where recording begins: the marked stretch when it is looped or the playing position is in it; else the bar of the
   * playing position, while there is music there; else the beginning.
   */
  function recordingStartTicks(): Ticks {
    const { project } = store.getState()
    const { transport } = live.getState()
    const { stretch, isLooping } = project.recording
    const here = transport.state === 'stopped' ? transport.ticks : 0
    if (stretch && (isLooping || here === 0 || here >= stretch.startTicks)) return stretch.startTicks
    if (here >= projectEndTicks(project)) return 0
    return new MeterMap(project.meters).measureAt(here).startTicks
  }

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

  function seek(ticks: Ticks): void {
    const { transport } = live.getState()
    if (transport.state === 'recording') return
    if (transport.state === 'playing') void play(ticks, playingEndTicks(store.getState().project))
    else live.setState({ transport: { state: 'stopped', ticks } })
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
    const ring = feedbackRing(tried.tracks)
    if (ring.length > 0 && feedbackRing(project.tracks).length === 0) {
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
    play,
    playOn,
    record,
    stop,
    rehearse,
    seek,
    positionTicks,
    place,
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
    recordingStartTicks,
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
    liveNotes: () => liveNotes,
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

/** Cables that are read: those chosen, and those that sources are on, that tracks hear, and whose clock is followed. */
function cablesRead(project: Project): string[] {
  const portIds = [
    ...project.sources.map((source) => source.address.portId),
    ...project.tracks.flatMap((track) => track.routes.map((route) => route.portId)),
    ...(project.clock.follow ? [project.clock.follow] : []),
  ]
  return [...new Set([...project.cables, ...portIds.map(cableName).filter((name) => name !== null)])]
}

const tempoMaps = new WeakMap<Project['tempos'], TempoMap>()

/** The tempo map of a project, made once for each list of tempi. */
export function tempoMapOf(project: Project): TempoMap {
  let map = tempoMaps.get(project.tempos)
  if (!map) {
    map = new TempoMap(project.tempos)
    tempoMaps.set(project.tempos, map)
  }
  return map
}
