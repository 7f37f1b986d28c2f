import { countInStrokes } from '@/core/capture/click'
import type { Milliseconds } from '@/core/time/units'
import type { SourceEvent } from '../protocol'
import type { Capture } from './capture'
import type { EngineNow } from './engineNow'
import { type RecordOrder, takeOf } from './engineState'
import type { LiveInput } from './liveInput'
import { LoopLayers } from './loopLayers'
import type { Metronome } from './metronome'
import { playedTo } from './playedTo'
import type { TrackPlayback } from './trackPlayback'
import { leadMs, lookAheadMs, type Transport } from './transport'

/** A key held over the end of a recorded stretch is waited for this long. */
const longestHeldMs: Milliseconds = 4000

/** Begins takes: after a count-in, with the first note, with a followed clock; ends those of a stretch; layers those of a loop. */
export class RecordingDesk {
  /** When the earlier passes of a layered loop are read once more: the last notes of a turn are played only then. */
  private layersDueMs: Milliseconds | null = null

  constructor(
    private readonly now: EngineNow,
    private readonly transport: Transport,
    private readonly capture: Capture,
    private readonly playback: TrackPlayback,
    private readonly live: LiveInput,
    private readonly metronome: Metronome,
  ) {}

  record(order: RecordOrder): void {
    const { setup, context } = this.now
    if (setup.clockFrom !== null || order.startsWithFirstNote) {
      const waitsFor = setup.clockFrom !== null ? 'clock' : 'first note'
      this.transport.wait({ doing: 'waiting', waitsFor, order })
      return
    }
    const beginMs = this.now.nowMs() + leadMs
    // A run-up is a count-in of its own.
    const bars = order.fromTicks < order.startTicks ? 0 : setup.countInBars
    const countIn = countInStrokes(context, order.fromTicks, bars, setup.click)
    this.begin(order, beginMs + countIn.lengthMs)
    for (const stroke of countIn.strokes) this.metronome.strike(beginMs + stroke.afterMs, stroke)
  }

  /** A note was played: where the first one is waited for, recording begins with it. */
  notePlayed(event: SourceEvent): void {
    const { state } = this.now
    if (state.doing !== 'waiting' || state.waitsFor !== 'first note') return
    this.begin({ ...state.order, fromTicks: state.order.startTicks }, event.timeMs)
  }

  /** @param startedAtMs the moment of `order.fromTicks` */
  private begin(order: RecordOrder, startedAtMs: Milliseconds): void {
    const { startTicks, endTicks, fromTicks } = order
    const loop = order.isLooping && endTicks !== null ? { startTicks, endTicks } : null
    this.transport.start(
      { doing: 'counting in', take: { endTicks: loop ? null : endTicks } },
      { fromTicks, startedAtMs, loop, line: null },
    )
    this.beginTake(order, loop !== null)
  }

  /** The piece runs: what is played from here on is a take. */
  beginTake(order: RecordOrder, isLoop: boolean): void {
    const { projectId, takeSerial, startTicks, endTicks, earlyMs } = order
    const { context, setup, tempos, timeline } = this.now
    const anchorMs = timeline!.msAt({ pass: 0, ticks: startTicks })
    const passMs = isLoop ? context.tempoMap.msAt(endTicks!) - context.tempoMap.msAt(startTicks) : null
    this.capture.begin(
      {
        projectId,
        takeSerial,
        startTicks,
        endTicks: isLoop ? null : endTicks,
        anchorMs,
        earlyMs,
        passMs,
        playedTo: playedTo(setup, tempos),
      },
      this.now.nowMs(),
    )
    this.layersDueMs = null
    if (passMs !== null && setup.takeMode === 'layered')
      this.playback.layers = new LoopLayers({ anchorMs, passMs, earlyMs }, startTicks, {
        ...context,
        compensations: setup.compensations,
        chains: setup.sourceChains.map((chain) => ({ ...chain, changes: [] })),
      })
    // Keys and pedals that are already down when recording begins belong to the take.
    for (const event of [...this.live.heldControlEvents, ...this.live.heldEvents]) this.capture.keep(event)
  }

  /** The end of the last pass has been played by now: the layers have grown by it. */
  advance(nowMs: Milliseconds): void {
    if (this.layersDueMs === null || nowMs < this.layersDueMs) return
    this.layersDueMs = null
    if (!this.playback.layers) return
    this.updateLayers(this.now.scheduled.pass, nowMs)
    this.playback.readLayers()
  }

  /** A stretch ends by itself, when the last key held over its end is up. */
  endStretch(nowMs: Milliseconds): void {
    const { state, timeline } = this.now
    const endTicks = takeOf(state)?.endTicks ?? null
    if (endTicks === null || !timeline) return
    const endMs = timeline.msAt({ pass: 0, ticks: endTicks })
    if (nowMs < endMs || (this.live.heldEvents.length > 0 && nowMs < endMs + longestHeldMs)) return
    this.transport.stop(nowMs)
  }

  /** The loop turns at `turnMs`: its earlier passes sound from now on. */
  turned(pass: number, turnMs: Milliseconds, nowMs: Milliseconds): void {
    if (!this.playback.layers) return
    this.updateLayers(pass, nowMs)
    this.layersDueMs = turnMs + lookAheadMs
  }

  private updateLayers(beforePass: number, nowMs: Milliseconds): void {
    const events = this.capture.recordedSoFar()
    const armed = this.now.setup.tracks.filter((track) => track.isArmed)
    if (events) this.playback.layers?.update(events, beforePass, armed, nowMs)
  }
}
