/** @type {import('jest').Config} */
export default {
  testEnvironment: '<rootDir>/tools/jest/environment.mjs',
  roots: ['<rootDir>/src', '<rootDir>/tools'],
  testMatch: ['**/*.test.ts'],
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
