import { keyOfFrequency } from './listenerSettings'
import { likeliestOf } from './periods'
import type { SoundFrame } from './soundFrames'

/** About a period of vibrato, in frames: over it, what sways has its middle. Where no note lasts so long, the shorter time has to do. */
const swayFrames = [18, 7]
/** What moves further within that time has no middle. */
const widestSwayKeys = 1.3

/**
 * How far an instrument is tuned above concert pitch, in cents from −50 to 50: the mean direction of all clear pitches around the circle of
 * a semitone, so that it does not matter which keys they are. Each is taken as the middle of the time around it, since vibrato stays
 * longest where it turns.
 *
 * @returns 0 when there is no pitch, or pitches lie all over (a singer who slides)
 */
export function tuningOf(frames: readonly SoundFrame[], concertHz: number): number {
  const pitches = frames.map(({ candidates, clarity }) => {
    const best = likeliestOf(candidates)
    return best && best.probability > 0.5 && clarity > 0.85
      ? keyOfFrequency(best.frequencyHz, concertHz)
      : null
  })
  for (const frameCount of swayFrames) {
    const cents = middleOf(pitches, frameCount)
    if (cents !== null) return cents
  }
  return 0
}

/** @returns null when nothing lasts so long; 0 when pitches lie all over */
function middleOf(pitches: readonly (number | null)[], frameCount: number): number | null {
  let cosine = 0
  let sine = 0
  let all = 0
  for (let from = 0; from + frameCount <= pitches.length; from++) {
    const around = pitches.slice(from, from + frameCount)
    const known = around.filter((pitch) => pitch !== null)
    const wide = Math.max(...known) - Math.min(...known)
    if (known.length < frameCount * 0.8 || wide > widestSwayKeys) continue
    const angle = (2 * Math.PI * known.reduce((sum, pitch) => sum + pitch, 0)) / known.length
    cosine += Math.cos(angle)
    sine += Math.sin(angle)
    all++
  }
  if (all === 0) return null
  if (Math.hypot(cosine, sine) / all < 0.25) return 0
  return (Math.atan2(sine, cosine) / (2 * Math.PI)) * 100
}
