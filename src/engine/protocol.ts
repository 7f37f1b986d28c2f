import type { ClickSettings } from '@/core/capture/clickSettings'
import type { TakeEvents } from '@/core/capture/takeEvents'
import type { PlayedTo } from '@/core/capture/takeInfo'
import type { ClockPoint, Compensation } from '@/core/capture/takePlacement'
import type { EffectSlot } from '@/core/effects/catalogue'
import type { ChainPlan } from '@/core/effects/chainRun'
import type { ControllerEvent } from '@/core/event/note'
import type { NoteColumns } from '@/core/event/noteColumns'
import type { Generator } from '@/core/generators/generator'
import type { MonitorMode } from '@/core/project/schema'
import type { InputAddress } from '@/core/routing/address'
import type { Route } from '@/core/routing/route'
import type { MeterChange } from '@/core/time/meterMap'
import type { TempoChange } from '@/core/time/tempoMap'
import type { Stretch } from '@/core/time/timeSchemas'
import type { Milliseconds, Ticks } from '@/core/time/units'
import type { ClockSample } from './clock'
import type { JournalTake } from './journal/journalTake'
import type { SlotFlowNow } from './transport/flowWatch'
import type { PortMessage } from './transport/portSender'
import type { RunningPlan } from './transport/timeline'

/** What the engine needs to know of a track to route and play it. */
export interface EngineTrack extends ChainPlan {
  readonly id: string
  readonly synthChannel: number
  readonly routes: readonly Route[]
  readonly monitor: MonitorMode
  readonly sendTo: InputAddress | null
  /** Channel of the track, for what it sends. */
  readonly channel: number
  readonly offsetMs: Milliseconds
  /** Has an instrument here. */
  readonly hasSound: boolean
  /** Where program, volume and pan stand before the curves of the track say otherwise; program null for drums. */
  readonly base: { readonly program: number | null; readonly volume: number; readonly pan: number }
  readonly isArmed: boolean
  /** Neither muted nor silenced by another track's solo. */
  readonly isAudible: boolean
}

/** The effects between a source and the tracks. */
export interface EngineSourceChain extends InputAddress {
  readonly slots: readonly EffectSlot[]
}

