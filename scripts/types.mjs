/**
 * Checks the types: of everything together, and of each layer with only what its platform has, so that the core sees neither
 * browser nor Node.js; then that units of measure are not mixed (tools/units).
 */
import { run } from './install.mjs'

const configurations = [
  'tsconfig.json',
  'tsconfig.core.json',
  'tsconfig.browser.json',
  'tsconfig.server.json',
]
const failed = configurations.filter(
  (configuration) => run('npx', ['tsc', '--noEmit', '-p', configuration]) !== 0,
)
if (run('npx', ['tsx', 'tools/units/check.ts']) !== 0) failed.push('units of measure')
if (failed.length > 0) process.stderr.write(`Types do not hold: ${failed.join(', ')}\n`)
process.exit(failed.length > 0 ? 1 : 0)
