import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { chromium, expect, test } from '@playwright/test'
import browserToUse from '../chromium.json'
import { goTo, newPiece } from './helpers'

test('the browser is killed in the middle of recording: the take is there when it is opened again', async ({
  baseURL,
}) => {
  const profile = mkdtempSync(join(tmpdir(), 'unbroken-profile-'))
  const launch = () =>
    chromium.launchPersistentContext(profile, {
      executablePath: process.env.CHROMIUM ?? browserToUse.path,
      args: browserToUse.arguments,
      viewport: { width: 1280, height: 800 },
      baseURL,
    })
  try {
    const first = await launch()
    const page = await first.newPage()
    await newPiece(page)
    await page.getByRole('button', { name: 'Seat six players' }).click()
    await goTo(page, 'Record')
    await page.getByRole('button', { name: 'Record everyone' }).click()
    await expect(page.getByTestId('position')).toHaveText(/^2 · [34] · /, { timeout: 30_000 })
    const address = page.url()
    // Killed, not closed: no page gets a last word.
    execFileSync('pkill', ['-9', '-f', profile])
    await first.close().catch(() => undefined)

    const second = await launch()
    const again = await second.newPage()
    await again.goto(address)
    await expect(again.getByText('A recording was cut off when this page closed.')).toBeVisible({
      timeout: 20_000,
    })
    await again.getByRole('button', { name: 'Bring it back as a take' }).click()
    await goTo(again, 'Record')
    await expect(again.getByTestId('take-account')).toContainText(/Take 1: (\d\d+) notes heard, \1 on tracks/)
    await expect(again.getByText(/events as played · on 6 tracks/)).toBeVisible()
    await second.close()
  } finally {
    rmSync(profile, { recursive: true, force: true })
  }
})
