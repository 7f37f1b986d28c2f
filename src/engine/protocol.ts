import type { TakeEvents } from '@/core/capture/takeEvents'
import type { ControllerEvent } from '@/core/event/note'
import type { NoteColumns } from '@/core/event/noteColumns'
import type { EffectSlot, InputAddress } from '@/core/project/schema'
import type { MeterChange } from '@/core/time/meterMap'
import type { TempoChange } from '@/core/time/tempoMap'
import type { Milliseconds, Ticks } from '@/core/time/units'
import type { ClockSample } from './clock'

/** What the engine needs to know of a track to route and play it. */
export interface EngineTrack {
  readonly id: string
  readonly synthChannel: number
  readonly input: InputAddress | null
  readonly isArmed: boolean
  /** Neither muted nor silenced by another track's solo. */
  readonly isAudible: boolean
  readonly effects: readonly EffectSlot[]
}

export interface EngineSetup {
  readonly tracks: readonly EngineTrack[]
  readonly tempos: readonly TempoChange[]
  readonly meters: readonly MeterChange[]
  readonly countInBars: number
  readonly isClickOn: boolean
  readonly clickSynthChannel: number
}

/** One message of a source: its own time stamp on the epoch clock and up to three bytes. */
export interface SourceEvent {
  readonly portId: string
  readonly timeMs: Milliseconds
  readonly status: number
  readonly data1: number
  readonly data2: number
}

export type ToEngine =
  | { readonly type: 'connectSynth'; readonly port: MessagePort }
  | { readonly type: 'clock'; readonly sample: ClockSample }
  | { readonly type: 'setup'; readonly setup: EngineSetup }
  | {
      readonly type: 'trackContent'
      readonly trackId: string
      readonly notes: NoteColumns
      readonly controllers: readonly ControllerEvent[]
    }
  | { readonly type: 'play'; readonly fromTicks: Ticks; readonly untilTicks: Ticks | null }
  | {
      readonly type: 'record'
      readonly fromTicks: Ticks
      readonly projectId: string
      readonly takeSerial: number
    }
  | { readonly type: 'stop' }
  | { readonly type: 'input'; readonly events: readonly SourceEvent[] }
  /** Ends the notes that a vanished port still holds. */
  | { readonly type: 'portLost'; readonly portId: string }
  | { readonly type: 'audition'; readonly trackId: string; readonly key: number; readonly velocity: number }
  /** Turns what was played outside recording into a take, or forgets it. */
  | { readonly type: 'keepListened'; readonly projectId: string; readonly takeSerial: number }
  | { readonly type: 'forgetListened' }
  | { readonly type: 'panic' }

export type TransportState =
  | { readonly state: 'stopped'; readonly ticks: Ticks }
  | {
      readonly state: 'playing' | 'recording'
      readonly fromTicks: Ticks
      /** The moment of `fromTicks`; in the future while counting in. */
      readonly startedAtMs: Milliseconds
    }

/** A note that went by, for the pictures of what is happening. */
export interface Activity {
  readonly portId: string
  readonly channel: number
  readonly key: number
  readonly velocity: number
  readonly isOn: boolean
  readonly timeMs: Milliseconds
  /** Position in the piece while recording, else null. */
  readonly ticks: Ticks | null
  readonly trackIds: readonly string[]
}

export type FromEngine =
  | { readonly type: 'transport'; readonly transport: TransportState }
  | { readonly type: 'activity'; readonly events: readonly Activity[]; readonly listenedNotes: number }
  | {
      readonly type: 'takeFinished'
      readonly takeSerial: number
      readonly startTicks: Ticks
      readonly anchorMs: Milliseconds
      readonly endMs: Milliseconds
      readonly events: TakeEvents
    }
  | { readonly type: 'journalFailed'; readonly reason: string }
