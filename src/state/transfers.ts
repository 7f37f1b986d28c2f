import { createStore } from 'zustand/vanilla'
import type { ReceiverReport } from '@/core/programs/receiver/report'
import { type CameBack, cameBack, type TimedKey } from '@/core/project/cameBack'
import { contextOf } from '@/core/project/context'
import { soundingNotes } from '@/core/project/create'
import { playingEndTicks } from '@/core/project/printing'
import type { Project } from '@/core/project/schema'
import { type PlainParts, sentLines, type Transfer } from '@/core/project/transferring'
import { type WhatArrived, whatArrived } from '@/core/project/whatArrived'
import { cableName } from '@/core/routing/ports'
import type { Milliseconds, Ticks } from '@/core/time/units'
import type { reportsOf } from '@/engine/cables/cable'
import { clockPasses, clockTimes, epochNowMs } from '@/engine/clock'
import type { SourceEvent, TransportState } from '@/engine/protocol'
import type { RunningPlan } from '@/engine/transport/timeline'
import type { createHearing } from './hearing'
import type { ProjectStore } from './projectStore'
import type { Sources } from './sources'
import type { TransportControl } from './transportControl'

/** What is to be sent, and how. */
export interface TransferOrder extends Transfer {
  /** Each part by itself, one after another, with a pause between; null: all together. */
  readonly pauseMs: Milliseconds | null
  /** The input that what is sent comes back on; null: none is listened to. */
  readonly backOn: string | null
}

/** One sending that is over. */
export interface Sent {
  readonly trackIds: readonly string[]
  /** Where it was ended by hand; null: it was sent to its end. */
  readonly endedAtTicks: Ticks | null
  /** What those who write wrote of it. */
  readonly written: readonly {
    readonly program: string
    readonly arrived: WhatArrived
    readonly leftOut: ReceiverReport['leftOut']
  }[]
  /** Somebody else sent notes over the same cable meanwhile: what was written is of both. */
  readonly isMixed: boolean
  /** Programs that answered in a form that is not known. */
  readonly unknownAnswers: number
  readonly back: CameBack | null
}

export interface TransferState {
  readonly doing: 'nothing' | 'sending' | 'asking' | 'pausing'
  /** The parts that are being sent. */
  readonly trackIds: readonly string[]
  readonly results: readonly Sent[]
}

/** Readers answer within this; one that is not there never does. */
const answerMs: Milliseconds = 700
/** What still comes back is waited for. */
const backMs: Milliseconds = 1000
/** A run that was ended this near to its end was sent whole. */
const nearEndMs: Milliseconds = 80

