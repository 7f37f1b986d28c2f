import { encodeFlac, encoderReady } from './encodeFlac'
import { Keeper } from './keeper'
import type { FromKeeper, SoundToKeep, ToKeeper } from './keeperProtocol'
import { keptSounds } from './keptSounds'

/** A thread of its own makes sound small and stores it: neither who listens nor the page waits for a disk. */
const keeper = encoderReady().then(
  () =>
    new Keeper({
      encode: encodeFlac,
      put: keptSounds.put,
      tell: (message: FromKeeper) => self.postMessage(message),
      later: (work, afterMs) => setTimeout(work, afterMs),
    }),
)

self.onmessage = ({ data }: MessageEvent<ToKeeper>) => {
  const { projectId, port } = data
  port.onmessage = ({ data: sound }: MessageEvent<SoundToKeep>) =>
    void keeper.then((each) => each.take(projectId, sound))
}
