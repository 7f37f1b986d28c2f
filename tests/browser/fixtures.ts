import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import {
  type BrowserContext,
  test as base,
  type ConsoleMessage,
  chromium,
  type Page,
  type WebError,
} from '@playwright/test'

import { keepBeginningsIn } from './beginnings'

export { expect, type Locator, type Page } from '@playwright/test'

/** The moment from which the clocks of all pages run faster than the machine's, where a project says so. */
const sinceMs = Date.now()

/** Has the program's clock run so many times as fast in every page of a context (src/engine/clock.ts). */
async function quicken(context: BrowserContext, times: number): Promise<void> {
  if (times === 1) return
  await context.addInitScript((name) => {
    window.name = name
  }, `clock × ${times} since ${sinceMs}`)
}

/** The code of the engraving library, as its package decodes it; loading it here is the only way to have it. */
async function engravingCode(): Promise<Uint8Array> {
  const { default: load } = await import('verovio/wasm')
  const { instantiate } = WebAssembly
  let code: Uint8Array | null = null
  WebAssembly.instantiate = ((bytes: Uint8Array, imports: WebAssembly.Imports) => {
    code = bytes
    return instantiate(bytes, imports)
  }) as typeof instantiate
  await load()
  WebAssembly.instantiate = instantiate
  if (!code) throw new Error('The engraving library was loaded without its code being seen')
  return code
}

/**
 * Compiles the engraving library in a page and holds it there: the browser compiles the same code once for all pages of a process, as long as
 * one of them has it.
 */
async function holdEngravingCode(page: Page): Promise<void> {
  await page.evaluate(
    async (base64) => {
      const code = Uint8Array.from(atob(base64), (letter) => letter.charCodeAt(0))
      Object.assign(globalThis, { heldCode: await WebAssembly.compile(code) })
    },
    Buffer.from(await engravingCode()).toString('base64'),
  )
}

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

export interface Pace {
  /** So many times as fast as the machine's time the program's clock runs. */
  clockTimes: number
}

interface Watched {
  /** Errors that a test brings about on purpose, by their words. */
  expectedErrors: { words: readonly RegExp[] }
  /** Fails the test when a page or worker of it reported an error that it does not expect. */
  noErrors: undefined
}

let browserThatGoesOn: BrowserContext | null = null

/** Every browser test fails on errors of its pages and their workers. This one has a browser context of its own, as the test sets it up. */
export const testByItself = base.extend<Watched, Pace>({
  clockTimes: [1, { option: true, scope: 'worker' }],
  expectedErrors: [{ words: [] }, { option: true }],
  noErrors: [
    async ({ context, expectedErrors, clockTimes }, use) => {
      if (context !== browserThatGoesOn) await quicken(context, clockTimes)
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
    async ({ launchOptions, clockTimes }, use, { project }) => {
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
      await quicken(context, clockTimes)
      // As long as a page of the program is open, so is its process, with what it has compiled.
      await context.pages()[0]!.goto('/icons/icon-192.png')
      await holdEngravingCode(context.pages()[0]!)
      keepBeginningsIn(context.pages()[0]!)
      browserThatGoesOn = context
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
