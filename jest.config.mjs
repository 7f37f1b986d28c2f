/**
 * Names that numeric code asks for all the time. A test file runs in a context of its own, where every look at a global name goes
 * through an interceptor; given as parameters of each module they are found at once (a study of rhythms: 70 s before, 6 s after).
 * `Number` is not among them: a package declares a constant of that name.
 */
const oftenUsedGlobals = [
  'Array',
  'ArrayBuffer',
  'BigInt',
  'Boolean',
  'DataView',
  'Date',
  'Error',
  'Float32Array',
  'Float64Array',
  'Int16Array',
  'Int32Array',
  'Int8Array',
  'JSON',
  'Map',
  'Math',
  'Object',
  'Promise',
  'Proxy',
  'Reflect',
  'RegExp',
  'Set',
  'String',
  'Symbol',
  'Uint16Array',
  'Uint32Array',
  'Uint8Array',
  'Uint8ClampedArray',
  'WeakMap',
  'WeakSet',
  'parseFloat',
  'parseInt',
  'structuredClone',
]

/** @type {import('jest').Config} */
export default {
  testEnvironment: '<rootDir>/tools/jest/environment.mjs',
  roots: ['<rootDir>/src', '<rootDir>/tools'],
  testMatch: ['**/*.test.ts'],
  sandboxInjectedGlobals: oftenUsedGlobals,
  maxWorkers: 2,
  testSequencer: '<rootDir>/tools/jest/longestFirst.cjs',
  moduleNameMapper: {
    '^@/(.*)$': '<rootDir>/src/$1',
    '^fast-check$': '<rootDir>/tools/jest/fastCheck.cjs',
    '^verovio/(esm|wasm)$': '<rootDir>/tools/jest/engravingLibrary.cjs',
  },
  transform: {
    '^.+\\.(ts|tsx|js|mjs)$': [
      '@swc/jest',
      {
        jsc: { parser: { syntax: 'typescript', tsx: true }, target: 'es2022' },
        module: { type: 'commonjs' },
      },
    ],
  },
  testTimeout: 120_000,
  transformIgnorePatterns: [
    '/node_modules/(?!(@eshaz|@wasm-audio-decoders|codec-parser|fflate|idb|musicxml-io|simple-yenc|spessasynth_core|stb-vorbis|immer|zod|zustand)/)',
  ],
}
