import { defineConfig } from '@playwright/test'
import chromium from './tests/chromium.json'

const port = Number(process.env.PORT ?? 3123)

export default defineConfig({
  testDir: 'tests/browser',
  timeout: 150_000,
  expect: { timeout: 15_000 },
  fullyParallel: false,
  workers: 1,
  // Most of these tests play and record in real time: on a machine that stalls, one more try tells a stall from a fault. What needed it
  // is named at the end.
  retries: 1,
  reporter: [['list'], ['json', { outputFile: 'test-results/browser.json' }]],
  use: {
    baseURL: `http://localhost:${port}`,
    viewport: { width: 1280, height: 800 },
    acceptDownloads: true,
    // Keeping the program in each of the browsers would be work for nothing; where that is tested, it is allowed.
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
