import { changeTrack } from '@/core/project/commands'
import type { InputAddress } from '@/core/routing/address'
import { ringInWords } from '@/core/routing/feedback'
import { plainRoute } from '@/core/routing/route'
import { feedbackIn } from '@/core/wiring/feedbackIn'
import type { RecentActivity } from '@/core/wiring/wiringRemark'
import type { Activity, ToEngine } from '@/engine/protocol'
import type { LiveState, LiveStore } from './liveState'
import type { ProjectStore } from './projectStore'

interface ConnectingOptions {
  readonly store: ProjectStore
  readonly live: LiveStore
  tellEngine(message: ToEngine): void
  problem(sentence: string): void
}

/** Who hears whom: assigning tracks, sending them on, opening what was shut. */
export function createConnecting({ store, live, tellEngine, problem }: ConnectingOptions) {
  return {
    /** A track that waits takes the first stream that plays a note. */
    assignToWhoeverPlays(events: readonly Activity[]): void {
      const trackId = live.getState().assigningTrackId
      const stroke = trackId === null ? undefined : events.find((event) => event.isOn)
      if (trackId === null || !stroke) return
      live.setState({ assigningTrackId: null })
      store.getState().apply('assign a track by playing', (project) =>
        changeTrack(project, trackId, (track) => ({
          ...track,
          routes: [plainRoute({ portId: stroke.portId, channel: stroke.channel })],
        })),
      )
    },

    assignByPlaying(trackId: string | null): void {
      live.setState({ assigningTrackId: trackId })
    },

    setArmed(trackId: string, isArmed: boolean): void {
      store
        .getState()
        .apply(isArmed ? 'arm a track' : 'disarm a track', (project) =>
          changeTrack(project, trackId, (track) => ({ ...track, isArmed })),
        )
    },

    /** Where a track's notes are sent besides its own sound. A way that would feed itself is refused, and said. */
    setSend(trackId: string, sendTo: InputAddress | null): void {
      const { project } = store.getState()
      const tried = changeTrack(project, trackId, (track) => ({ ...track, sendTo }))
      const ring = feedbackIn(tried)
      if (ring.length > 0 && feedbackIn(project).length === 0) {
        problem(
          `That would feed back: ${ringInWords(ring)}. Each sends what the next one hears, so notes would multiply. Nothing was changed.`,
        )
        return
      }
      store.getState().apply('send a track to a port', () => tried)
    },

    /** What was seen of the world lately, for the check of the wiring. */
    recentActivity(state: LiveState = live.getState()): RecentActivity {
      return {
        ports: state.midi.state === 'ready' ? state.midi.ports : null,
        streams: state.streams,
        readCables: Object.entries(state.cableReaders)
          .filter(([, programs]) => programs.length > 0)
          .map(([name]) => name),
      }
    },

    /** Hears a port again that was shut because it brought too much. */
    openPort(portId: string): void {
      tellEngine({ type: 'openPort', portId })
      live.setState({ shutPortId: null })
    },

    seatEveryone(isSeatingEveryone: boolean): void {
      live.setState({ isSeatingEveryone })
    },
  }
}
