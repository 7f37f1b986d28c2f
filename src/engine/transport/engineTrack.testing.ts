import { plainRoute } from '@/core/routing/route'
import type { EngineTrack } from '../protocol'

/** A track as the engine knows it, for tests and bench: it hears channel `channel` of port A and is armed. */
export function engineTrack(id: string, channel: number, fields: Partial<EngineTrack> = {}): EngineTrack {
  return {
    id,
    synthChannel: channel,
    routes: [plainRoute({ portId: 'A', channel })],
    monitor: 'always',
    sendTo: null,
    channel,
    offsetMs: 0,
    hasSound: true,
    base: { program: 0, volume: 1, pan: 0 },
    isArmed: true,
    isAudible: true,
    slots: [],
    changes: [],
    ...fields,
  }
}
