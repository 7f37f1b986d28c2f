/** Bundles the audio worklets into public/worklets: the framework's bundler leaves worklets alone. */
import { build } from 'esbuild'

await build({
  entryPoints: { synth: 'src/engine/synth/synth.worklet.ts' },
  outdir: 'public/worklets',
  bundle: true,
  format: 'esm',
  target: 'es2022',
  minify: true,
  legalComments: 'none',
  logLevel: 'warning',
})
