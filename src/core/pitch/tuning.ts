import { keyOfFrequency } from './listenerSettings'
import type { SoundFrame } from './soundFrames'

/**
 * How far an instrument is tuned above concert pitch, in cents from −50 to 50: the mean direction of all clear pitches around the circle of
 * a semitone, so that it does not matter which keys they are.
 *
 * @returns 0 when there is no pitch, or pitches lie all over (a singer who slides)
 */
export function tuningOf(frames: readonly SoundFrame[], concertHz: number): number {
  let cosine = 0
  let sine = 0
  let all = 0
  for (const { candidates, clarity } of frames) {
    if (clarity < 0.85) continue
    for (const { frequencyHz, probability } of candidates) {
      const angle = 2 * Math.PI * keyOfFrequency(frequencyHz, concertHz)
      cosine += probability * Math.cos(angle)
      sine += probability * Math.sin(angle)
      all += probability
    }
  }
  if (all === 0 || Math.hypot(cosine, sine) / all < 0.25) return 0
  return (Math.atan2(sine, cosine) / (2 * Math.PI)) * 100
}
