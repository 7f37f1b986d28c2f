import { defaultClick } from '@/core/capture/clickSettings'
import type { MusicalContext } from '@/core/effects/noteEffect'
import { Router } from '@/core/routing/route'
import { MeterMap } from '@/core/time/meterMap'
import { TempoMap } from '@/core/time/tempoMap'
import type { Milliseconds } from '@/core/time/units'
import type { EngineSetup, EngineTrack, TransportState } from '../protocol'
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
  isListening: true,
  compensations: [],
  sourceChains: [],
  clockTo: [],
  clockFrom: null,
  cables: [],
}

/** How things stand: what the project asks for and where the transport is. The engine sets it; its parts read it. */
export class EngineNow {
  setup: EngineSetup = emptySetup
  router = new Router<EngineTrack>([])
  transport: TransportState = { state: 'stopped', ticks: 0 }
  /** Null while the transport stands. */
  timeline: Timeline | null = null
  /** Up to where notes have been handed over. */
  scheduled: Place = { pass: 0, ticks: 0 }
  context: MusicalContext = { tempoMap: new TempoMap([]), meterMap: new MeterMap([]) }

  constructor(readonly nowMs: () => Milliseconds) {}

  trackOf(id: string): EngineTrack | undefined {
    return this.setup.tracks.find((candidate) => candidate.id === id)
  }

  placeAt(timeMs: Milliseconds): Place {
    if (this.timeline) return this.timeline.placeAt(timeMs)
    return { pass: 0, ticks: 'ticks' in this.transport ? this.transport.ticks : 0 }
  }

  /** Whether what is played on a track now takes the place of its earlier music. */
  isRecordedOver(track: EngineTrack): boolean {
    return this.transport.state === 'recording' && track.isArmed && this.setup.takeMode === 'fresh'
  }
}

export function isMonitored(track: EngineTrack): boolean {
  return track.monitor === 'always' || (track.monitor === 'armed' && track.isArmed)
}
