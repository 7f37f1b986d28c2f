import { type Browser, chromium } from '@playwright/test'
import { launchOptions } from '../tests/chromium.mjs'

/** The browser that the tests drive, with nothing in it. */
export const launchBrowser = (more: readonly string[] = []): Promise<Browser> =>
  chromium.launch({ ...launchOptions, args: [...launchOptions.args, ...more] })
