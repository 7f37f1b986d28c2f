import { releaseProxy, transfer } from 'comlink'
import { createStore } from 'zustand/vanilla'
import type { ControllerEvent, Note } from '@/core/event/note'
import { columnBuffers, packNotes, unpackNotes } from '@/core/event/noteColumns'
import type { ChosenOnPage, Stroke } from '@/core/notation/amendments/stroke'
import type { Manuscript } from '@/core/notation/manuscript/manuscript'
import type { WalkDirection } from '@/core/notation/noteWalk'
import { headOf } from '@/core/project/content'
import { soundingControllers, soundingNotes } from '@/core/project/create'
import { controlsOf, manuscriptOfTrack } from '@/core/project/onPage'
import type { Project } from '@/core/project/schema'
import type { ChangedTrack, ScoreOutline } from '@/engine/engraver/engraver'
import type { EngraverApi } from '@/engine/engraver/engraver.worker'
import type { PageLook } from '@/engine/engraver/pageLook'
import { takeEngraver } from './engraverThread'
import { isPreparedAhead } from './preparedAhead'
import type { ProjectStore } from './projectStore'

export interface EngravingState {
  readonly outline: ScoreOutline | null
  /** Why the page could not be written; null when it could. */
  readonly problem: string | null
}

/** Of a piece with more notes than this, the first bars are shown while the rest is read. */
const longPieceNotes = 2500
const beginningBars = 12

/** While nobody looks at the page, it is brought up to date when editing pauses. */
const pauseMs = 700
/** A piece larger than this is read only when its page is looked at, so that it costs memory only then. */
const mostUnwatchedNotes = 30_000

/**
 * Keeps the engraver's score in step with the project, so that the page is ready before it is opened: changed tracks
 * are handed over, and the outline of the new score comes back. While one update runs, only the latest project waits.
 */
