import { type KeptOutline, peaksOf } from '@/core/sound/keptSound'
import { encodeFlac, encoderReady } from './encodeFlac'
import type { FromKeeper, SoundToKeep, ToKeeper } from './keeperProtocol'
import { keptSounds } from './keptSounds'

/** What could not be stored is held for this long, in pieces of a second, in case there is room again. */
const mostHeld = 60

/** A thread of its own makes sound small and stores it: neither who listens nor the page waits for a disk. */
const held: { projectId: string; outline: KeptOutline; flac: Uint8Array }[] = []
let isStoring = false
let isFull = false

function tell(message: FromKeeper): void {
  self.postMessage(message)
}

async function keep(projectId: string, { samples, ...sound }: SoundToKeep): Promise<void> {
  await encoderReady()
  const flac = encodeFlac(samples, sound.sampleRate)
  const peaks = peaksOf(samples, sound.sampleRate)
  held.push({
    projectId,
    outline: { ...sound, sampleCount: samples.length, byteLength: flac.byteLength, peaks },
    flac,
  })
  if (held.length > mostHeld) held.shift()
  if (isStoring) return
  isStoring = true
  try {
    while (held[0]) {
      const { projectId: of, outline, flac: bytes } = held[0]
      await keptSounds.put(of, outline, bytes)
      held.shift()
      if (isFull) tell({ type: 'room' })
      isFull = false
    }
  } catch (error) {
    if (!isFull) tell({ type: 'full', reason: String(error) })
    isFull = true
  } finally {
    isStoring = false
  }
}

self.onmessage = ({ data }: MessageEvent<ToKeeper>) => {
  const { projectId, port } = data
  port.onmessage = (event: MessageEvent<SoundToKeep>) => {
    keep(projectId, event.data).catch((error) => tell({ type: 'full', reason: String(error) }))
  }
}
