import { contextOf } from '@/core/project/context'
import type { InputAddress } from '@/core/routing/address'
import type { Stretch } from '@/core/time/timeSchemas'
import type { Milliseconds, Ticks } from '@/core/time/units'
import { epochAt, epochNowMs } from '@/engine/clock'
import type { TransportState } from '@/engine/protocol'
import type { Backing } from './backing'
import type { EngineLink } from './engineLink'
import type { LiveNotes } from './liveNotes'
import type { LiveStore } from './liveState'
import type { ProjectStore } from './projectStore'
import type { SoundInputs } from './soundInputs'
import type { Sources } from './sources'
import { longestLeavingMs } from './takeKeeper'
import { reserveTakeSerial } from './takes'
import type { TransportControl } from './transportControl'

interface PerformingOptions {
  readonly store: ProjectStore
  readonly live: LiveStore
  readonly engine: EngineLink
  readonly sources: Sources
  readonly soundInputs: SoundInputs
  readonly control: TransportControl
  readonly backing: Backing
  readonly liveNotes: LiveNotes
  startAudio(): Promise<void>
}

/** Those who play and what is heard of them: they begin and end with the transport. */
export function createPerforming(options: PerformingOptions) {
  const { store, live, engine, sources, soundInputs, control } = options

  /** Stand-ins and files, those that send notes and those that are heard. */
  function havePlayed(startMs: Milliseconds, fromTicks: Ticks, loop: Stretch | null = null): void {
    sources.perform(startMs, fromTicks, loop)
    soundInputs.perform(startMs, fromTicks, loop)
  }

  function letStandInsStop(): void {
    sources.stopPerforming()
    soundInputs.stopPerforming()
  }

  function endPerforming(): void {
    letStandInsStop()
    live.setState({ isRehearsing: false })
  }

  return {
    /** The engine says how the transport stands. */
    onTransport(transport: TransportState): void {
      const before = live.getState().transport
      const isSameRun =
        'startedAtMs' in transport &&
        'startedAtMs' in before &&
        transport.startedAtMs === before.startedAtMs &&
        transport.state === before.state
      live.setState({ transport })
      // Along a followed clock only the line moves.
      if (isSameRun) return
      const { project } = store.getState()
      // Sound that was recorded has one speed: at another it rests.
      const isAtItsSpeed = project.recording.speedPercent === 100
      options.backing.onTransport(
        isAtItsSpeed ? transport : { state: 'stopped', ticks: 0 },
        contextOf(project).tempoMap,
        epochNowMs(),
      )
      if (transport.state === 'recording') {
        options.liveNotes.clear()
        havePlayed(transport.startedAtMs, transport.fromTicks, transport.loop)
      } else if (transport.state !== 'waiting') {
        letStandInsStop()
        if (transport.state === 'stopped') live.setState({ isRehearsing: false })
      }
    },

    /** Ends what is being recorded; resolves when its take is in the project, or when the engine took too long. */
    async endRecording(): Promise<void> {
      control.cancelRecord()
      engine.tell({ type: 'stop', atMs: epochNowMs() })
      await sources.handedOver()
      await Promise.race([engine.leave(), new Promise((resolve) => setTimeout(resolve, longestLeavingMs))])
    },

    commands: {
      /** @param press the press that asks for it: what was played before that moment belongs to the take, whenever it arrives */
      stop(press?: { readonly timeStamp: number }): void {
        control.cancelRecord()
        engine.tell({ type: 'stop', atMs: press ? epochAt(press.timeStamp) : epochNowMs() })
        endPerforming()
      },

      /** Everything that sounds ends, wherever it sounds. */
      panic(): void {
        endPerforming()
        control.cancelRecord()
        engine.tell({ type: 'panic' })
      },

      /** What sounds ends; a recording goes on. */
      hush(): void {
        engine.tell({ type: 'hush' })
      },

      /** Asks the stand-ins to play without recording, to see and hear that everything is connected. */
      async rehearse(): Promise<void> {
        await options.startAudio()
        live.setState({ isRehearsing: true })
        havePlayed(epochNowMs() + 200, 0)
      },

      /** What was played while nothing recorded becomes a take. */
      keepListened(): void {
        const { project, isReadOnly } = store.getState()
        if (isReadOnly) return
        engine.tell({
          type: 'keepListened',
          projectId: project.id,
          takeSerial: reserveTakeSerial(store),
        })
      },

      forgetListened(): void {
        engine.tell({ type: 'forgetListened' })
      },

      /** Strokes of the click, to play along with; a stand-in plays along by itself. */
      clickAt(timesMs: readonly Milliseconds[], address: InputAddress): void {
        engine.tell({ type: 'clickAt', timesMs })
        if (sources.isStandIn(address.portId)) sources.strikeAlong(address, timesMs)
        else soundInputs.strikeAlong(address.portId, timesMs)
      },

      /** One note on a track, to hear it. */
      audition(trackId: string, key: number, velocity = 90): void {
        void options.startAudio()
        engine.tell({ type: 'audition', trackId, key, velocity })
      },
    },
  }
}
