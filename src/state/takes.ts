import { splitPasses } from '@/core/capture/passes'
import { sumAccounts, type TakeAccount } from '@/core/capture/takeAccount'
import type { TakeEvents } from '@/core/capture/takeEvents'
import type { PlayedTo, TakeInfo } from '@/core/capture/takeInfo'
import type { ClockPoint } from '@/core/capture/takePlacement'
import { takeToNotes } from '@/core/capture/takeToNotes'
import { atItsSpeed } from '@/core/project/atItsSpeed'
import { addTakes, keepBeside, type RecordedTake, restoreAsPlayed } from '@/core/project/commands'
import type { Project } from '@/core/project/schema'
import { layTake } from '@/core/project/takeWays'
import { MeterMap } from '@/core/time/meterMap'
import { TempoMap } from '@/core/time/tempoMap'
import type { Milliseconds } from '@/core/time/units'
import { engineSetupOf } from '@/engine/enginePicture'
import { type JournaledTake, journal } from '@/engine/journal/journal'
import { playedTo } from '@/engine/transport/playedTo'
import type { Afterwards } from './chainLog'
import type { ProjectStore } from './projectStore'

/** A recording as the engine or the journal hands it over. */
export interface FinishedRecording extends JournaledTake {
  readonly endMs: Milliseconds
  readonly playedTo: PlayedTo
  readonly events: TakeEvents
  readonly clockPoints: readonly ClockPoint[]
}

/** What became of a recording. */
export type FinishedTake =
  | { readonly outcome: 'empty' }
  /** The project cannot be changed, or could not be stored with it. */
  | { readonly outcome: 'refused' }
  | {
      readonly outcome: 'kept'
      readonly account: TakeAccount
      readonly name: string
      /** Of the take, or of each pass of its loop. */
      readonly serials: readonly number[]
      /** Ends when each pass of a loop is a take of its own in the journal. */
      readonly stored: Promise<void>
      /** What was played, by the number of its take. */
      readonly events: ReadonlyMap<number, TakeEvents>
    }

/** Takes up a number at once, so that a take is never confused with another, also after a crash. */
export function reserveTakeSerial(store: ProjectStore): number {
  const takeSerial = store.getState().project.nextSerial
  store.setState((state) => ({ project: { ...state.project, nextSerial: takeSerial + 1 } }))
  return takeSerial
}

/**
 * Makes a recording a take of the project, or one for each pass of its loop, with the notes on every armed track. One step
 * of history.
 */
export function finishRecording(
  store: ProjectStore,
  recording: FinishedRecording,
  afterwards: Afterwards,
  /** Another tab may have taken the project meanwhile: then the recording is left to it, as it is. */
  isHolding: () => Promise<boolean>,
): FinishedTake {
  if (recording.events.count === 0) return { outcome: 'empty' }
  const { project } = store.getState()
  const { passMs, earlyMs, anchorMs, endMs } = recording
  const passes = passMs
    ? splitPasses(recording.events, { anchorMs, passMs, earlyMs }, endMs)
    : [{ index: 0, anchorMs, endMs, events: recording.events }]
  const isLoop = passMs !== null && passes.length > 1
  const number = new Set(project.takes.map((take) => take.loop?.firstSerial ?? take.serial)).size + 1
  const name = `Take ${number}`
  let nextSerial = Math.max(project.nextSerial, recording.takeSerial + 1)
  const serials = passes.map((_, index) => (index === 0 ? recording.takeSerial : nextSerial++))
  const takes: RecordedTake[] = []
  const accounts: TakeAccount[] = []
  /** What was played before the effects, to be kept beside their result. */
  const asPlayed: RecordedTake[] = []
  const { keeps } = project.recording
  for (const [index, pass] of passes.entries()) {
    const take: TakeInfo = {
      ...recording.playedTo,
      startTicks: recording.startTicks,
      earlyMs: recording.earlyMs,
      clockPoints: [...recording.clockPoints],
      serial: serials[index]!,
      name: isLoop ? `${name}, pass ${pass.index + 1}` : name,
      recordedAtMs: pass.anchorMs,
      anchorMs: pass.anchorMs,
      durationMs: passMs ?? lengthMs(recording),
      eventCount: pass.events.count,
      loop: isLoop ? { firstSerial: recording.takeSerial, pass: pass.index + 1 } : null,
    }
    const placement = {
      ...placementOf(take, project.meters),
      endMs: pass.endMs,
      endTicks: recording.endTicks,
    }
    const listeners = take.listeners.map(({ trackId, routes }) => ({ id: trackId, routes }))
    const withEffects = keeps !== 'played'
    const notes = takeToNotes(
      pass.events,
      withEffects ? placement : { ...placement, chains: [] },
      listeners,
      nextSerial,
    )
    nextSerial = notes.nextNoteId
    takes.push({ take, tracks: notes.tracks })
    accounts.push(notes.account)
    if (keeps !== 'both' || take.chains.length === 0) continue
    const played = takeToNotes(pass.events, { ...placement, chains: [] }, listeners, nextSerial)
    nextSerial = played.nextNoteId
    asPlayed.push({ take, tracks: played.tracks })
  }
  const { takeMode } = project.recording
  const recorded = (next: Project) =>
    takes.reduce((each, { take }) => layTake(each, take.serial, takeMode), next)
  const isKept = store
    .getState()
    .apply(`record ${isLoop ? `${passes.length} passes` : name}`, (before) =>
      keepBeside(
        afterwards(recorded(addTakes(before, takes, nextSerial, takeMode === 'fresh' ? 'fresh' : 'layered'))),
        asPlayed,
      ),
    )
  if (!isKept) return { outcome: 'refused' }
  const storePasses = async () => {
    if (!(await isHolding())) return
    await journal.putPasses(
      passes.map((pass, index) => ({
        take: {
          ...journaled(recording),
          takeSerial: serials[index]!,
          anchorMs: pass.anchorMs,
          endMs: pass.endMs,
          passMs: null,
        },
        events: pass.events,
      })),
    )
  }
  const stored = isLoop ? storePasses() : Promise.resolve()
  const events = new Map(passes.map((pass, index) => [serials[index]!, pass.events]))
  return { outcome: 'kept', account: sumAccounts(accounts), name, serials, stored, events }
}

