import { defaultClick } from '@/core/capture/clickSettings'
import type { MusicalContext } from '@/core/effects/noteEffect'
import { contextOf } from '@/core/project/context'
import { Router } from '@/core/routing/route'
import type { TempoChange } from '@/core/time/tempoMap'
import type { Milliseconds } from '@/core/time/units'
import type { EngineSetup, EngineTrack } from '../protocol'
import { type EngineState, placeAt, runOf, takeOf } from './engineState'
import type { Place, Timeline } from './timeline'

/** An engine that was told nothing yet. */
export const emptySetup: EngineSetup = {
  tracks: [],
  tempos: [],
  meters: [],
  countInBars: 1,
  click: defaultClick,
  clickSynthChannel: 0,
  takeMode: 'fresh',
  isThrownEachTurn: false,
  isListening: true,
  compensations: [],
  sourceChains: [],
  clockTo: [],
  clockFrom: null,
  cables: [],
}

/** How things stand, for the engine's parts to read: what the project asks for, what is being done, where the piece is. */
export interface EngineNow {
  readonly setup: EngineSetup
  readonly router: Router<EngineTrack>
  /** Where time is in the piece: of the set-up, but while a take is recorded of the one it began with. */
  readonly context: MusicalContext
  readonly tempos: readonly TempoChange[]
  readonly state: EngineState
  /** Null while the piece does not run. */
  readonly timeline: Timeline | null
  /** Up to where notes have been handed over. */
  readonly scheduled: Place
  nowMs(): Milliseconds
  trackOf(id: string): EngineTrack | undefined
  placeAt(timeMs: Milliseconds): Place
  /** Which throw of chance a turn of the loop has. */
  turnOf(pass: number): number
  /** Whether what is played on a track now takes the place of its earlier music. */
  isRecordedOver(track: EngineTrack): boolean
}

/** Whoever changes how things stand does it by these: the engine its set-up, the transport what is done and how far. */
export class EngineStanding implements EngineNow {
  setup: EngineSetup = emptySetup
  router = new Router<EngineTrack>([])
  context: MusicalContext = contextOf(emptySetup)
  tempos: readonly TempoChange[] = []
  state: EngineState = { doing: 'resting', ticks: 0 }
  scheduled: Place = { pass: 0, ticks: 0 }

  constructor(readonly nowMs: () => Milliseconds) {}

  setUp(setup: EngineSetup): void {
    this.setup = setup
    this.router = new Router(setup.tracks)
  }

  /** From now on time is as the set-up says. */
  takeTime(): void {
    this.tempos = this.setup.tempos
    this.context = contextOf(this.setup)
  }

  get timeline(): Timeline | null {
    return runOf(this.state)?.timeline ?? null
  }

  trackOf(id: string): EngineTrack | undefined {
    return this.setup.tracks.find((candidate) => candidate.id === id)
  }

  placeAt(timeMs: Milliseconds): Place {
    return placeAt(this.state, timeMs)
  }

  turnOf(pass: number): number {
    return this.setup.isThrownEachTurn && this.state.doing === 'playing' ? pass : 0
  }

  isRecordedOver(track: EngineTrack): boolean {
    return takeOf(this.state) !== null && track.isArmed && this.setup.takeMode === 'fresh'
  }
}

export function isMonitored(track: EngineTrack): boolean {
  return track.monitor === 'always' || (track.monitor === 'armed' && track.isArmed)
}
