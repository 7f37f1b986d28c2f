/**
 * Checks the types: of everything together, and of each layer with only what its platform has, so that the core sees neither
 * browser nor Node.js.
 */
import { run } from './install.mjs'

/** By its path: the package that the check of units takes the older compiler from puts a `tsc` of its own beside it. */
const compiler = 'node_modules/typescript/bin/tsc'
const configurations = [
  'tsconfig.json',
  'tsconfig.core.json',
  'tsconfig.browser.json',
  'tsconfig.server.json',
]
const failed = []
for (const configuration of configurations)
  if (run('node', [compiler, '--noEmit', '-p', configuration]) !== 0) failed.push(configuration)
if (failed.length > 0) process.stderr.write(`Types do not hold: ${failed.join(', ')}\n`)
process.exit(failed.length > 0 ? 1 : 0)
