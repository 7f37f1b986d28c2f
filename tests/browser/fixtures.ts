import { type BrowserContext, test as base, type ConsoleMessage } from '@playwright/test'

export { expect, type Locator, type Page } from '@playwright/test'

/** Collects what goes wrong in the pages of a context and in their workers: errors nobody caught, errors on the console. */
export function watchErrors(context: BrowserContext): string[] {
  const errors: string[] = []
  const onConsole = (message: ConsoleMessage) => {
    if (message.type() === 'error') errors.push(`console: ${message.text()} (${message.location().url})`)
  }
  context.on('weberror', (error) => errors.push(`not caught: ${error.error().stack ?? error.error()}`))
  context.on('console', onConsole)
  return errors
}

interface Watched {
  /** Errors that a test brings about on purpose, by their words. */
  expectedErrors: { words: readonly RegExp[] }
  /** Fails the test when a page or worker of it reported an error that it does not expect. */
  noErrors: undefined
}

/** Every browser test fails on errors of its pages and their workers. */
export const test = base.extend<Watched>({
  expectedErrors: [{ words: [] }, { option: true }],
  noErrors: [
    async ({ context, expectedErrors }, use) => {
      const errors = watchErrors(context)
      await use(undefined)
      const unexpected = errors.filter((error) => !expectedErrors.words.some((words) => words.test(error)))
      if (unexpected.length > 0) throw new Error(`The page reported errors:\n${unexpected.join('\n')}`)
    },
    { auto: true },
  ],
})
