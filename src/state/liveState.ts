import { createStore, type StoreApi } from 'zustand/vanilla'
import type { TakeAccount } from '@/core/capture/takeAccount'
import type { AsidePart } from '@/core/project/salvage'
import type { Milliseconds } from '@/core/time/units'
import type { KeyboardSettings } from '@/engine/midiInput/computerKeyboard'
import type { MidiAvailability } from '@/engine/midiInput/midiInputs'
import type { LiveFlow, StreamCount, TransportState } from '@/engine/protocol'
import type { KnownSoundInput } from '@/engine/soundInput/microphones'
import type { AudioState } from './sound'

/** How an input is at the moment; sentences are said as they are. */
export type SoundInputState =
  /** A press is needed before it can be opened. */
  | { readonly state: 'waiting'; readonly reason: string }
  | { readonly state: 'opening' }
  | {
      readonly state: 'listening'
      readonly channelCount: number
      readonly latencyMs: Milliseconds
      /** What the browser does to the sound although it was asked not to. */
      readonly remarks: readonly string[]
    }
  | { readonly state: 'absent'; readonly reason: string }

/** What is happening right now: nothing of it is stored. */
export interface LiveState {
  readonly transport: TransportState
  readonly midi: MidiAvailability
  readonly audio: AudioState
  readonly keyboard: KeyboardSettings
  /** The stand-ins play without being recorded. */
  readonly isRehearsing: boolean
  /** Said to the user until dismissed. */
  readonly notice: { readonly text: string; readonly isProblem: boolean } | null
  /** Some notes are heard without the rest of the piece: which, in words. */
  readonly alone: { readonly name: string } | null
  readonly lastTake:
    | (TakeAccount & { readonly name: string; readonly passes: number; readonly lastSerial: number })
    | null
  readonly interruptedTakes: readonly number[]
  /** Something that was played is only in memory, since storage refuses it: why, in a sentence; null: nothing. */
  readonly journalBehind: string | null
  /** Damaged parts that were left out when the project was opened; kept aside in storage. */
  readonly asideParts: readonly AsidePart[]
  /** Notes played outside recording that can still become a take. */
  readonly listenedNotes: number
  /** The track that waits for whoever plays next. */
  readonly assigningTrackId: string | null
  /** Every stream that plays gets a track of its own. */
  readonly isSeatingEveryone: boolean
  /** What was heard from each stream since the project was opened. */
  readonly streams: readonly StreamCount[]
  /** What goes through the effects of whoever plays right now. */
  readonly flows: readonly LiveFlow[]
  /** Programs that read the cables written to, by cable. */
  readonly cableReaders: Readonly<Record<string, readonly string[]>>
  /** A port that was shut because more came from it than anybody plays. */
  readonly shutPortId: string | null
  /** Inputs of sound that are sources here, by source. */
  readonly soundInputs: Readonly<Record<string, SoundInputState>>
  /** Inputs of sound that the machine has, once the browser names them. */
  readonly inputDevices: readonly KnownSoundInput[]
  /** Sound comes in; browsers wait for a press before it does. */
  readonly isHearing: boolean
  readonly followedClock: { readonly isRunning: boolean; readonly tempoBpm: number | null }
}

export type LiveStore = StoreApi<LiveState>

export function createLiveState(): LiveStore {
  return createStore<LiveState>(() => ({
    transport: { state: 'stopped', ticks: 0 },
    midi: { state: 'asking' },
    audio: 'waiting for a key or click',
    keyboard: { lowestKey: 60, velocity: 84 },
    isRehearsing: false,
    notice: null,
    alone: null,
    lastTake: null,
    interruptedTakes: [],
    journalBehind: null,
    asideParts: [],
    listenedNotes: 0,
    assigningTrackId: null,
    isSeatingEveryone: false,
    streams: [],
    flows: [],
    cableReaders: {},
    shutPortId: null,
    soundInputs: {},
    inputDevices: [],
    isHearing: false,
    followedClock: { isRunning: false, tempoBpm: null },
  }))
}
