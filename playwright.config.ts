import { defineConfig } from '@playwright/test'
import chromium from './tests/chromium.json'

/** What is heard, timed or cut off while it happens is tested on a machine that does nothing else, one test after another. */
const inRealTime = /(busyPage|microphone|microphoneChords|recovery|soundIn|soundKept)\.spec\.ts$/

const port = Number(process.env.PORT ?? 3123)

export default defineConfig({
  testDir: 'tests/browser',
  timeout: 150_000,
  expect: { timeout: 15_000 },
  fullyParallel: false,
  workers: 1,
  projects: [
    { name: 'side by side', testIgnore: inRealTime },
    { name: 'in real time', testMatch: inRealTime },
  ],
  reporter: [['list'], ['json', { outputFile: 'test-results/browser.json' }]],
  use: {
    baseURL: `http://localhost:${port}`,
    viewport: { width: 1280, height: 800 },
    acceptDownloads: true,
    // Each test has a browser of its own: keeping the program in it would be work for nothing.
    serviceWorkers: 'block',
    launchOptions: {
      executablePath: process.env.CHROMIUM ?? chromium.path,
      args: chromium.arguments,
    },
  },
  webServer: {
    command: `npx next start -p ${port}`,
    port,
    reuseExistingServer: false,
    gracefulShutdown: { signal: 'SIGTERM', timeout: 3000 },
  },
})
