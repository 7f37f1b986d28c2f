import type { Project } from '@/core/project/schema'
import type { Milliseconds, Ticks } from '@/core/time/units'
import { journal } from '@/engine/journal/journal'
import type { Activity } from '@/engine/protocol'
import { assetsOf } from './assets'
import { startAutosave } from './autosave'
import { createBacking } from './backing'
import { createChainLog } from './chainLog'
import { createComputing } from './computing'
import { createConnecting } from './connecting'
import { asideOf, type LoadedProject } from './database'
import { createEngineLink } from './engineLink'
import { createEnginePicture } from './enginePicture'
import { startEngraving } from './engraving'
import { createFilePlayers } from './filePlayers'
import { leaving, storesBy } from './leaving'
import { createLiveNotes } from './liveNotes'
import { createLiveState } from './liveState'
import { createPerforming } from './performing'
import { holdProject } from './projectLock'
import { createProjectStore } from './projectStore'
import { followCables } from './rig'
import { createSound } from './sound'
import { createSources } from './sources'
import { createTakeKeeper } from './takeKeeper'
import { restoreTake } from './takes'
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
  const autosave = startAutosave({
    store,
    stored: loaded,
    onSaved: (project) =>
      void takeKeeper.file(project.takes.map((take) => take.serial)).catch((error) => problem(String(error))),
    onWrittenAgain: () =>
      problem(
        'This browser’s data were cleared while the piece was open. Everything you see has been stored again, but takes as they were played and files kept with the piece may be gone. Save the project to a file under Deliver.',
      ),
  })

  const engine = createEngineLink({
    live,
    transport: (transport) => performing.onTransport(transport),
    activity: onActivity,
    settle: () => sources.handedOver(),
    takeFinished(recording) {
      liveNotes.clear()
      takeKeeper.keep(recording)
    },
    send: (messages) => sources.send(messages),
    notify,
  })
  const engraving = startEngraving(store)
  const connecting = createConnecting({ store, live, tellEngine: engine.tell, problem })
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
      void performing
        .endRecording()
        .then(autosave.flush)
        .then(() => store.getState().setReadOnly(true)),
  })

  function onActivity(events: readonly Activity[]): void {
    connecting.assignToWhoeverPlays(events)
    sources.onActivity(events)
    liveNotes.take(events)
    for (const listener of activityListeners) listener(events)
  }

  const performing = createPerforming({
    store,
    live,
    engine,
    sources,
    control,
    backing,
    liveNotes,
    startAudio,
  })
  const stopStoring = storesBy(async () => {
    await performing.endRecording()
    await autosave.flush()
  })

  async function close(): Promise<void> {
    clearTimeout(prepareTimer)
    stopStoring()
    // A take that is being recorded is finished first, and saved with the project.
    await performing.endRecording()
    unsubscribe()
    engraving.stop()
    chainLog.close()
    sources.close()
    backing.close()
    cables.close()
    await autosave.stop()
    lock.release()
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
    holdEdit: autosave.holdEdit,
    engraving,
    computing,
    takeOver: lock.takeOver,
    startAudio,
    ...control,
    ...performing.commands,
    positionTicks,
    ...connecting,
    cables,
    files,
    backing,
    restoreTake: (takeSerial: number, which: 'played' | 'result' = 'played') =>
      restoreTake(store, takeSerial, which),
    recoverTake: takeKeeper.recover,
    dismissTake: takeKeeper.dismiss,
    notify,
    dismissNotice: () => live.setState({ notice: null }),
    input: sources.input,
    liveNotes: liveNotes.list,
    onActivity(listener: (events: readonly Activity[]) => void) {
      activityListeners.add(listener)
      return () => activityListeners.delete(listener)
    },
    onSynthReport: sound.onReport,
    measureSynth: sound.measure,
    measureEngine: engine.measure,
    /** Parts that were left out when the project was read, now or earlier. */
    asideParts: () => asideOf(initial.id),
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
