import type { Page } from '@playwright/test'
import { launchOptions } from '../chromium.mjs'
import { goTo } from './helpers'

/** How a browser is started that has one microphone, which plays a file over and over and may be listened to. */
export function fakeDevice(file: string) {
  return {
    ...launchOptions,
    args: [
      ...launchOptions.args,
      '--use-fake-device-for-media-stream',
      '--use-fake-ui-for-media-stream',
      `--use-file-for-fake-audio-capture=${file}`,
    ],
  }
}

/** Seats the microphone as a player. */
export async function listen(page: Page): Promise<void> {
  await goTo(page, 'Players')
  const panel = page.getByRole('complementary', { name: 'The wiring' })
  await panel.getByText('Sound in', { exact: true }).click()
  await panel.getByRole('button', { name: 'Listen', exact: true }).click()
}

/** Its card among those who play. */
export const card = (page: Page) => page.locator('[data-source]').filter({ hasText: 'The system’s input' })
