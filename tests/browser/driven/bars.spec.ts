import { inventedForTwoHands } from '../../../src/core/beats/freeMusic.testing'
import { playFreely } from '../../../src/core/beats/freePlayer.testing'
import type { MidiFileEvent } from '../../../src/core/midi/standardMidiFile/model'
import { writeMidiFile } from '../../../src/core/midi/standardMidiFile/write'
import { expect, test } from '../fixtures'
import { bringIn, goTo } from '../helpers'

/** Twenty bars in three, played without a click, in a file that knows no tempo. */
function playedFreely(): Uint8Array {
  const tickOf = (ms: number) => Math.round((ms / 500) * 960)
  const events = playFreely(inventedForTwoHands(3, 7, 20), 3)
    .notes.flatMap(({ onsetMs, endMs, key, velocity }): MidiFileEvent[] => [
      { tick: tickOf(onsetMs), type: 'noteOn', channel: 1, key, velocity },
      { tick: tickOf(endMs), type: 'noteOff', channel: 1, key, velocity: 64 },
    ])
    .sort((a, b) => a.tick - b.tick)
  const tracks = [{ events, endTick: events.at(-1)!.tick }]
  return writeMidiFile({ format: 0, divisionTicksPerQuarter: 960, tracks })
}

test('bars are found in what was played without a click, corrected over the notes, used, and undone in one step', async ({
  page,
}) => {
  await page.goto('/')
  await bringIn(page, { name: 'free.mid', bytes: playedFreely() })
  await expect(page.getByText('The file says no tempo')).toBeVisible()
  await page.getByRole('button', { name: 'Bars', exact: true }).click()
  await page.getByRole('button', { name: 'Find the bars' }).click()
  const found = page.getByTestId('found-bars')
  await expect(found).toContainText('20 bars of 3/4')

  await page.getByRole('button', { name: 'Twice as fast' }).click()
  await expect(found).toContainText('40 bars')
  await page.getByRole('button', { name: 'Half as fast' }).click()
  await page.getByRole('combobox', { name: 'beats to the bar' }).selectOption('4')
  await expect(found).toContainText('of 4/4')
  await page.getByRole('combobox', { name: 'beats to the bar' }).selectOption('3')
  await expect(found).toContainText('20 bars of 3/4')

  // A bar line follows the pointer, and the arrow keys.
  const line = page.getByRole('button', { name: 'Bar line 2', exact: true })
  const before = (await line.boundingBox())!
  await page.mouse.move(before.x + 4, before.y + 6)
  await page.mouse.down()
  await page.mouse.move(before.x + 24, before.y + 6, { steps: 4 })
  await page.mouse.up()
  const after = (await line.boundingBox())!
  expect(after.x - before.x).toBeGreaterThan(12)
  await line.focus()
  await page.keyboard.press('ArrowLeft')
  await expect.poll(async () => (await line.boundingBox())!.x).toBeLessThan(after.x)

  // Under another tempo they lie elsewhere: they are not shown over it.
  await page.getByRole('textbox', { name: '♩ =' }).or(page.getByLabel('♩ =')).first().fill('100')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('button', { name: 'Use these bars' })).toBeHidden()
  await expect(line).toBeHidden()
  await page.getByRole('button', { name: 'Undo' }).click()

  await page.getByRole('button', { name: 'Find the bars' }).click()
  await page.getByRole('button', { name: 'Use these bars' }).click()
  await expect(page.getByTestId('selection')).toContainText('every note sounds as before')
  await expect(page.getByRole('button', { name: /^Score/ })).toContainText('21 bars')
  await goTo(page, 'Score')
  await expect(page.getByRole('button', { name: /^Score/ })).toContainText('21 bars')
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByRole('button', { name: /^Score/ })).toContainText('16 bars')
})

test('bars are laid by tapping along', async ({ page }) => {
  await page.goto('/')
  await bringIn(page, { name: 'free.mid', bytes: playedFreely() })
  await page.getByRole('button', { name: 'Bars', exact: true }).click()
  await page.getByRole('button', { name: 'Tap along' }).click()
  await expect(page.getByRole('button', { name: 'Stop', exact: true })).toBeVisible()
  for (let beat = 0; beat < 6; beat++) {
    await page.waitForTimeout(500)
    await page.keyboard.press('Enter')
  }
  await expect(page.getByRole('button', { name: 'Beat (6)' })).toBeVisible()
  await expect(page.getByTestId('found-bars')).toContainText('beats a minute')
  await page.keyboard.press('Space')
  await page.getByRole('button', { name: 'Use these bars' }).click()
  await expect(page.getByTestId('selection')).toContainText('lie where they were played')
})
