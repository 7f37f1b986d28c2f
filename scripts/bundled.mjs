/** Compiles a program as the application is compiled (no helpers around functions) and runs it. */
import { mkdirSync } from 'node:fs'
import { build } from 'esbuild'
import { run } from './install.mjs'

/** @returns its exit status */
export async function runBundled(entry, name, args) {
  mkdirSync('node_modules/.cache', { recursive: true })
  const outfile = `node_modules/.cache/${name}.mjs`
  await build({
    entryPoints: [entry],
    outfile,
    bundle: true,
    platform: 'node',
    format: 'esm',
    packages: 'external',
    logLevel: 'warning',
  })
  return run('node', [outfile, ...args])
}
