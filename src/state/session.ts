import { type Remote, releaseProxy, wrap } from 'comlink'
import { createStore } from 'zustand/vanilla'
import { type TakeAccount, takeToNotes } from '@/core/capture/takeToNotes'
import { columnBuffers, packNotes } from '@/core/event/noteColumns'
import { addTake, changeTrack } from '@/core/project/commands'
import { projectEndTicks, soundingNotes } from '@/core/project/create'
import type { Project, Track } from '@/core/project/schema'
import { MeterMap } from '@/core/time/meterMap'
import { TempoMap } from '@/core/time/tempoMap'
import type { Ticks } from '@/core/time/units'
import { epochNowMs } from '@/engine/clock'
import type { ComputeApi } from '@/engine/compute/compute.worker'
import type { EngraverApi } from '@/engine/engraver/engraver.worker'
import { journal } from '@/engine/journal/journal'
import type { KeyboardSettings } from '@/engine/midiInput/computerKeyboard'
import type { MidiAvailability } from '@/engine/midiInput/midiInputs'
import type { Activity, EngineTrack, FromEngine, ToEngine, TransportState } from '@/engine/protocol'
import { startAutosave } from './autosave'
import { startEngraving } from './engraving'
import { holdProject } from './projectLock'
import { createProjectStore } from './projectStore'
import { type AudioState, clickSynthChannel, createSound } from './sound'
import { createSources } from './sources'

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
  readonly lastTake: (TakeAccount & { readonly name: string }) | null
  readonly interruptedTakes: readonly number[]
  /** Notes played outside recording that can still become a take. */
  readonly listenedNotes: number
  /** The track that waits for whoever plays next. */
  readonly assigningTrackId: string | null
}

/** A note that is being recorded right now, for the pictures. */
export interface LiveNote {
  readonly trackId: string
  readonly key: number
  readonly velocity: number
  readonly onsetTicks: Ticks
  endTicks: Ticks | null
}

