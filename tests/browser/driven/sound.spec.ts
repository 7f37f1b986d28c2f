import { WaveFile } from 'wavefile'
import { expect, test } from '../fixtures'
import { goTo, openDemo, savedFile } from '../helpers'

test('the piece and each track become sound files of one length; rendering is stopped, and done again', async ({
  page,
}) => {
  await openDemo(page)
  await goTo(page, 'Deliver')
  const sound = page.getByRole('region', { name: 'As sound' })
  await sound.getByRole('button', { name: 'Render the sound' }).click()
  await sound.getByRole('button', { name: 'Stop', exact: true }).click()
  await expect(sound.getByRole('alert')).toContainText('it was stopped')
  await sound.getByLabel('Bits').selectOption('16')
  await sound.getByLabel('Rate').selectOption('44100')
  await sound.getByRole('button', { name: 'Render the sound' }).click()
  await expect(sound.getByRole('status')).toContainText('%')
  const files = sound.locator('[data-sound]')
  await expect(files).toHaveCount(4, { timeout: 120_000 })
  const whole = await savedFile(page, sound.getByRole('button', { name: 'Save Lamps on the Ebb as WAV' }))
  expect(whole.name).toBe('Lamps on the Ebb.wav')
  const flute = await savedFile(page, sound.getByRole('button', { name: 'Save Orla’s flute as WAV' }))
  expect(flute.name).toBe('Lamps on the Ebb, Orla’s flute.wav')
  expect(flute.bytes.length).toBe(whole.bytes.length)
  // Read by a reader that shares no code with the writer: sixteen bars at 92 quarters a minute, and what rings on.
  const { fmt, bitDepth } = new WaveFile(whole.bytes)
  expect(fmt).toMatchObject({ sampleRate: 44_100, numChannels: 2 })
  expect(bitDepth).toBe('16')
  const seconds = (whole.bytes.length - 44) / 4 / 44_100
  expect(seconds).toBeGreaterThan((64 * 60) / 92)
  expect(seconds).toBeLessThan((64 * 60) / 92 + 15)
})

test('compressed, the browser itself reads it, as long as the piece', async ({ page }) => {
  await openDemo(page)
  await goTo(page, 'Deliver')
  const sound = page.getByRole('region', { name: 'As sound' })
  await sound.getByLabel('As', { exact: true }).selectOption('ogg')
  await expect(sound.getByLabel('Bits')).toBeDisabled()
  await sound.getByText('each track too').click()
  await sound.getByRole('button', { name: 'Render the sound' }).click()
  await expect(sound.locator('[data-sound]')).toHaveCount(1, { timeout: 120_000 })
  const whole = await savedFile(page, sound.getByRole('button', { name: 'Save Lamps on the Ebb as Ogg' }))
  expect(whole.name).toBe('Lamps on the Ebb.ogg')
  const heard = await page.evaluate(
    async (bytes) => {
      const buffer = await new OfflineAudioContext(2, 1, 48_000).decodeAudioData(
        Uint8Array.from(bytes).buffer,
      )
      return {
        seconds: buffer.duration,
        peak: buffer.getChannelData(0).reduce((most, sample) => Math.max(most, Math.abs(sample)), 0),
      }
    },
    [...whole.bytes],
  )
  expect(heard.seconds).toBeGreaterThan((64 * 60) / 92)
  expect(heard.seconds).toBeLessThan((64 * 60) / 92 + 15)
  expect(heard.peak).toBeGreaterThan(0.01)
})