/** Plays parts into other programs, and finds out what arrived. */
export function createTransfers(options: {
  readonly store: ProjectStore
  readonly hearing: ReturnType<typeof createHearing>
  readonly sources: Pick<Sources, 'divert'>
  readonly play: TransportControl['play']
  stop(): void
  /** What those who read a cable have written since a moment. */
  readonly reportsOf: typeof reportsOf
  plain(): Promise<PlainParts>
}) {
  const { hearing } = options
  const state = createStore<TransferState>(() => ({ doing: 'nothing', trackIds: [], results: [] }))
  /** How what is sent lies in time; told by the engine. */
  const run: { plan: RunningPlan | null } = { plan: null }
  let onEnd: (() => void) | null = null
  let isEnded = false
  let isMixed = false
  let sendingTo: string | null = null
  let endPause: (() => void) | null = null

  /** Sends parts that go together; resolves when they are over. */
  async function sendTogether(order: TransferOrder, plain: PlainParts): Promise<Sent> {
    const { project } = options.store.getState()
    hearing.transfer(order, plain)
    const told = hearing.told(project)
    // What is written may last longer than it was played.
    const lengthTicks = Math.max(playingEndTicks(project) ?? 0, playingEndTicks(told) ?? 0)
    const heard: TimedKey[] = []
    const endListening =
      order.backOn === null ? null : options.sources.divert(order.backOn, noteOnsInto(heard))
    try {
      state.setState({ doing: 'sending', trackIds: order.trackIds })
      sendingTo = order.portId
      isMixed = false
      run.plan = null
      const over = new Promise<void>((resolve) => {
        onEnd = resolve
      })
      const beganMs = epochNowMs()
      await options.play(0, lengthTicks, null, order.click ? order.countInBars : 0)
      // It was ended while the sound was being started.
      if (isEnded) options.stop()
      await over
      hearing.transfer(null)
      const { tempoMap } = contextOf(told)
      const { fromTicks, startedAtMs: planMs } = run.plan ?? { fromTicks: 0, startedAtMs: epochNowMs() }
      const startedAtMs = planMs - tempoMap.msAt(fromTicks)
      const playedMs = epochNowMs() - startedAtMs
      const isWhole = !isEnded && playedMs >= tempoMap.msAt(lengthTicks) - nearEndMs
      const endedAtTicks = isWhole ? null : Math.max(0, Math.round(tempoMap.ticksAt(Math.max(0, playedMs))))
      if (!isWhole) isEnded = true
      state.setState({ doing: 'asking' })
      const [answered, back] = await Promise.all([
        answersTo(project, order, plain, endedAtTicks, beganMs, options.reportsOf),
        endListening && cameBackOf(told, order, startedAtMs, endedAtTicks, heard),
      ])
      return { trackIds: order.trackIds, endedAtTicks, isMixed, ...answered, back }
    } finally {
      onEnd = null
      sendingTo = null
      endListening?.()
      hearing.transfer(null)
    }
  }

  async function send(order: TransferOrder): Promise<void> {
    if (state.getState().doing !== 'nothing') return
    state.setState({ doing: 'sending', trackIds: order.trackIds, results: [] })
    isEnded = false
    try {
      const plain = await options.plain()
      const groups = order.pauseMs === null ? [order.trackIds] : order.trackIds.map((id) => [id])
      for (const [index, trackIds] of groups.entries()) {
        if (index > 0) await pause(order.pauseMs ?? 0)
        if (isEnded) break
        const sent = await sendTogether({ ...order, trackIds }, plain)
        state.setState(({ results }) => ({ results: [...results, sent] }))
      }
    } finally {
      state.setState({ doing: 'nothing', trackIds: [] })
    }
  }

  function pause(pauseMs: Milliseconds): Promise<void> {
    state.setState({ doing: 'pausing', trackIds: [] })
    return new Promise((resolve) => {
      const timer = setTimeout(resolve, pauseMs / clockTimes)
      endPause = () => {
        clearTimeout(timer)
        resolve()
      }
    })
  }

  return {
    state,
    send,
    /** Nothing further is sent; what is being played ends with the transport. */
    end(): void {
      isEnded = true
      endPause?.()
    },
    /** Somebody else sends notes over a cable. */
    onShared(name: string): void {
      if (sendingTo !== null && cableName(sendingTo) === name) isMixed = true
    },
    onTransport(transport: TransportState): void {
      if (transport.state === 'playing') run.plan = transport
      // What else is begun meanwhile ends it, too.
      else if (run.plan || transport.state !== 'stopped') onEnd?.()
    },
  }
}

/** What each program that writes has written of a sending. */
async function answersTo(
  project: Project,
  order: TransferOrder,
  plain: PlainParts,
  endedAtTicks: Ticks | null,
  sinceMs: Milliseconds,
  ask: typeof reportsOf,
): Promise<Pick<Sent, 'written' | 'unknownAnswers'>> {
  const cable = cableName(order.portId)
  if (cable === null) return { written: [], unknownAnswers: 0 }
  const lines = sentLines(project, order, plain)
  const notes = lines.notes.filter(({ onsetTicks }) => endedAtTicks === null || onsetTicks < endedAtTicks)
  const { reports, unknown } = await ask(cable, sinceMs, answerMs)
  const written = reports.map((report) => ({
    program: report.program,
    leftOut: report.leftOut,
    arrived: whatArrived({ names: lines.names, notes }, report),
  }))
  return { written, unknownAnswers: unknown }
}

async function cameBackOf(
  told: Project,
  { portId }: TransferOrder,
  startedAtMs: Milliseconds,
  endedAtTicks: Ticks | null,
  heard: readonly TimedKey[],
): Promise<CameBack> {
  await clockPasses(backMs)
  const { tempoMap } = contextOf(told)
  const due = told.tracks.flatMap((track) =>
    track.sendTo?.portId !== portId
      ? []
      : soundingNotes(track).flatMap(({ onsetTicks, key }): TimedKey[] =>
          endedAtTicks !== null && onsetTicks >= endedAtTicks
            ? []
            : [
                {
                  timeMs: startedAtMs + tempoMap.msAt(onsetTicks) + track.offsetMs,
                  channel: track.sendTo?.channel ?? track.channel,
                  key,
                },
              ],
        ),
  )
  return cameBack(due, heard)
}

function noteOnsInto(heard: TimedKey[]): (event: SourceEvent) => void {
  return ({ status, data1: key, data2: velocity, timeMs }) => {
    if ((status & 0xf0) === 0x90 && velocity > 0) heard.push({ timeMs, channel: (status & 0x0f) + 1, key })
  }
}
