/**
 * `npm run build:command`: the batch command as a program that starts at once. What it needs of the packages is inside, but for
 * those that bring files of their own or are only loaded for some commands.
 */
import { renameSync, rmSync } from 'node:fs'
import { build } from 'esbuild'

const built = 'built-command'
/** Whole or not there, whoever else starts the command meanwhile. */
const outdir = `${built}-${process.pid}`
await build({
  entryPoints: ['src/cli/unbroken.ts'],
  outdir,
  outExtension: { '.js': '.mjs' },
  bundle: true,
  // Each command loads what it needs and no more.
  splitting: true,
  platform: 'node',
  format: 'esm',
  target: 'node20',
  minify: true,
  keepNames: false,
  legalComments: 'none',
  logLevel: 'warning',
  external: [
    '@spotify/*',
    '@tensorflow/*',
    'abcjs',
    'pdfkit',
    'spessasynth_core',
    'verovio',
    'wasm-media-encoders',
  ],
  // Packages in the older form of modules ask for others by `require`.
  banner: {
    js: "import { createRequire as makeRequire } from 'node:module'; const require = makeRequire(import.meta.url);",
  },
})
rmSync(built, { recursive: true, force: true })
try {
  renameSync(outdir, built)
} catch (error) {
  // Another start has put the same there in this moment.
  if (error.code !== 'ENOTEMPTY' && error.code !== 'EEXIST') throw error
  rmSync(outdir, { recursive: true, force: true })
}