export interface EngineSetup {
  readonly tracks: readonly EngineTrack[]
  readonly tempos: readonly TempoChange[]
  readonly meters: readonly MeterChange[]
  readonly countInBars: number
  readonly click: ClickSettings
  readonly clickSynthChannel: number
  readonly takeMode: 'layered' | 'fresh'
  /** Chance that is not kept throws anew in each turn of a loop that is played. */
  readonly isThrownEachTurn: boolean
  readonly isListening: boolean
  /** How late the events of each address arrive. */
  readonly compensations: readonly Compensation[]
  readonly sourceChains: readonly EngineSourceChain[]
  /** Ports and cables that get the clock. */
  readonly clockTo: readonly string[]
  /** The port or cable whose clock is followed. */
  readonly clockFrom: string | null
  /** Names of the cables to read. */
  readonly cables: readonly string[]
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
  /** All generators, whenever one has changed. */
  | { readonly type: 'generators'; readonly generators: readonly Generator[] }
  | {
      readonly type: 'trackContent'
      readonly trackId: string
      readonly notes: NoteColumns
      readonly controllers: readonly ControllerEvent[]
    }
  | {
      readonly type: 'play'
      readonly fromTicks: Ticks
      readonly untilTicks: Ticks | null
      readonly loop: Stretch | null
      /** The click counts so many bars before; none where it is absent. */
      readonly countInBars?: number
    }
  | {
      readonly type: 'record'
      readonly projectId: string
      readonly takeSerial: number
      /** Where the transport starts; a run-up where it is before `startTicks`. */
      readonly fromTicks: Ticks
      /** The stretch that is recorded; open where `endTicks` is null. */
      readonly startTicks: Ticks
      readonly endTicks: Ticks | null
      readonly isLooping: boolean
      readonly earlyMs: Milliseconds
      /** Begins with the first note that is played, instead of a count-in. */
      readonly startsWithFirstNote: boolean
    }
  /** Strokes of the click at these moments, to measure how late a source is. */
  | { readonly type: 'clickAt'; readonly timesMs: readonly Milliseconds[] }
  /** Lets a port in again that was shut because too much came from it. */
  | { readonly type: 'openPort'; readonly portId: string }
  /** `atMs`: the moment on the sources' clock; now where it is absent. */
  | { readonly type: 'stop'; readonly atMs?: Milliseconds }
  /** Answers `settle`: everything that ports had sent by then has been handed over. */
  | { readonly type: 'settled'; readonly takeSerial: number }
  | { readonly type: 'input'; readonly events: readonly SourceEvent[] }
  /** Ends the notes that a vanished port still holds. */
  | { readonly type: 'portLost'; readonly portId: string; readonly atMs: Milliseconds }
  | { readonly type: 'audition'; readonly trackId: string; readonly key: number; readonly velocity: number }
  /** Turns what was played outside recording into a take, or forgets it. */
  | { readonly type: 'keepListened'; readonly projectId: string; readonly takeSerial: number }
  | { readonly type: 'forgetListened' }
  /** Begins or ends measuring, and asks for what was measured. */
  | { readonly type: 'measure'; readonly isOn: boolean }
  | { readonly type: 'panic' }
  /** What sounds ends; what runs runs on, and whoever plays is still heard and recorded. */
  | { readonly type: 'hush' }
  /** The project is left: what runs ends, and its take is handed over without waiting. */
  | { readonly type: 'leave' }

export type TransportState =
  | { readonly state: 'stopped'; readonly ticks: Ticks }
  /** Ready to record: for the first note, or for the followed clock to start. */
  | { readonly state: 'waiting'; readonly ticks: Ticks; readonly waitsFor: 'first note' | 'clock' }
  | ({ readonly state: 'playing' | 'recording' } & RunningPlan)

/** A note that went by, for the pictures of what is happening. */
export interface Activity {
  readonly portId: string
  readonly channel: number
  readonly key: number
  readonly velocity: number
  readonly isOn: boolean
  readonly timeMs: Milliseconds
  /** Position in the piece while recording, else null; and in which pass of the loop. */
  readonly ticks: Ticks | null
  readonly pass: number
  readonly trackIds: readonly string[]
}

/** What goes through an effect of a track or a source that is being played live: keys that sound now. */
export interface LiveFlow extends SlotFlowNow {
  readonly chain: { readonly trackId: string } | { readonly portId: string; readonly channel: number }
}

/** The longest an event waited until the journal had it, since the engine began. */
export interface JournalWaits {
  /** From its arrival in the engine. */
  readonly longestInEngineMs: Milliseconds
  /** From the time stamp of its source: with what a busy page held back. */
  readonly longestFromSourceMs: Milliseconds
}

/** Note-ons of one stream since the engine began. */
export interface StreamCount {
  readonly portId: string
  readonly channel: number
  noteOns: number
  /** Those that came while nothing was recording. */
  outside: number
}

export type FromEngine =
  | { readonly type: 'transport'; readonly transport: TransportState }
  | {
      readonly type: 'activity'
      readonly events: readonly Activity[]
      readonly listenedNotes: number
      readonly streams: readonly StreamCount[]
      /** null: as they were told last. */
      readonly flows: readonly LiveFlow[] | null
    }
  /** Answers `leave`: the journal has everything. */
  | { readonly type: 'left' }
  /** Something went wrong that nobody asked for; the engine goes on. */
  | { readonly type: 'failed'; readonly reason: string }
  /** A take has ended: it waits for what a busy page still holds back of it. */
  | { readonly type: 'settle'; readonly takeSerial: number }
  | (JournalTake & {
      readonly type: 'takeFinished'
      readonly endMs: Milliseconds
      readonly playedTo: PlayedTo
      readonly events: TakeEvents
      readonly clockPoints: readonly ClockPoint[]
    })
  /** The tempo or meter was changed while a take is recorded: it comes into force after it. */
  | { readonly type: 'tempoWaits' }
  /** What could not be stored is stored now. */
  | { readonly type: 'journalCaughtUp' }
  | { readonly type: 'journalFailed'; readonly isFull: boolean; readonly reason: string }
  | {
      readonly type: 'measured'
      /** To the command at the synthesiser: from the note-on’s arrival in the engine, and from its source’s time stamp. */
      readonly delays: {
        readonly inEngineMs: readonly Milliseconds[]
        readonly fromSourceMs: readonly Milliseconds[]
      }
      readonly journal: JournalWaits
    }
  /** For MIDI ports, which only the window can reach. */
  | { readonly type: 'send'; readonly messages: readonly PortMessage[] }
  /** Something that is no MIDI message came over a cable; said once. */
  | { readonly type: 'refused'; readonly portId: string; readonly reason: string }
  /** More came from a port than any player sends: it is shut. */
  | { readonly type: 'portShut'; readonly portId: string }
  | { readonly type: 'followedClock'; readonly isRunning: boolean; readonly tempoBpm: number | null }
  /** The machine slept while this ran; it was stopped where it was. */
  | { readonly type: 'slept'; readonly sleptMs: Milliseconds; readonly wasRecording: boolean }
  /** Programs that read each cable written to. */
  | { readonly type: 'cableReaders'; readonly name: string; readonly programs: readonly string[] }
  /** Somebody else sends notes over a cable that this piece sends over. */
  | { readonly type: 'cableShared'; readonly name: string }
