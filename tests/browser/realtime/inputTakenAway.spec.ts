import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { joined } from '@/core/pitch/tones.testing'
import { blownPipe } from '@/core/sound/models/blownPipe'
import { writeWav } from '@/core/sound/wav'
import { card, fakeDevice, listen } from '../fakeDevice'
import { expect, testByItself as test } from '../fixtures'
import { chooseTrack, goTo, newPiece } from '../helpers'

/** What the browser's own fake device plays over and over: a tone, and silence. */
const rate = 48_000
const tone = blownPipe({ key: 62, offCents: 0, seconds: 4, velocity: 100, seed: 3 }, rate)
const folder = mkdtempSync(join(tmpdir(), 'microphone-'))
const file = join(folder, 'played.wav')
writeFileSync(file, writeWav(joined([tone, new Float32Array(2 * rate)]), rate, 16))

test.use({ launchOptions: fakeDevice(file), permissions: ['microphone'] })

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
  await expect(card(page).getByText('D4', { exact: true })).toBeVisible({ timeout: 20_000 })
  await goTo(page, 'Record')
  await page.getByRole('button', { name: /^Record everyone/ }).click()
  await expect(page.getByRole('status').filter({ hasText: /^Recording/ })).toBeVisible({ timeout: 20_000 })
  // A whole turn of the file: the tone is in it.
  await page.waitForTimeout(7000)
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
  await expect(seat.getByText('D4', { exact: true })).toBeVisible({ timeout: 20_000 })
  await goTo(page, 'Record')
  await page.getByRole('button', { name: /^Record everyone/ }).click()
  await expect(page.getByRole('status').filter({ hasText: /^Recording/ })).toBeVisible({ timeout: 20_000 })
  await page.keyboard.press('a')
  await page.waitForTimeout(1500)
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  await expect(page.getByTestId('take-account')).toContainText(/on tracks/)
})
