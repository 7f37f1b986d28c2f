import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Page } from '@playwright/test'
import { joined } from '@/core/pitch/tones.testing'
import { blownPipe } from '@/core/sound/models/blownPipe'
import { writeWav } from '@/core/sound/wav'
import { fakeDevice } from '../fakeDevice'
import { expect, testByItself as test } from '../fixtures'
import { chooseTrack, goTo, newPiece } from '../helpers'

/** What the browser's own fake device plays over and over: a tone, silence, the tone far too loud, and far too soft; then chords. */
const rate = 48_000
const tone = blownPipe({ key: 62, offCents: 0, seconds: 8, velocity: 100, seed: 3 }, rate)
const loud = tone.map((sample) => Math.max(-1, Math.min(1, sample * 40)))
const soft = tone.map((sample) => sample * 0.02)
const silence = new Float32Array(7 * rate)
const folder = mkdtempSync(join(tmpdir(), 'microphone-'))
const file = join(folder, 'played.wav')
writeFileSync(file, writeWav(joined([tone, silence, loud, soft]), rate, 16))

test.use({ launchOptions: fakeDevice(file) })

async function listen(page: Page): Promise<void> {
  await goTo(page, 'Players')
  const panel = page.getByRole('complementary', { name: 'The wiring' })
  await panel.getByText('Sound in', { exact: true }).click()
  await panel.getByRole('button', { name: 'Listen', exact: true }).click()
}
const card = (page: Page) => page.locator('[data-source]').filter({ hasText: 'The system’s input' })

test('a microphone is followed; what is wrong with its sound is said', async ({ page }) => {
  await newPiece(page)
  await listen(page)
  await expect(card(page).getByText('good')).toBeVisible()
  // The D of the tone, wherever the fake device is in its file.
  await expect(card(page).getByText('D4', { exact: true })).toBeVisible({ timeout: 40_000 })
  const status = card(page).getByRole('status')
  for (const words of [/Nothing is to be heard/, /too loud for the input/, /The sound is weak/])
    await expect(status.filter({ hasText: words })).toBeVisible({ timeout: 45_000 })
  // What the machine has is named now.
  await card(page)
    .getByRole('button', { name: /^Settings of/ })
    .click()
  expect(await card(page).getByLabel('input', { exact: true }).locator('option').count()).toBeGreaterThan(4)
  await card(page).getByLabel('channel of the input').fill('7')
  await card(page).getByLabel('channel of the input').press('Enter')
  await expect(status.filter({ hasText: /channel 7 is silent/ })).toBeVisible()
})

test('an input that is taken away while it is recorded: what was played is kept, and it is listened to again', async ({
  page,
}) => {
  await page.addInitScript(() => {
    const streams: MediaStream[] = []
    const original = navigator.mediaDevices.getUserMedia.bind(navigator.mediaDevices)
    navigator.mediaDevices.getUserMedia = async (constraints) => {
      const stream = await original(constraints)
      streams.push(stream)
      return stream
    }
    Object.assign(window, {
      unplug: () => {
        for (const track of streams.flatMap((stream) => stream.getTracks())) {
          track.stop()
          track.dispatchEvent(new Event('ended'))
        }
      },
    })
  })
  await newPiece(page)
  await listen(page)
  await expect(card(page).getByText('D4', { exact: true })).toBeVisible({ timeout: 40_000 })
  await goTo(page, 'Record')
  await page.getByRole('button', { name: /^Record everyone/ }).click()
  await expect(page.getByRole('status').filter({ hasText: /^Recording/ })).toBeVisible({ timeout: 20_000 })
  // A whole turn of the file: the tone is in it.
  await page.waitForTimeout(33_000)
  await page.evaluate(() => (window as unknown as { unplug(): void }).unplug())
  await goTo(page, 'Players')
  await expect(card(page)).toContainText('was taken away')
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  await goTo(page, 'Record')
  await expect(page.getByTestId('take-account')).toContainText(/\d+ on tracks/)
  await goTo(page, 'Players')
  // Plugged in again, it is listened to by itself.
  await page.evaluate(() => navigator.mediaDevices.dispatchEvent(new Event('devicechange')))
  await expect(card(page).getByText('good')).toBeVisible()
  await goTo(page, 'Tracks')
  await chooseTrack(page, 'The system’s input')
  await expect(page.getByTestId('kept-sound')).toBeVisible()
})

test('an input that was a stand-in’s becomes the microphone’s: who plays and records is none the worse', async ({
  page,
}) => {
  await newPiece(page)
  await goTo(page, 'Players')
  const panel = page.getByRole('complementary', { name: 'The wiring' })
  await panel.getByText('Sound in', { exact: true }).click()
  await panel.getByLabel('input', { exact: true }).selectOption({ label: 'Tove’s guitar (stand-in)' })
  const button = panel.getByRole('button', { name: 'Listen', exact: true })
  await button.click()
  const seat = page.locator('[data-source]').filter({ hasText: 'Tove’s guitar' })
  await expect(seat).toContainText('Plays when you record')
  // A second press would seat nobody else.
  await expect(button).toBeDisabled()
  await expect(panel).toContainText('Tove’s guitar has a seat already.')
  await seat.getByRole('button', { name: /^Settings of/ }).click()
  await seat.getByLabel('input', { exact: true }).selectOption({ label: 'The system’s input' })
  await expect(seat.getByText('D4', { exact: true })).toBeVisible({ timeout: 40_000 })
  await goTo(page, 'Record')
  await page.getByRole('button', { name: /^Record everyone/ }).click()
  await expect(page.getByRole('status').filter({ hasText: /^Recording/ })).toBeVisible({ timeout: 20_000 })
  await page.keyboard.press('a')
  await page.waitForTimeout(1500)
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  await expect(page.getByTestId('take-account')).toContainText(/on tracks/)
})
