/**
 * Stands for `fast-check` in unit tests. The same commit gives the same answer: properties are tried from a fixed seed, unless
 * `PROPERTY_SEED` names another one, and `PROPERTY_TIMES` times as often as they say (`npm run test:long`).
 */
const { default: fastCheck } = require('../../node_modules/fast-check/lib/cjs/fast-check.js')

const usualRuns = 100
const seed = Number(process.env.PROPERTY_SEED ?? 1)
const times = Number(process.env.PROPERTY_TIMES ?? 1)

exports.__esModule = true
exports.default = {
  ...fastCheck,
  assert: (property, parameters = {}) =>
    fastCheck.assert(property, {
      seed,
      ...parameters,
      numRuns: (parameters.numRuns ?? usualRuns) * times,
    }),
}
