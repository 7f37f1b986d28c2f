import { expect, test } from '../fixtures'
import { openDemo, reaches } from '../helpers'
import { sentTo, withMidiPorts } from '../midiPorts'

test('the clock goes to a MIDI port, and a track plays into it', async ({ page }) => {
  await withMidiPorts(page, [{ id: 'synth', name: 'Old organ' }])
  await openDemo(page)
  await page.getByText('Clock', { exact: true }).click()
  await page.getByRole('checkbox', { name: 'Old organ' }).check()
  await page.getByRole('button', { name: 'Ways of Orla’s flute' }).click()
  await page.getByLabel('also sends to').selectOption('synth')
  await page.getByRole('button', { name: 'Play', exact: true }).click()
  await reaches(page, 2)
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  await page.waitForTimeout(300)
  const sent = await sentTo(page, 'synth')
  const kinds = sent.map(({ bytes }) => bytes[0]!)
  expect(kinds.slice(0, 2)).toEqual([0xf2, 0xfa])
  expect(kinds).toContain(0xfc)
  const clocks = sent.filter(({ bytes }) => bytes[0] === 0xf8).map(({ timestamp }) => timestamp)
  expect(clocks.length).toBeGreaterThan(24 * 4)
  const gaps = clocks.slice(1).map((timestamp, index) => timestamp - clocks[index]!)
  const idealMs = 60_000 / 92 / 24
  // How steady they are is a matter for the bench; here most of them are on time, also on a busy machine.
  const median = [...gaps].sort((a, b) => a - b)[gaps.length >> 1]!
  expect(Math.abs(median - idealMs)).toBeLessThan(1)
  const ons = kinds.filter((kind) => (kind & 0xf0) === 0x90).length
  expect(ons).toBeGreaterThan(3)
  expect(kinds.filter((kind) => (kind & 0xf0) === 0x80)).toHaveLength(ons)
})
