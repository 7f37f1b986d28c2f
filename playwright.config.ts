import { defineConfig } from '@playwright/test'
import type { Pace } from './tests/browser/fixtures'
import { launchOptions } from './tests/chromium.mjs'

const port = Number(process.env.PORT ?? 3123)

export default defineConfig<object, Pace>({
  testDir: 'tests/browser',
  timeout: 150_000,
  expect: { timeout: 25_000 },
  fullyParallel: false,
  workers: 2,
  // `npm test` asks for the counts, in a file that it names.
  reporter: process.env.PLAYWRIGHT_JSON_OUTPUT_FILE ? [['list'], ['json']] : 'list',
  use: {
    baseURL: `http://localhost:${port}`,
    viewport: { width: 1280, height: 800 },
    acceptDownloads: true,
    // Keeping the program in each of the browsers would be work for nothing; where that is tested, it is allowed.
    serviceWorkers: 'block',
    launchOptions,
  },
  projects: [
    // The program's clock runs fast: whoever plays minutes is done in seconds.
    { name: 'driven', testDir: 'tests/browser/driven', use: { clockTimes: 4 } },
    // Sound that comes in, and clocks that are followed, take the time they take, and both cores.
    { name: 'realtime', testDir: 'tests/browser/realtime', workers: 1 },
  ],
  webServer: {
    command: `npx next start -p ${port}`,
    port,
    reuseExistingServer: false,
    gracefulShutdown: { signal: 'SIGTERM', timeout: 3000 },
  },
})
