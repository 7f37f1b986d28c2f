/**
 * Bundles what the framework's bundler leaves alone: the audio worklets, into public/worklets, and the threads of the
 * server, into server-threads.
 */
import { build } from 'esbuild'

const common = { bundle: true, format: 'esm', legalComments: 'none', logLevel: 'warning' }

await build({
  ...common,
  entryPoints: { synth: 'src/engine/synth/synth.worklet.ts', ear: 'src/engine/soundInput/ear.worklet.ts' },
  outdir: 'public/worklets',
  target: 'es2022',
  minify: true,
})
await build({
  ...common,
  format: 'iife',
  entryPoints: { keeper: 'src/engine/keptSound/keeper.thread.ts' },
  outdir: 'public/worklets',
  target: 'es2022',
  minify: true,
  // The encoder asks for these where it runs outside a browser.
  external: ['fs', 'path', 'crypto'],
})
await build({
  ...common,
  entryPoints: { score: 'src/server/score.thread.ts' },
  outdir: 'server-threads',
  outExtension: { '.js': '.mjs' },
  platform: 'node',
  packages: 'external',
  target: 'node20',
})
