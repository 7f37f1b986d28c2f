import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { chordsByChance, playedBySampler } from '@/core/pitch/playedLines.testing'
import { writeWav } from '@/core/sound/wav'
import { fakeDevice } from '../fakeDevice'
import { expect, testByItself as test } from '../fixtures'
import { chooseTrack, goTo, newPiece } from '../helpers'

/** What the browser's own fake device plays: chords of a guitar, by a sampler that is not this program's. */
const chords = chordsByChance(911, 10, 40, 76)
const file = join(mkdtempSync(join(tmpdir(), 'chords-')), 'chords.wav')
const played = playedBySampler(chords, 24)
const peak = played.reduce((most, sample) => Math.max(most, Math.abs(sample)), 0)
writeFileSync(
  file,
  writeWav(
    played.map((sample) => (sample * 0.4) / peak),
    44_100,
    16,
  ),
)

test.use({ launchOptions: fakeDevice(file), permissions: ['microphone'] })

test('chords played into a microphone are recorded as sound, and read from it afterwards', async ({
  page,
}) => {
  await newPiece(page)
  const panel = page.getByRole('complementary', { name: 'The wiring' })
  await panel.getByText('Sound in', { exact: true }).click()
  await panel.getByLabel('it is', { exact: true }).selectOption('guitar')
  await panel.getByRole('button', { name: 'Listen', exact: true }).click()
  await expect(page.locator('[data-source]').getByText('good')).toBeVisible()
  await goTo(page, 'Record')
  await page.getByRole('button', { name: /^Record everyone/ }).click()
  await expect(page.getByRole('status').filter({ hasText: /^Recording/ })).toBeVisible({ timeout: 20_000 })
  const loopSeconds = played.length / 44_100
  await page.waitForTimeout((loopSeconds + 4) * 1000)
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  await expect(page.getByTestId('take-account')).toContainText('on tracks')
  await goTo(page, 'Tracks')
  await chooseTrack(page, 'The system’s input')
  const lane = page.getByRole('region', { name: 'Sound', exact: true })
  await lane.getByRole('button', { name: 'Read it again' }).click()
  const reading = page.getByRole('region', { name: 'Read a recording' })
  await expect(reading.getByLabel('played by')).toHaveValue('guitar')
  await reading.getByLabel('It holds').selectOption('chords')
  await reading.getByRole('button', { name: 'Read its notes' }).click()
  const count = reading.getByTestId('heard-notes')
  await expect(count).toHaveText(/notes/, { timeout: 90_000 })
  const found = Number(/^\d+/.exec((await count.textContent()) ?? '')![0])
  // All of the file was played at least once, in any order of beginning; a chord may have been cut at either end.
  expect(found).toBeGreaterThan(chords.length * 0.8)
  await reading.getByRole('button', { name: 'Take these notes' }).click()
  await expect(page.locator('[data-lane]').filter({ hasText: 'Take 1, The system’s input' })).toBeVisible()
  await goTo(page, 'Score')
  await expect(page.locator('svg g.chord').first()).toBeVisible({ timeout: 30_000 })
})
