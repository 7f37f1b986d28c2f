/** A note as a model of an instrument plays it. */
export interface PlayedTone {
  /** 60 is middle C. */
  readonly key: number
  /** Above the key, as nobody is quite in tune. */
  readonly offCents: number
  /** How long it is held; it rings a little longer. */
  readonly seconds: number
  /** From 1 to 127. */
  readonly velocity: number
  /** Whatever is left to chance follows from this. */
  readonly seed: number
}

export const frequencyHzOf = ({ key, offCents }: PlayedTone) => 440 * 2 ** ((key - 69 + offCents / 100) / 12)

/** Chance that is the same for a seed: numbers from −1 to 1 (a linear congruential generator, Numerical Recipes). */
export function noiseFrom(seed: number): () => number {
  let state = (seed * 2_654_435_761) >>> 0
  return () => {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0
    return state / 0x8000_0000 - 1
  }
}

/** The last hundredth of a second sinks to nothing, so that no note ends with a click. */
export function fadedOut(samples: Float32Array, sampleRate: number): Float32Array {
  const fade = Math.min(samples.length, Math.round(sampleRate / 100))
  for (let index = 0; index < fade; index++) samples[samples.length - 1 - index]! *= index / fade
  return samples
}
