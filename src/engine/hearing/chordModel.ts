import { loadGraphModel } from '@tensorflow/tfjs-converter'
import * as tf from '@tensorflow/tfjs-core'
import '@tensorflow/tfjs-backend-wasm'
import { setWasmPaths } from '@tensorflow/tfjs-backend-wasm'
import type { HeardChords } from '@/core/pitch/readChords'
import { chordFrameSamples, keysOfModel } from '@/core/pitch/readChords'
import { hastenNarrowRows } from './narrowRows'

/** What the reader of chords is made of: files of the package @spotify/basic-pitch (Apache-2.0), whose weights are in it. */
export interface ChordModelFiles {
  /** Text of model.json. */
  readonly topology: string
  readonly weights: ArrayBuffer
  /** Where the files of @tensorflow/tfjs-backend-wasm are, ending in a slash; or each by its name. */
  readonly wasm: string | Record<string, string>
}

/** The network hears this much at a time, and gives this many frames for it. */
const windowSamples = 43_844
const windowFrames = 172
/** At the edges of what it hears it knows too little. */
const edgeFrames = 16
const keptFrames = windowFrames - 2 * edgeFrames

/** Names of what the network gives: which keys sound, and which begin. */
const soundingName = 'Identity_1'
const beginningName = 'Identity_2'

export type ChordModel = Awaited<ReturnType<typeof loadChordModel>>

/**
 * Loads the network that hears several notes at once.
 *
 * Source: R. M. Bittner and others, "A Lightweight Instrument-Agnostic Model for Polyphonic Note Transcription and Multipitch Estimation",
 * ICASSP 2022.
 */
export async function loadChordModel({ topology, weights, wasm }: ChordModelFiles) {
  setWasmPaths(wasm)
  await tf.setBackend('wasm')
  await tf.ready()
  hastenNarrowRows()
  const { modelTopology, weightsManifest, format, generatedBy, convertedBy } = JSON.parse(topology)
  const model = await loadGraphModel({
    load: async () => ({
      modelTopology,
      format,
      generatedBy,
      convertedBy,
      weightSpecs: weightsManifest.flatMap((group: { weights: unknown[] }) => group.weights),
      weightData: weights,
    }),
  })
  return {
    /**
     * Listens to a whole sound, a window of a second and a half at a time.
     *
     * @param samples one channel at 22,050 Hz
     * @yields the part that is done, from 0 to 1
     */
    *hear(samples: Float32Array): Generator<number, HeardChords, void> {
      const frames = Math.ceil(samples.length / chordFrameSamples)
      const sounding = new Float32Array(frames * keysOfModel)
      const beginning = new Float32Array(frames * keysOfModel)
      const window = new Float32Array(windowSamples)
      for (let first = 0; first < frames; first += keptFrames) {
        const from = (first - edgeFrames) * chordFrameSamples
        for (let index = 0; index < windowSamples; index++) window[index] = samples[from + index] ?? 0
        const [heard, begun] = tf.tidy(() => {
          const input = tf.tensor(window, [1, windowSamples, 1])
          const given = model.execute(input, [soundingName, beginningName]) as tf.Tensor[]
          return given.map((tensor) => tensor.dataSync() as Float32Array)
        })
        const count = Math.min(keptFrames, frames - first)
        const kept = [edgeFrames * keysOfModel, (edgeFrames + count) * keysOfModel] as const
        sounding.set(heard!.subarray(...kept), first * keysOfModel)
        beginning.set(begun!.subarray(...kept), first * keysOfModel)
        yield (first + count) / frames
      }
      return { frames, sounding, beginning }
    },
  }
}
