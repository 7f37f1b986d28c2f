/** `npm run bench`: compiles the bench as the application is compiled (no helpers around functions) and runs it. */
import { mkdirSync } from 'node:fs'
import { build } from 'esbuild'
import { installChromium, installPackages, run } from './install.mjs'

installPackages()
installChromium()
mkdirSync('node_modules/.cache', { recursive: true })
await build({
  entryPoints: ['bench/run.ts'],
  outfile: 'node_modules/.cache/bench.mjs',
  bundle: true,
  platform: 'node',
  format: 'esm',
  packages: 'external',
  logLevel: 'warning',
})
process.exit(run('node', ['node_modules/.cache/bench.mjs', ...process.argv.slice(2)]))
