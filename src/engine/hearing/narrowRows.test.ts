import * as tf from '@tensorflow/tfjs-core'
import '@tensorflow/tfjs-backend-wasm'
import { setWasmPaths } from '@tensorflow/tfjs-backend-wasm'
import fc from 'fast-check'
import { inProject } from '@/rendering/projectFolder'
import { hastenNarrowRows } from './narrowRows'

const shapes = fc.tuple(...[3, 5, 6].map((most) => fc.integer({ min: 1, max: most })), fc.constantFrom(1, 3))
const counted = (shape: readonly number[], first: number) =>
  tf.tensor(
    Array.from({ length: shape.reduce((product, side) => product * side, 1) }, (_, index) => first + index),
    [...shape],
  )
/** Cut out of the middle, and joined along each axis. */
const worked = (shape: readonly number[]) =>
  tf.tidy(() => {
    const [one, two] = [counted(shape, 0), counted(shape, 1000)]
    const begin = shape.map((side) => Math.floor(side / 3))
    const size = shape.map((side, axis) => Math.max(1, side - begin[axis]! - (axis === 2 ? 1 : 0)))
    const cut = tf.slice(one, begin, size)
    const joined = shape.map((_, axis) => tf.concat([one, two, one], axis))
    return [cut, ...joined].map((tensor) => ({ shape: tensor.shape, values: [...tensor.dataSync()] }))
  })

test('tensors of any shape are cut and joined as by the library itself', async () => {
  setWasmPaths(`${inProject('node_modules', '@tensorflow', 'tfjs-backend-wasm', 'dist')}/`)
  await tf.setBackend('wasm')
  await tf.ready()
  const asked = fc.sample(shapes, { seed: 1, numRuns: 40 })
  const usual = asked.map(worked)
  hastenNarrowRows()
  // Asked twice, it is done once.
  hastenNarrowRows()
  expect(asked.map(worked)).toEqual(usual)
})
