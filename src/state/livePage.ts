import { createStore } from 'zustand/vanilla'
import type { Note } from '@/core/event/note'
import { packNotes } from '@/core/event/noteColumns'
import { atItsSpeed } from '@/core/project/atItsSpeed'
import { headOf } from '@/core/project/content'
import { contextOf } from '@/core/project/context'
import type { Project } from '@/core/project/schema'
import type { Ticks } from '@/core/time/units'
import type { LiveLine, LivePart } from '@/engine/engraver/liveLines'
import { firstLiveNoteId } from '@/engine/engraver/liveNoteIds'
import type { TransportState } from '@/engine/protocol'
import type { LiveNote } from './liveNotes'

/** Bars to a line of what is being played. */
const barsToLine = 4
/** So often it is looked whether there is something new. */
const lookMs = 90
/** So long before the end of a bar it is not written again. */
const undisturbedMs = 260
/** A note is on the page this much after it began at least: it has a length then. */
const leastTicks: Ticks = 420

/** A line as it was written at a moment of the recording. */
export interface LiveLineAt extends LiveLine {
  readonly atTicks: Ticks
}

/** What is being recorded, as lines of music; empty when nothing is. */
export interface LivePageState {
  readonly lines: readonly LiveLineAt[]
}

/**
 * Writes what is being recorded while it is played: the line of the last bars anew whenever notes have come, each line a last time once
 * the bar behind it is known. What it costs does not grow with the take.
 */
export function createLivePage(options: {
  readonly project: () => Project
  readonly transport: () => TransportState
  readonly positionTicks: () => Ticks
  readonly notes: () => readonly LiveNote[]
  readonly engraveLive: (
    head: ReturnType<typeof headOf>,
    parts: readonly LivePart[],
    bars: { readonly from: number; readonly to: number },
  ) => Promise<LiveLine | null>
  readonly problem: (error: unknown) => void
}) {
  const state = createStore<LivePageState>(() => ({ lines: [] }))
  let timer: ReturnType<typeof setInterval> | undefined
  let isWorking = false
  let firstBar: number | null = null
  let written = ''
  let writtenBar = -1
  /** Counts recordings: what comes back of an earlier one is not shown. */
  let recording = 0

  /** Writes the line that begins with a bar, as far as it has been played. */
  async function write(from: number): Promise<void> {
    const own = recording
    const project = options.project()
    const { meterMap } = contextOf(project)
    const to = from + barsToLine
    const atTicks = options.positionTicks()
    // A bar before and one behind tell how a line begins and ends.
    const startTicks = meterMap.measure(Math.max(0, from - 1)).startTicks
    const endTicks = meterMap.measure(to + 1).startTicks
    const engraved = await options.engraveLive(
      headOf(project),
      partsOf(project, options.notes(), startTicks, endTicks, atTicks),
      { from, to },
    )
    if (!engraved || own !== recording) return
    state.setState(({ lines }) => ({
      lines: [...lines.filter((each) => each.from !== from), { ...engraved, atTicks }].sort(
        (a, b) => a.from - b.from,
      ),
    }))
  }

  /** Whether a line is there as it was at a place, or later. */
  const isWrittenAt = (from: number, ticks: Ticks) =>
    state.getState().lines.some((line) => line.from === from && line.atTicks >= ticks)

  async function look(): Promise<void> {
    if (isWorking || options.transport().state !== 'recording') return
    const notes = options.notes()
    const [first] = notes
    if (!first) return
    const own = recording
    const { meterMap, tempoMap } = contextOf(atItsSpeed(options.project()))
    const beginning = firstBar ?? meterMap.measureAt(Math.max(0, first.onsetTicks + leastTicks)).index
    firstBar = beginning
    const position = Math.max(0, options.positionTicks())
    const { index: bar, startTicks, lengthTicks } = meterMap.measureAt(position)
    const open = notes.reduce((count, { endTicks }) => count + (endTicks === null ? 1 : 0), 0)
    const now = `${bar} ${notes.length} ${open}`
    if (now === written || bar < beginning) return
    // The bar is about to end: then it is written as a whole, and nothing may be in the way.
    const barEndsInMs = tempoMap.msAt(startTicks + lengthTicks) - tempoMap.msAt(position)
    if (bar === writtenBar && barEndsInMs < undisturbedMs) return
    isWorking = true
    try {
      const from = bar - ((bar - beginning) % barsToLine)
      const before = from - barsToLine
      const isBehind = before >= beginning
      // The line before is written when its last bar has been played, and a last time when the bar behind it has.
      if (isBehind && !isWrittenAt(before, meterMap.measure(from).startTicks)) await write(before)
      if (own === recording) await write(from)
      const settledTicks = meterMap.measure(from + 1).startTicks
      if (own === recording && isBehind && position >= settledTicks && !isWrittenAt(before, settledTicks))
        await write(before)
    } catch (error) {
      options.problem(error)
    } finally {
      isWorking = false
      // What could not be written is tried again when more was played, not over and over.
      if (own === recording) [written, writtenBar] = [now, bar]
    }
  }

  return {
    state,
    /** Somebody looks at the page. */
    watch(): void {
      timer ??= setInterval(() => void look(), lookMs)
    },
    unwatch(): void {
      clearInterval(timer)
      timer = undefined
    },
    /** The recording has ended, or another one begins. */
    clear(): void {
      firstBar = null
      written = ''
      writtenBar = -1
      recording++
      state.setState({ lines: [] })
    },
  }
}

/** The notes of each track in a stretch; what is still held lasts until now. */
function partsOf(
  { tracks, recording }: Project,
  notes: readonly LiveNote[],
  startTicks: Ticks,
  endTicks: Ticks,
  now: Ticks,
): LivePart[] {
  const byTrack = new Map<string, LiveNote[]>()
  for (const note of notes) {
    if (byTrack.has(note.trackId)) byTrack.get(note.trackId)!.push(note)
    else byTrack.set(note.trackId, [note])
  }
  const lastPass = notes.reduce((pass, note) => Math.max(pass, note.pass), 0)
  return tracks.flatMap((track): LivePart[] => {
    const all = byTrack.get(track.id)
    if (!all || !track.isOnPage) return []
    const own = all.filter(
      ({ onsetTicks, endTicks: end, pass }) =>
        pass === lastPass && onsetTicks < endTicks && (end === null || end > startTicks),
    )
    return [
      {
        trackId: track.id,
        way: recording.takeMode,
        lowestKey: Math.min(...all.map(({ key }) => key)),
        highestKey: Math.max(...all.map(({ key }) => key)),
        notes: packNotes(
          own
            .map(
              ({ key, velocity, onsetTicks, endTicks: end }, index): Note => ({
                id: firstLiveNoteId + index,
                onsetTicks: Math.max(0, onsetTicks),
                durationTicks: Math.max(leastTicks, (end ?? now) - onsetTicks),
                key,
                velocity,
                releaseVelocity: 64,
                channel: track.channel,
                origin: { kind: 'drawn' },
              }),
            )
            .sort((a, b) => a.onsetTicks - b.onsetTicks || a.key - b.key),
        ),
      },
    ]
  })
}
