import { timedNotesOf } from '@/core/project/playedBars'
import type { Project } from '@/core/project/schema'
import type { Ticks } from '@/core/time/units'
import { reportsOf } from '@/engine/cables/cable'
import { createEnginePicture } from '@/engine/enginePicture'
import { createActivityHub } from './activityHub'
import { startAutosave } from './autosave'
import { createBacking } from './backing'
import { createChainLog } from './chainLog'
import { createComputing } from './computing'
import { createConnecting } from './connecting'
import type { LoadedProject } from './database'
import { createEngineLink } from './engineLink'
import { startEngraving } from './engraving'
import { createFilePlayers } from './filePlayers'
import { createHearing } from './hearing'
import { createHearingAlone } from './hearingAlone'
import { createHolding } from './holding'
import { createTurns } from './inTurn'
import { keptWith } from './keptWith'
import { leaving, storesBy } from './leaving'
import { createLiveNotes } from './liveNotes'
import { createLivePage } from './livePage'
import { createLiveState } from './liveState'
import { createNotices } from './notices'
import { createParcel } from './parcel'
import { createPerforming } from './performing'
import { createPrinting } from './printing'
import { holdProject } from './projectLock'
import { createProjectStore } from './projectStore'
import { followCables } from './rig'
import { createSound } from './sound'
import { createSoundFiles } from './soundFiles'
import { createSoundInputs } from './soundInputs'
import { createSoundKeeping } from './soundKeeping'
import { createSources } from './sources'
import { createTakeKeeper } from './takeKeeper'
import { createTakingApart } from './takingApart'
import { createTransfers } from './transfers'
import { createTransportControl } from './transportControl'
import { unstoredWords } from './unstored'

export type Session = Awaited<ReturnType<typeof openSession>>

/**
 * Everything that runs for an open project: the store with undo and autosave, the engine and its threads, the ports.
 * One project is open at a time; `close` ends all of it.
 */