/** What would be played to now: for recordings of an older version of the program, which did not say. */
function asItIs(project: Project): PlayedTo {
  const setup = engineSetupOf(atItsSpeed(project), () => 0)
  return playedTo(setup, setup.tempos)
}

function lengthMs({
  startTicks,
  endTicks,
  anchorMs,
  endMs,
  playedTo: { tempos },
}: FinishedRecording): Milliseconds {
  if (endTicks === null) return Math.max(0, endMs - anchorMs)
  const tempoMap = new TempoMap(tempos)
  return tempoMap.msAt(endTicks) - tempoMap.msAt(startTicks)
}

function placementOf(take: TakeInfo, meters: Project['meters']) {
  const { serial, startTicks, anchorMs, durationMs, earlyMs, compensations, clockPoints, chains } = take
  return {
    takeSerial: serial,
    startTicks,
    anchorMs,
    endMs: anchorMs + durationMs,
    tempoMap: new TempoMap(take.tempos),
    earlyMs,
    compensations,
    clockPoints,
    chains,
    meterMap: new MeterMap(meters),
  }
}

function journaled(recording: FinishedRecording): JournaledTake {
  const { projectId, takeSerial, startTicks, endTicks, anchorMs, endMs, earlyMs, passMs, playedTo } =
    recording
  return { projectId, takeSerial, startTicks, endTicks, anchorMs, endMs, earlyMs, passMs, playedTo }
}

/**
 * Recordings that a crash or a closed page cut off before the stored project had them: their numbers.
 *
 * @param isEnded only those that have ended: one that has not may be going on here
 */
export async function interruptedRecordings(project: Project, isEnded = false): Promise<number[]> {
  const known = new Set(project.takes.map((take) => take.serial))
  const unfiled = (await journal.takesOf(project.id)).filter(
    (take) => !take.isFiled && (take.endMs !== null || !isEnded),
  )
  const interrupted: number[] = []
  const settled: number[] = []
  for (const { takeSerial } of unfiled) {
    const isEmpty = !known.has(takeSerial) && (await journal.eventsOf(project.id, takeSerial)).count === 0
    if (known.has(takeSerial) || isEmpty) settled.push(takeSerial)
    else interrupted.push(takeSerial)
  }
  await journal.file(project.id, settled)
  return interrupted
}

/** An interrupted recording up to its last event, finished in the journal. */
export async function recoverRecording(
  project: Project,
  takeSerial: number,
): Promise<FinishedRecording | null> {
  const projectId = project.id
  const take = (await journal.takesOf(projectId)).find((candidate) => candidate.takeSerial === takeSerial)
  if (!take) return null
  const [events, clockPoints] = await Promise.all([
    journal.eventsOf(projectId, takeSerial),
    journal.clockPointsOf(projectId, takeSerial),
  ])
  const lastMs = events.timesMs.reduce((last, timeMs) => Math.max(last, timeMs), take.anchorMs)
  const endMs = take.endMs ?? lastMs
  await journal.finish({ ...take, endMs })
  return { ...take, endMs, playedTo: take.playedTo ?? asItIs(project), events, clockPoints }
}

export async function dismissRecording(projectId: string, takeSerial: number): Promise<void> {
  await journal.file(projectId, [takeSerial])
}

/**
 * Brings a take back on its tracks exactly as it was played, or as the effects of its sources made it; what was made of it is
 * kept beside it, asleep.
 */
export async function restoreTake(
  store: ProjectStore,
  eventsOf: (takeSerial: number) => Promise<TakeEvents>,
  takeSerial: number,
  which: 'played' | 'result' = 'played',
): Promise<void> {
  const { project } = store.getState()
  const take = project.takes.find((candidate) => candidate.serial === takeSerial)
  if (!take) return
  const events = await eventsOf(takeSerial)
  // Storage that was cleared behind the page gives back nothing: better no step at all than a take without notes.
  if (events.count < take.eventCount)
    throw new Error(
      `${take.name} cannot be brought back: of its ${take.eventCount} events ${events.count} are in this browser's storage.`,
    )
  const listeners = take.listeners.map(({ trackId, routes }) => ({ id: trackId, routes }))
  const words = which === 'played' ? 'as played' : 'with its effects'
  store.getState().apply(`restore ${take.name} ${words}`, (before) => {
    const placement = placementOf(take, before.meters)
    const wanted = which === 'played' ? { ...placement, chains: [] } : placement
    const notes = takeToNotes(events, wanted, listeners, before.nextSerial)
    return restoreAsPlayed(before, takeSerial, notes.tracks, notes.nextNoteId, words)
  })
}
