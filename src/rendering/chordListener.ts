import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { loadChordModel } from '@/engine/hearing/chordModel'

/** Where the packages are: these commands are run from the project's own folder. */
const model = 'node_modules/@spotify/basic-pitch/model'
const wasm = 'node_modules/@tensorflow/tfjs-backend-wasm/dist'

/** The reader of chords, from the files of its packages. */
export async function chordModel() {
  const weights = readFileSync(join(model, 'group1-shard1of1.bin'))
  return loadChordModel({
    topology: readFileSync(join(model, 'model.json'), 'utf8'),
    weights: weights.buffer.slice(weights.byteOffset, weights.byteOffset + weights.byteLength) as ArrayBuffer,
    wasm: `${join(process.cwd(), wasm)}/`,
  })
}