export async function openSession(loaded: LoadedProject) {
  const initial = loaded.project
  const live = createLiveState()
  const { notify, problem, saying, dismissNotice } = createNotices(live)
  const store = createProjectStore(initial, problem)
  const holding = createHolding(initial.id)
  const turns = createTurns(saying('That could not be done on the page'))
  const autosave = startAutosave({
    store,
    stored: loaded.isStored ? loaded : null,
    holding,
    onSaved: (project) =>
      void takeKeeper
        .file(project.takes.map((take) => take.serial))
        .catch(saying('A take could not be filed')),
    onWrittenAgain: problem,
  })

  const engine = createEngineLink({
    live,
    transport(transport) {
      performing.onTransport(transport)
      if (transport.state !== 'recording') livePage.clear()
      hearing.onTransport(transport)
      transfers.onTransport(transport)
    },
    activity: (events) => hub.pass(events),
    cableShared: (name) => transfers.onShared(name),
    settle: () => sources.handedOver(),
    takeFinished(recording) {
      liveNotes.clear()
      livePage.clear()
      takeKeeper.keep(recording)
    },
    send: (messages) => sources.send(messages),
    notify,
  })
  const engraving = startEngraving(store)
  const connecting = createConnecting({ store, live, tellEngine: engine.tell, problem })
  const computing = createComputing()
  computing.prepareSoon()
  const printing = createPrinting()

  const liveNotes = createLiveNotes()
  const livePage = createLivePage({
    project: () => store.getState().project,
    transport: () => live.getState().transport,
    positionTicks: () => positionTicks(),
    notes: liveNotes.list,
    engraveLive: engraving.live,
    problem: saying('What is being played could not be written'),
  })
  const hub = createActivityHub(() => [connecting.assignToWhoeverPlays, sources.onActivity, liveNotes.take])
  const sound = createSound({
    engine: engine.tell,
    state: (audio) => live.setState({ audio }),
    problem,
  })
  const backing = createBacking({
    store,
    context: sound.context,
    audioSecondsAt: sound.audioSecondsAt,
    problem,
  })
  const enginePicture = createEnginePicture(engine.tell, sound.synthChannelOf)
  const hearingPage = createHearing({
    store,
    onPage: (listener) =>
      engraving.state.subscribe((next, before) => {
        if (next.outline !== before.outline) listener()
      }),
    sounds: engraving.sounds,
    tell: (project) => {
      enginePicture.tell(hearingPage.told(project))
      sound.setProject(hearingPage.heard(project))
    },
    problem: saying('The page could not be heard as it is written'),
  })
  const transfers = createTransfers({
    store,
    hearing: hearingPage,
    sources: { divert: (...args) => sources.divert(...args) },
    play: (...args) => control.play(...args),
    stop: () => performing.commands.stop(),
    reportsOf,
    plain: engraving.plain,
  })
  const soundFiles = createSoundFiles(hearingPage)
  const kept = keptWith(initial.id, store, (takeSerial) => takeKeeper.eventsOf(takeSerial))
  /** A piece as one file: its tracks, all takes as they were played, the files kept with it, and the sound of takes where that is wished. */
  const projectFile = async (project: Project, withSound = false): Promise<Uint8Array> => {
    const takes = await Promise.all(
      project.takes.map(async ({ serial }) => ({
        takeSerial: serial,
        events: await kept.takeEvents(serial),
      })),
    )
    const assets = await kept.assets()
    const sounds = withSound ? await soundKeeping.ofTakes() : []
    return computing.run((compute) => compute.exportProject({ project, takes, assets, sounds }))
  }
  const parcel = createParcel({ computing, printing, soundFiles, projectFile })
  function showProject(project: Project): void {
    enginePicture.tell(hearingPage.told(project))
    sound.setProject(hearingPage.heard(project))
    void backing.load(project)
  }
  showProject(initial)
  const unsubscribe = store.subscribe((state, previous) => {
    if (state.project !== previous.project) showProject(state.project)
  })

  const cables = followCables()
  const files = createFilePlayers(store)
  files.load().catch(saying('A file that plays could not be read'))
  const sources = createSources({
    store,
    files,
    isSeatingEveryone: () => live.getState().isSeatingEveryone,
    takeWaitingTrack() {
      const { assigningTrackId } = live.getState()
      if (assigningTrackId !== null) live.setState({ assigningTrackId: null })
      return assigningTrackId
    },
    toEngine: engine.tell,
    beforeSound: () => void sound.start(),
    midi: (midi) => live.setState({ midi }),
    keyboard: (keyboard) => live.setState({ keyboard }),
    problem,
    soundHeard: () => soundInputs.settled(),
  })
  const soundKeeping = createSoundKeeping(initial.id, () => store.getState().project, computing, problem)
  const soundInputs = createSoundInputs({
    store,
    live,
    join: sources.join,
    keeper: soundKeeping.port,
    problem,
  })

  const control = createTransportControl({
    store,
    transport: () => live.getState().transport,
    stand: (ticks) => live.setState({ transport: { state: 'stopped', ticks } }),
    tellEngine: engine.tell,
    startAudio: sound.start,
    flush: autosave.flush,
    onRecord: (takeSerial) => chainLog.begin(takeSerial),
  })
  const hearing = createHearingAlone({
    live,
    control,
    tell(alone) {
      enginePicture.hearAlone(alone)
      enginePicture.tell(hearingPage.told(store.getState().project))
    },
  })
  const positionTicks = (): Ticks => control.place().ticks
  const chainLog = createChainLog(store, positionTicks)
  const takeKeeper = createTakeKeeper({
    projectId: initial.id,
    store,
    live,
    afterwards: chainLog.finish,
    isHolding: holding.isOurs,
    notify,
  })
  takeKeeper.lookForInterrupted().catch(saying('Interrupted takes could not be looked for'))

  const lock = holdProject(initial.id, {
    held: () => {
      holding.begin()
      store.getState().setReadOnly(false)
      if (!loaded.isStored) void autosave.flush()
    },
    refused: () => store.getState().setReadOnly(true),
    lost: () =>
      void finishAndStore().then(() => {
        store.getState().setReadOnly(true)
        takeKeeper.leaveTakes()
      }),
  })

  const performing = createPerforming({
    store,
    live,
    engine,
    sources,
    soundInputs,
    control,
    backing,
    liveNotes,
    startAudio: sound.start,
  })
  async function finishAndStore(): Promise<void> {
    await performing.endRecording()
    await autosave.flush()
  }
  const stopStoring = storesBy({
    store: finishAndStore,
    isRecording: () => live.getState().transport.state === 'recording',
  })

  // A page that goes lets go of its notes first: here, and in whatever they are sent to.
  const onHide = () => {
    if (live.getState().transport.state === 'playing') engine.tell({ type: 'stop' })
    sources.letGo()
  }
  window.addEventListener('pagehide', onHide)

  /** What was saved to a file last. */
  let inFile: Project | null = null

  /** The piece as a file with all that belongs to it, for a moment in which storage refuses it: what is being recorded ends first. */
  async function rescueFile(): Promise<{ readonly name: string; readonly bytes: Uint8Array }> {
    await performing.endRecording()
    const { project } = store.getState()
    // Better without its sound than not at all.
    const bytes = await projectFile(project, true).catch((error) => {
      saying('The file has everything but the sound of the takes')(error)
      return projectFile(project)
    })
    inFile = project
    return { name: project.name, bytes }
  }

  async function close(): Promise<void> {
    window.removeEventListener('pagehide', onHide)
    stopStoring()
    transfers.end()
    // A take that is being recorded is finished first, and saved with the project.
    await performing.endRecording()
    unsubscribe()
    engraving.stop()
    hearingPage.stop()
    chainLog.close()
    await soundInputs.close()
    soundKeeping.close()
    sources.close()
    backing.close()
    cables.close()
    await autosave.stop()
    takeKeeper.close()
    lock.release()
    computing.stop()
    printing.stop()
    soundFiles.stop()
    engine.end()
    await sound.close()
  }

  return {
    store,
    live,
    saveStatus: autosave.status,
    flushSave: autosave.flush,
    ...turns,
    undo: () => turns.atOnce(store.getState().undo),
    redo: () => turns.atOnce(store.getState().redo),
    rescueFile,
    /** What is asked about before the piece is left, in words. */
    unstored: () =>
      unstoredWords({
        save: autosave.status.getState(),
        isJournalBehind: live.getState().journalBehind !== null,
        isSoundUnstored: soundKeeping.isUnstored(),
        isRecording: live.getState().transport.state === 'recording',
        isInFile: inFile === store.getState().project,
      }),
    writeOver: autosave.writeOver,
    holdEdit: autosave.holdEdit,
    engraving,
    computing,
    printing,
    soundFiles,
    parcel,
    projectFile,
    takeOver: lock.takeOver,
    startAudio: sound.start,
    ...control,
    ...performing.commands,
    hearAlone: hearing.hearAlone,
    takeApart: createTakingApart(store, computing),
    /** Finds the bars of the piece as it is, in the thread that computes; nothing of it changes. */
    findBars: () => {
      const notes = timedNotesOf(store.getState().project)
      return computing.run((api) => api.findBars(notes))
    },
    positionTicks,
    /** Which turn of a loop is heard, while each has a throw of its own. */
    turn: () => (store.getState().project.recording.isThrownEachTurn ? control.place().pass : 0),
    ...connecting,
    cables,
    files,
    soundInputs,
    soundKeeping,
    backing,
    recoverTake: takeKeeper.recover,
    dismissTake: takeKeeper.dismiss,
    notify,
    dismissNotice,
    input: sources.input,
    liveNotes: liveNotes.list,
    livePage,
    hearingPage,
    transfers,
    onActivity: hub.onActivity,
    onSynthReport: sound.onReport,
    measureSynth: sound.measure,
    measureEngine: engine.measure,
    ...kept,
    close() {
      const closed = close()
      leaving(initial.id, closed)
      return closed
    },
  }
}
