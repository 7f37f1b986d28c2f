/**
 * After the build: the service worker with the list of everything the program needs, each with a fingerprint of its content.
 */
import { readFileSync } from 'node:fs'
import { build } from 'esbuild'
import { injectManifest } from 'workbox-build'

const bundled = 'node_modules/.cache/serviceWorker.js'
await build({
  entryPoints: ['src/offline/serviceWorker.ts'],
  outfile: bundled,
  bundle: true,
  format: 'iife',
  target: 'es2022',
  legalComments: 'none',
  logLevel: 'warning',
  define: {
    'process.env.NODE_ENV': '"production"',
    'process.env.BUILD_ID': JSON.stringify(readFileSync('.next/BUILD_ID', 'utf8').trim()),
  },
})
const { count, size, warnings } = await injectManifest({
  swSrc: bundled,
  swDest: 'public/sw.js',
  globDirectory: '.',
  globPatterns: [
    '.next/static/**/*.{js,css,woff,woff2,wasm}',
    // The reader of chords.
    '.next/static/media/*.{bin,json}',
    'public/worklets/*.js',
    'public/icons/*.png',
    // What is heard first: the piano, the drums of the click, and the instruments of the demo.
    'public/instruments/{drums,program-000,program-011,program-046,program-073}.sf3',
  ],
  modifyURLPrefix: { '.next/static/': '/_next/static/', 'public/': '/' },
  // Names of the build's own files hold a fingerprint already.
  dontCacheBustURLsMatching: /^\/_next\/static\//,
  maximumFileSizeToCacheInBytes: 20 * 1024 * 1024,
})
for (const warning of warnings) process.stderr.write(`${warning}\n`)
process.stdout.write(`Without a network: ${count} files, ${(size / 1e6).toFixed(1)} MB\n`)
