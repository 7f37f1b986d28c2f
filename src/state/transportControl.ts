import { atItsSpeed } from '@/core/project/atItsSpeed'
import { contextOf } from '@/core/project/context'
import { projectEndTicks } from '@/core/project/create'
import { playingEndTicks } from '@/core/project/printing'
import type { Stretch } from '@/core/time/timeSchemas'
import type { Ticks } from '@/core/time/units'
import { epochNowMs } from '@/engine/clock'
import type { ToEngine, TransportState } from '@/engine/protocol'
import { type Place, Timeline } from '@/engine/transport/timeline'
import type { ProjectStore } from './projectStore'
import { reserveTakeSerial } from './takes'
import { throwForStart } from './throws'

interface TransportOptions {
  readonly store: ProjectStore
  transport(): TransportState
  /** The position while stopped. */
  stand(ticks: Ticks): void
  tellEngine(message: ToEngine): void
  startAudio(): Promise<void>
  /** Stores what is not stored yet. */
  flush(): Promise<void>
  /** A take begins with this number. */
  onRecord(takeSerial: number): void
}

export type TransportControl = ReturnType<typeof createTransportControl>

/** Playing, recording and moving in the piece: from where, to where, in which loop. */
export function createTransportControl(options: TransportOptions) {
  const { store } = options
  /** Counts the wishes to record; one that was taken back is not carried out when the sound is ready. */
  let recordWish = 0

  /** Place now; runs on while playing, and round in a loop. */
  function place(): Place {
    const transport = options.transport()
    if (transport.state === 'stopped' || transport.state === 'waiting')
      return { pass: 0, ticks: transport.ticks }
    return new Timeline(transport).placeAt(epochNowMs())
  }

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

  async function play(
    fromTicks: Ticks,
    untilTicks: Ticks | null,
    loop = loopStretch(),
    countInBars = 0,
  ): Promise<void> {
    await options.startAudio()
    throwDice()
    const isInLoop = loop !== null && fromTicks < loop.endTicks
    options.tellEngine({
      type: 'play',
      fromTicks,
      untilTicks: isInLoop ? null : untilTicks,
      loop: isInLoop ? loop : null,
      ...(countInBars > 0 && { countInBars }),
    })
  }

  /** Plays on from where it stopped; from the beginning when nothing is left to play. */
  function playOn(): Promise<void> {
    const transport = options.transport()
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
    const wish = ++recordWish
    await options.startAudio()
    if (wish !== recordWish) return
    throwDice()
    const takeSerial = reserveTakeSerial(store)
    options.onRecord(takeSerial)
    await options.flush()
    if (wish !== recordWish) return
    options.tellEngine({
      type: 'record',
      projectId: project.id,
      takeSerial,
      fromTicks: marked && isLooping ? startTicks : Math.min(fromTicks, startTicks),
      startTicks,
      endTicks: marked?.endTicks ?? null,
      isLooping: isLooping && marked !== null,
      // Half a sixteenth: what is nearer to the downbeat than to the step before it.
      earlyMs: (60_000 / contextOf(atItsSpeed(project)).tempoMap.tempoAt(startTicks) / 4) * 0.5,
      startsWithFirstNote: project.countIn === 'firstNote',
    })
  }

  /**
   * Where recording begins: the marked stretch when it is looped or the playing position is in it; else the bar of the
   * playing position, while there is music there; else the beginning.
   */
  function recordingStartTicks(): Ticks {
    const { project } = store.getState()
    const transport = options.transport()
    const { stretch, isLooping } = project.recording
    const here = transport.state === 'stopped' ? transport.ticks : 0
    if (stretch && (isLooping || here === 0 || here >= stretch.startTicks)) return stretch.startTicks
    if (here >= projectEndTicks(project)) return 0
    return contextOf(project).meterMap.measureAt(here).startTicks
  }

  function seek(ticks: Ticks): void {
    const transport = options.transport()
    if (transport.state === 'recording') return
    if (transport.state === 'playing') void play(ticks, playingEndTicks(store.getState().project))
    else options.stand(ticks)
  }

  return {
    place,
    play,
    playOn,
    record,
    seek,
    recordingStartTicks,
    /** Takes back a wish to record that is not carried out yet. */
    cancelRecord(): void {
      recordWish++
    },
  }
}