export function startEngraving(store: ProjectStore) {
  const { worker, engraver } = takeEngraver()
  const state = createStore<EngravingState>(() => ({ outline: null, problem: null }))
  const handedOver = new Map<
    string,
    {
      readonly notes: readonly Note[]
      readonly controllers: readonly ControllerEvent[]
      readonly manuscript: Manuscript | null
    }
  >()
  let look: PageLook = { widthPx: 740, zoomPercent: 100, form: 'lines' }
  let isWatched = false
  let isRunning = false
  let isWanted = false
  let timer: ReturnType<typeof setTimeout> | undefined

  const handOver = (project: Project): Promise<ScoreOutline> => {
    const changed: ChangedTrack[] = []
    for (const track of project.tracks) {
      const known = handedOver.get(track.id)
      const [notes, controllers] = [soundingNotes(track), soundingControllers(track)]
      const manuscript = manuscriptOfTrack(track)
      const isKnown =
        known?.notes === notes && known.controllers === controllers && known.manuscript === manuscript
      if (isKnown) continue
      handedOver.set(track.id, { notes, controllers, manuscript })
      changed.push({
        trackId: track.id,
        notes: packNotes(notes),
        controls: controlsOf(track),
        manuscript,
      })
    }
    const buffers = changed.flatMap((change) => columnBuffers(change.notes))
    return engraver.update(headOf(project), transfer(changed, buffers), look)
  }
  const sayProblem = (error: unknown) =>
    state.setState({ problem: error instanceof Error ? error.message : String(error) })
  /** The piece that the page shows. */
  let shown: Project | null = null
  let running: Promise<void> = Promise.resolve()
  const run = () => {
    clearTimeout(timer)
    timer = undefined
    isWanted = true
    if (!isRunning) running = update()
    return running
  }
  const update = async () => {
    isRunning = true
    try {
      while (isWanted) {
        isWanted = false
        const { project } = store.getState()
        const whole = handOver(project)
        if (isWatched) void showBeginning().catch(sayProblem)
        state.setState({ outline: await whole, problem: null })
        shown = project
      }
    } catch (error) {
      // What was on its way may not have arrived: everything is handed over again next time.
      handedOver.clear()
      sayProblem(error)
    } finally {
      isRunning = false
    }
  }
  /** Shows the first bars of a long piece, once, while the whole of it is read. */
  let wasBeginningAsked = false
  const showBeginning = async () => {
    const { project } = store.getState()
    if (wasBeginningAsked || state.getState().outline || noteCount(project) <= longPieceNotes) return
    wasBeginningAsked = true
    const outline = await engraver.beginning(headOf(project), look, beginningBars)
    if (!state.getState().outline) state.setState({ outline, problem: null })
  }
  /** The page is written as the piece is now. */
  const upToDate = async () => {
    if (shown !== store.getState().project) await run()
    await running
  }
  const soon = () => {
    if (isWatched) void run()
    else if (isPreparedAhead() && noteCount(store.getState().project) <= mostUnwatchedNotes) {
      clearTimeout(timer)
      timer = setTimeout(run, pauseMs)
    }
  }
  const unsubscribe = store.subscribe((next, previous) => {
    if (next.project !== previous.project) soon()
  })
  worker.onerror = (event) => {
    event.preventDefault()
    state.setState({
      problem: event.message || 'the part of the program that engraves could not be loaded',
    })
  }
  soon()
  let wasRun = false
  return {
    state,
    /** Somebody looks at the page, like this: changes are written at once. */
    watch(wanted: PageLook) {
      isWatched = true
      const isOther =
        wanted.widthPx !== look.widthPx ||
        wanted.zoomPercent !== look.zoomPercent ||
        wanted.form !== look.form
      if (isOther || timer !== undefined || !wasRun) {
        wasRun = true
        look = wanted
        // What is being read already was not asked for by anybody who looks.
        if (isRunning) void showBeginning().catch(sayProblem)
        void run()
      }
    },
    unwatch() {
      isWatched = false
    },
    /** The notes of the page as it is written, by track, once it shows the piece as it is now. */
    async sounds(): Promise<ReadonlyMap<string, readonly Note[]>> {
      await upToDate()
      return byTrack(await engraver.sounds())
    },
    /** What the page has as plainly as it can be sent, by track. */
    async plain(): Promise<ReadonlyMap<string, readonly Note[]>> {
      await upToDate()
      return byTrack(await engraver.plain())
    },
    /** Bars that are being played, as wide as the page. */
    live: (
      head: Parameters<EngraverApi['live']>[0],
      parts: Parameters<EngraverApi['live']>[1],
      bars: Parameters<EngraverApi['live']>[2],
    ) => engraver.live(head, parts, bars, look),
    /** One line of the page. */
    engrave: (systemIndex: number) => engraver.engrave(systemIndex),
    /** How what is chosen is written; null when it is not on the page. */
    locate: (chosen: ChosenOnPage) => engraver.locate(chosen),
    /** The same, once the page shows the piece as it is now. */
    async locateNow(chosen: ChosenOnPage) {
      await upToDate()
      return engraver.locate(chosen)
    },
    /** What one comes to by the arrow keys, once the page shows the piece as it is now. */
    async walk(from: ChosenOnPage | null, direction: WalkDirection) {
      await upToDate()
      return engraver.walk(from, direction)
    },
    /** What a stroke of the pen changes of the page, once that shows the piece as it is now. */
    async draw(chosen: ChosenOnPage, stroke: Stroke) {
      await upToDate()
      return engraver.draw(store.getState().project.amendments, chosen, stroke)
    },
    notesBetween: (...args: Parameters<EngraverApi['notesBetween']>) => engraver.notesBetween(...args),
    notesIn: (...args: Parameters<EngraverApi['notesIn']>) => engraver.notesIn(...args),
    /** The bars of some notes as a drawing of their own, once the page shows the piece as it is now. */
    async picture(...args: Parameters<EngraverApi['picture']>) {
      await upToDate()
      return engraver.picture(...args)
    },
    /** Symbols of the chords that sound, once the page shows the piece as it is now. */
    async chords() {
      await upToDate()
      return engraver.chords()
    },
    stop() {
      clearTimeout(timer)
      unsubscribe()
      engraver[releaseProxy]()
      worker.terminate()
    },
  }
}

function byTrack(parts: Awaited<ReturnType<EngraverApi['sounds']>>): ReadonlyMap<string, readonly Note[]> {
  return new Map(parts.map(({ trackId, notes }) => [trackId, unpackNotes(notes)]))
}

function noteCount(project: Project): number {
  return project.tracks.reduce((sum, track) => sum + soundingNotes(track).length, 0)
}
