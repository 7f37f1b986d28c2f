import { useEffect, useMemo, useState } from 'react'
import { type PlacedSound, placedSound } from '@/core/capture/placedSound'
import { straightPieces } from '@/core/capture/straightPieces'
import { stretchOf, type TakeInfo } from '@/core/capture/takeInfo'
import type { Track } from '@/core/project/schema'
import { type KeptOutline, traceStepMs } from '@/core/sound/keptSound'
import { epochNowMs } from '@/engine/clock'
import type { TakeSound } from '@/state/soundKeeping'
import type { HeardPitch } from '../tracks/roll/heardPitch'
import { useProject, useSession } from '../workspace/sessionContext'

/** The sound that clips of a track were made of. */
export interface TrackSound extends PlacedSound {
  readonly take: TakeInfo
  readonly sound: TakeSound
}

/** The last second of a take is stored this much later. */
const storedWithinMs = 1600

/** The sounds of what is heard on a track; empty until they are found, and where it was played otherwise. */
export function useTrackSounds(track: Track | undefined): {
  sounds: readonly TrackSound[]
  lookAgain: () => void
} {
  const session = useSession()
  const project = useProject()
  const [found, setFound] = useState<readonly TrackSound[]>([])
  const [asked, setAsked] = useState(0)
  const serials = (track?.clips ?? []).flatMap(({ isSounding, takeSerial }) =>
    isSounding && takeSerial !== null ? [takeSerial] : [],
  )
  const wanted = serials.join()
  const takes = useMemo(
    () => project.takes.filter(({ serial }) => wanted.split(',').includes(String(serial))),
    [project.takes, wanted],
  )
  // biome-ignore lint/correctness/useExhaustiveDependencies: looked for again when that is asked for
  useEffect(() => {
    let isCurrent = true
    const look = async () => {
      const sounds = await Promise.all(
        takes.map(async (take) => {
          const ports = new Set(
            take.listeners.find(({ trackId }) => trackId === track?.id)?.routes.map(({ portId }) => portId),
          )
          const own = (await session.soundKeeping.soundsOf(take)).filter(({ portId }) => ports.has(portId))
          return own.map((sound) => ({ take, sound, ...placedSound(take, sound.portId) }))
        }),
      )
      if (isCurrent) setFound(sounds.flat())
    }
    const looked = () =>
      look().catch((error) =>
        session.notify(`The sound of the takes could not be looked for: ${error}`, true),
      )
    void looked()
    // What was played just now is not all stored yet.
    const nowMs = epochNowMs()
    const isFresh = takes.some((take) => stretchOf(take).toMs > nowMs - 2 * storedWithinMs)
    const again = isFresh ? setTimeout(() => void looked(), storedWithinMs) : undefined
    return () => {
      isCurrent = false
      clearTimeout(again)
    }
  }, [session, takes, track?.id, asked])
  return { sounds: found, lookAgain: () => setAsked((times) => times + 1) }
}

/** What was heard, for the roll. */
export function heardPitchOf(sounds: readonly TrackSound[]): HeardPitch[] {
  return sounds.flatMap(({ sound, ticksAt }) =>
    sound.outlines.flatMap(({ startMs, places, confidences }: KeptOutline) =>
      straightPieces(startMs, places.length, traceStepMs, ticksAt).map(
        ({ first, steps, startTicks, endTicks }) => ({
          startTicks,
          ticksPerStep: (endTicks - startTicks) / steps,
          places: places.slice(first, first + steps),
          confidences: confidences.slice(first, first + steps),
        }),
      ),
    ),
  )
}
