/** @type {import('jest').Config} */
export default {
  testEnvironment: 'node',
  roots: ['<rootDir>/src', '<rootDir>/tools'],
  testMatch: ['**/*.test.ts'],
  moduleNameMapper: { '^@/(.*)$': '<rootDir>/src/$1' },
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
