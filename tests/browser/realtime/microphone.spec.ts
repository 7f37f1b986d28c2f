import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { joined } from '@/core/pitch/tones.testing'
import { blownPipe } from '@/core/sound/models/blownPipe'
import { writeWav } from '@/core/sound/wav'
import { card, fakeDevice, listen } from '../fakeDevice'
import { expect, testByItself as test } from '../fixtures'
import { newPiece } from '../helpers'

/** What the browser's own fake device plays over and over: a tone, silence, the tone far too loud, and far too soft; then chords. */
const rate = 48_000
const tone = blownPipe({ key: 62, offCents: 0, seconds: 8, velocity: 100, seed: 3 }, rate)
const loud = tone.map((sample) => Math.max(-1, Math.min(1, sample * 40)))
const soft = tone.map((sample) => sample * 0.02)
const silence = new Float32Array(7 * rate)
const folder = mkdtempSync(join(tmpdir(), 'microphone-'))
const file = join(folder, 'played.wav')
writeFileSync(file, writeWav(joined([tone, silence, loud, soft]), rate, 16))

test.use({ launchOptions: fakeDevice(file), permissions: ['microphone'] })

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
