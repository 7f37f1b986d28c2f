import { readFileSync } from 'node:fs'
import { loadChordModel } from '@/engine/hearing/chordModel'
import { inProject } from './projectFolder'

/** The reader of chords, from the files of its packages. */
export async function chordModel() {
  const ofModel = (file: string) => inProject('node_modules', '@spotify', 'basic-pitch', 'model', file)
  const weights = readFileSync(ofModel('group1-shard1of1.bin'))
  return loadChordModel({
    topology: readFileSync(ofModel('model.json'), 'utf8'),
    weights: weights.buffer.slice(weights.byteOffset, weights.byteOffset + weights.byteLength) as ArrayBuffer,
    wasm: `${inProject('node_modules', '@tensorflow', 'tfjs-backend-wasm', 'dist')}/`,
  })
}
