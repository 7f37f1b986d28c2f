import { createStore } from 'zustand/vanilla'
import type { Note } from '@/core/event/note'
import { packNotes } from '@/core/event/noteColumns'
import { headOf } from '@/core/project/content'
import { contextOf } from '@/core/project/context'
import type { Project } from '@/core/project/schema'
import type { Ticks } from '@/core/time/units'
import type { LiveLine, LivePart } from '@/engine/engraver/liveLines'
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

  const linesOf = (bar: number) => Math.floor((bar - (firstBar ?? bar)) / barsToLine)

  async function write(line: number): Promise<void> {
    const project = options.project()
    const { meterMap } = contextOf(project)
    const from = firstBar! + line * barsToLine
    const to = from + barsToLine
    const now = options.positionTicks()
    // A bar before and one behind tell how a line begins and ends.
    const startTicks = meterMap.measure(Math.max(0, from - 1)).startTicks
    const endTicks = meterMap.measure(to + 1).startTicks
    const engraved = await options.engraveLive(
      headOf(project),
      partsOf(project, options.notes(), startTicks, endTicks, now),
      { from, to },
    )
    if (!engraved || options.transport().state !== 'recording') return
    state.setState(({ lines }) => ({
      lines: [...lines.filter((each) => each.from !== from), { ...engraved, atTicks: now }].sort(
        (a, b) => a.from - b.from,
      ),
    }))
  }

  async function look(): Promise<void> {
    if (isWorking || options.transport().state !== 'recording') return
    const notes = options.notes()
    const last = notes.at(-1)
    if (!last) return
    const { meterMap, tempoMap } = contextOf(options.project())
    firstBar ??= meterMap.measureAt(Math.max(0, notes[0]!.onsetTicks + leastTicks)).index
    const position = Math.max(0, options.positionTicks())
    const measure = meterMap.measureAt(position)
    const bar = measure.index
    const open = notes.reduce((count, { endTicks }) => count + (endTicks === null ? 1 : 0), 0)
    const now = `${bar} ${notes.length} ${open}`
    if (now === written || bar < firstBar) return
    const isBarNew = bar !== Number(written.split(' ')[0])
    // The bar is about to end: then it is written as a whole, and nothing may be in the way.
    const barEndsInMs = tempoMap.msAt(measure.startTicks + measure.lengthTicks) - tempoMap.msAt(position)
    if (!isBarNew && barEndsInMs < undisturbedMs) return
    isWorking = true
    try {
      const line = linesOf(bar)
      // The line before is written when its last bar has been played, and a last time when the bar behind it has.
      const place = isBarNew && line > 0 ? (bar - firstBar) % barsToLine : -1
      if (place === 0) await write(line - 1)
      await write(line)
      if (place === 1) await write(line - 1)
      written = now
    } catch (error) {
      options.problem(error)
    } finally {
      isWorking = false
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
      state.setState({ lines: [] })
    },
  }
}

/** The notes of each track in a stretch; what is still held lasts until now. */
function partsOf(
  { tracks }: Project,
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
        lowestKey: Math.min(...all.map(({ key }) => key)),
        highestKey: Math.max(...all.map(({ key }) => key)),
        notes: packNotes(
          own
            .map(
              ({ key, velocity, onsetTicks, endTicks: end }, index): Note => ({
                id: index + 1,
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
