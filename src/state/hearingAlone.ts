import type { Stretch } from '@/core/time/timeSchemas'
import type { HeardAlone } from '@/engine/enginePicture'
import type { TransportState } from '@/engine/protocol'
import type { LiveStore } from './liveState'
import type { TransportControl } from './transportControl'

interface HearingOptions {
  readonly live: LiveStore
  readonly control: TransportControl
  /** Gives the engine these notes only; all of the piece with null. */
  tell(alone: HeardAlone | null): void
}

export type HearingAlone = ReturnType<typeof createHearingAlone>

/** Hearing some notes without the rest of the piece: it ends with the playing. */
export function createHearingAlone({ live, control, tell }: HearingOptions) {
  /** The transport has begun to run for it. */
  let hasBegun = false

  function end(): void {
    hasBegun = false
    live.setState({ alone: null })
    tell(null)
  }

  return {
    /**
     * Plays some notes and nothing else, once or over and over.
     *
     * @param name what is heard, in words
     */
    async hearAlone(name: string, notes: HeardAlone, stretch: Stretch, isLooping = false): Promise<void> {
      if (live.getState().transport.state === 'recording') return
      hasBegun = false
      live.setState({ alone: { name } })
      tell(notes)
      await control.play(stretch.startTicks, stretch.endTicks, isLooping ? stretch : null)
    },

    onTransport({ state }: TransportState): void {
      if (!live.getState().alone) return
      if (state === 'playing') hasBegun = true
      else if (hasBegun || state !== 'stopped') end()
    },
  }
}