const longestTakeName = 60

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

  engineWorker.onmessage = (event: MessageEvent<FromEngine>) => {
    const message = event.data
    switch (message.type) {
      case 'transport':
        onTransport(message.transport)
        return
      case 'activity':
        if (message.listenedNotes !== live.getState().listenedNotes)
          live.setState({ listenedNotes: message.listenedNotes })
        onActivity(message.events)
        return
      case 'takeFinished':
        onTakeFinished(message)
        return
      case 'journalFailed':
        notify(
          `What is being played could not be stored safely (${message.reason}). It is still in memory: stop and save the project to a file.`,
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

  const pushedContent = new Map<string, readonly unknown[]>()
  function pushProject(project: Project): void {
    const hasSolo = project.tracks.some((track) => track.isSolo)
    const tracks: EngineTrack[] = project.tracks.map((track) => ({
      id: track.id,
      synthChannel: sound.synthChannelOf(track.id),
      input: track.input,
      isArmed: track.isArmed,
      isAudible: !track.isMuted && (!hasSolo || track.isSolo),
      effects: track.effects,
    }))
    tellEngine({
      type: 'setup',
      setup: {
        tracks,
        tempos: project.tempos,
        meters: project.meters,
        countInBars: project.countInBars,
        isClickOn: project.isClickOn,
        clickSynthChannel,
      },
    })
    for (const track of project.tracks) {
      const notes = soundingNotes(track)
      const known = pushedContent.get(track.id)
      if (known?.[0] === notes && known[1] === track.clips) continue
      if (known?.[0] === notes && notes.length === 0) continue
      pushedContent.set(track.id, [notes, track.clips])
      const columns = packNotes(notes)
      const controllers = track.clips.filter((clip) => clip.isSounding).flatMap((clip) => clip.controllers)
      tellEngine(
        { type: 'trackContent', trackId: track.id, notes: columns, controllers },
        columnBuffers(columns),
      )
    }
    sound.setProject(project)
  }
  pushProject(initial)
  const unsubscribe = store.subscribe((state, previous) => {
    if (state.project !== previous.project) pushProject(state.project)
  })

  const sources = createSources({
    store,
    toEngine: tellEngine,
    beforeSound: () => void startAudio(),
    midi: (midi) => live.setState({ midi }),
    keyboard: (keyboard) => live.setState({ keyboard }),
  })

  // ── what the engine tells ──

  function onTransport(transport: TransportState): void {
    live.setState({ transport })
    if (transport.state === 'recording') {
      liveNotes = []
      sources.performStandIns(transport.startedAtMs, transport.fromTicks)
    } else {
      sources.stopStandIns()
      if (transport.state === 'stopped') live.setState({ isRehearsing: false })
    }
  }

  function onActivity(events: readonly Activity[]): void {
    assignToWhoeverPlays(events)
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
        input: { portId: stroke.portId, channel: stroke.channel },
      })),
    )
  }

  function onTakeFinished(message: Extract<FromEngine, { type: 'takeFinished' }>): void {
    const { project } = store.getState()
    liveNotes = []
    if (message.events.count === 0) {
      notify('Nothing was played, so no take was kept.')
      return
    }
    const tracks = project.tracks.filter((track) => track.isArmed)
    const tempoMap = new TempoMap(project.tempos)
    const recorded = takeToNotes(
      message.events,
      {
        takeSerial: message.takeSerial,
        startTicks: message.startTicks,
        anchorMs: message.anchorMs,
        endMs: message.endMs,
        tempoMap,
        // Half a sixteenth: what is nearer to the downbeat than to the step before it.
        earlyMs: (60_000 / tempoMap.tempoAt(message.startTicks) / 4) * 0.5,
      },
      tracks,
      Math.max(project.nextSerial, message.takeSerial + 1),
    )
    const name = `Take ${project.takes.length + 1}`.slice(0, longestTakeName)
    const take = {
      serial: message.takeSerial,
      name,
      recordedAtMs: message.anchorMs,
      startTicks: message.startTicks,
      anchorMs: message.anchorMs,
      durationMs: Math.max(0, message.endMs - message.anchorMs),
      eventCount: message.events.count,
    }
    store
      .getState()
      .apply(`record ${name}`, (before) => addTake(before, take, recorded.tracks, recorded.nextNoteId))
    live.setState({
      // The next pass begins where this one did.
      ...(live.getState().transport.state === 'stopped' && {
        transport: { state: 'stopped', ticks: message.startTicks },
      }),
      lastTake: { ...recorded.account, name },
      interruptedTakes: live.getState().interruptedTakes.filter((serial) => serial !== message.takeSerial),
    })
  }

  // ── takes that were interrupted by a crash or a closed page ──

  void journal.takesOf(initial.id).then((takes) => {
    const known = new Set(store.getState().project.takes.map((take) => take.serial))
    const interrupted = takes
      .filter((take) => take.endMs === null && !known.has(take.takeSerial))
      .map((take) => take.takeSerial)
    if (interrupted.length > 0) live.setState({ interruptedTakes: interrupted })
  })

  async function recoverTake(takeSerial: number): Promise<void> {
    const take = (await journal.takesOf(initial.id)).find((candidate) => candidate.takeSerial === takeSerial)
    if (!take) return
    const events = await journal.eventsOf(initial.id, takeSerial)
    const endMs = events.count > 0 ? events.timesMs[events.count - 1]! : take.anchorMs
    await journal.finish({ ...take, endMs })
    onTakeFinished({
      type: 'takeFinished',
      takeSerial,
      startTicks: take.startTicks,
      anchorMs: take.anchorMs,
      endMs,
      events,
    })
  }

  async function dismissTake(takeSerial: number): Promise<void> {
    const take = (await journal.takesOf(initial.id)).find((candidate) => candidate.takeSerial === takeSerial)
    if (take) await journal.finish({ ...take, endMs: take.anchorMs })
    live.setState({
      interruptedTakes: live.getState().interruptedTakes.filter((serial) => serial !== takeSerial),
    })
  }

  // ── commands of the transport ──

  /** Position now, in ticks; runs on while playing. */
  function positionTicks(): Ticks {
    const { transport } = live.getState()
    if (transport.state === 'stopped') return transport.ticks
    const tempoMap = tempoMapOf(store.getState().project)
    return tempoMap.ticksAt(tempoMap.msAt(transport.fromTicks) + epochNowMs() - transport.startedAtMs)
  }

  async function play(fromTicks: Ticks, untilTicks: Ticks | null): Promise<void> {
    await startAudio()
    tellEngine({ type: 'play', fromTicks, untilTicks })
  }

  /** Plays on from where it stopped; from the beginning when nothing is left to play. */
  function playOn(): Promise<void> {
    const { transport } = live.getState()
    const endTicks = projectEndTicks(store.getState().project)
    const fromTicks = transport.state === 'stopped' && transport.ticks < endTicks ? transport.ticks : 0
    return play(fromTicks, endTicks)
  }

  async function record(): Promise<void> {
    if (store.getState().isReadOnly) return
    const fromTicks = recordingStartTicks()
    await startAudio()
    const takeSerial = newTakeSerial()
    await autosave.flush()
    tellEngine({ type: 'record', fromTicks, projectId: initial.id, takeSerial })
  }

  /** Where recording begins: the bar of the playing position, while there is music there; else the beginning. */
  function recordingStartTicks(): Ticks {
    const { project } = store.getState()
    const { transport } = live.getState()
    if (transport.state !== 'stopped' || transport.ticks >= projectEndTicks(project)) return 0
    return new MeterMap(project.meters).measureAt(transport.ticks).startTicks
  }

  /** The number is taken at once, so that a take is never confused with another, also after a crash. */
  function newTakeSerial(): number {
    const takeSerial = store.getState().project.nextSerial
    store.setState((state) => ({ project: { ...state.project, nextSerial: takeSerial + 1 } }))
    return takeSerial
  }

  /** What was played while nothing recorded becomes a take. */
  function keepListened(): void {
    if (store.getState().isReadOnly) return
    tellEngine({ type: 'keepListened', projectId: initial.id, takeSerial: newTakeSerial() })
  }

  function stop(): void {
    tellEngine({ type: 'stop' })
    sources.stopStandIns()
    live.setState({ isRehearsing: false })
  }

  /** Asks the stand-ins to play without recording, to see and hear that everything is connected. */
  async function rehearse(): Promise<void> {
    await startAudio()
    live.setState({ isRehearsing: true })
    sources.performStandIns(epochNowMs() + 200, 0)
  }

  function seek(ticks: Ticks): void {
    const { transport } = live.getState()
    if (transport.state === 'recording') return
    if (transport.state === 'playing') tellEngine({ type: 'play', fromTicks: ticks, untilTicks: null })
    else live.setState({ transport: { state: 'stopped', ticks } })
  }

  function setArmed(trackId: string, isArmed: boolean): void {
    store
      .getState()
      .apply(isArmed ? 'arm a track' : 'disarm a track', (project) =>
        changeTrack(project, trackId, (track: Track) => ({ ...track, isArmed })),
      )
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
    setArmed,
    recordingStartTicks,
    keepListened,
    forgetListened: () => tellEngine({ type: 'forgetListened' }),
    assignByPlaying: (trackId: string | null) => live.setState({ assigningTrackId: trackId }),
    recoverTake,
    dismissTake,
    notify,
    dismissNotice: () => live.setState({ notice: null }),
    panic: () => {
      sources.stopStandIns()
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
    takeEvents: (takeSerial: number) => journal.eventsOf(initial.id, takeSerial),
    async close() {
      tellEngine({ type: 'stop' })
      unsubscribe()
      engraving.stop()
      sources.close()
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
