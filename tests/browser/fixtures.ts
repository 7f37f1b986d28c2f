import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import {
  type BrowserContext,
  test as base,
  type ConsoleMessage,
  chromium,
  type WebError,
} from '@playwright/test'

export { expect, type Locator, type Page } from '@playwright/test'

/**
 * Collects what goes wrong in the pages of a context and in their workers: errors nobody caught, errors on the console.
 *
 * @returns the errors, and the end of collecting
 */
export function watchErrors(context: BrowserContext): { errors: readonly string[]; end(): void } {
  const errors: string[] = []
  const onConsole = (message: ConsoleMessage) => {
    if (message.type() === 'error') errors.push(`console: ${message.text()} (${message.location().url})`)
  }
  const onError = (error: WebError) => {
    errors.push(`not caught: ${error.error().stack ?? error.error()}`)
  }
  context.on('weberror', onError)
  context.on('console', onConsole)
  return {
    errors,
    end() {
      context.off('weberror', onError)
      context.off('console', onConsole)
    },
  }
}

interface Watched {
  /** Errors that a test brings about on purpose, by their words. */
  expectedErrors: { words: readonly RegExp[] }
  /** Fails the test when a page or worker of it reported an error that it does not expect. */
  noErrors: undefined
}

/** Every browser test fails on errors of its pages and their workers. This one has a browser context of its own, as the test sets it up. */
export const testByItself = base.extend<Watched>({
  expectedErrors: [{ words: [] }, { option: true }],
  noErrors: [
    async ({ context, expectedErrors }, use) => {
      const watch = watchErrors(context)
      await use(undefined)
      watch.end()
      const unexpected = watch.errors.filter(
        (error) => !expectedErrors.words.some((words) => words.test(error)),
      )
      if (unexpected.length > 0) throw new Error(`The page reported errors:\n${unexpected.join('\n')}`)
    },
    { auto: true },
  ],
})

/**
 * A test in a browser that goes on from test to test, so that the program is not compiled anew for each (half of the work of opening
 * it). Each begins with nothing stored, no permissions and no pages.
 */
export const test = testByItself.extend<object, { goesOn: BrowserContext }>({
  goesOn: [
    async ({ launchOptions }, use, { project }) => {
      const profile = mkdtempSync(join(tmpdir(), 'unbroken-browser-'))
      const { baseURL, viewport, acceptDownloads, serviceWorkers } = project.use
      const context = await chromium.launchPersistentContext(profile, {
        ...launchOptions,
        args: [...(launchOptions.args ?? []), '--process-per-site'],
        baseURL,
        viewport,
        acceptDownloads,
        serviceWorkers,
      })
      await context.addInitScript(() => {
        Object.assign(globalThis, { isNothingPreparedAhead: true })
      })
      // As long as a page of the program is open, so is its process, with what it has compiled.
      await context.pages()[0]!.goto('/icons/icon-192.png')
      await use(context)
      await context.close()
      rmSync(profile, { recursive: true, force: true })
    },
    { scope: 'worker' },
  ],
  context: async ({ goesOn, baseURL }, use) => {
    await use(goesOn)
    const [first, ...opened] = goesOn.pages()
    for (const page of opened) await page.close()
    await goesOn.clearPermissions()
    const devTools = await goesOn.newCDPSession(first!)
    await devTools.send('Storage.clearDataForOrigin', {
      origin: new URL(baseURL!).origin,
      storageTypes: 'cookies,file_systems,indexeddb,local_storage,service_workers,cache_storage',
    })
    await devTools.detach()
  },
  page: async ({ context }, use) => use(await context.newPage()),
})
