import { soundingPlayers } from '@/core/demo/soundingPlayers'
import { expect, type Page, test } from '../fixtures'
import { alert, chooseTrack, fillStorage, goTo, newPiece, saved } from '../helpers'

const guitar = soundingPlayers[0]!

async function seatGuitar(page: Page): Promise<void> {
  const panel = page.getByRole('complementary', { name: 'The wiring' })
  await panel.getByText('Sound in', { exact: true }).click()
  await panel.getByLabel('input', { exact: true }).selectOption({ label: `${guitar.name} (stand-in)` })
  await panel.getByRole('button', { name: 'Listen', exact: true }).click()
  await expect(page.locator('[data-source]').filter({ hasText: guitar.name }).getByText('good')).toBeVisible()
}

async function record(page: Page): Promise<void> {
  await goTo(page, 'Record')
  await page.getByRole('button', { name: /^Record everyone/ }).click()
  await expect(page.getByRole('status').filter({ hasText: /^Recording/ })).toBeVisible({ timeout: 20_000 })
}

/** A piece in which the guitar is being recorded. */
async function recordingGuitar(page: Page): Promise<void> {
  await newPiece(page)
  await seatGuitar(page)
  await saved(page)
  await record(page)
}

test('the page is left in the middle of a recording: the take has its sound when it is opened again', async ({
  page,
}) => {
  await recordingGuitar(page)
  await page.waitForTimeout(6000)
  await page.reload()
  await page.getByRole('button', { name: 'Bring it back as a take' }).click()
  await goTo(page, 'Tracks')
  await chooseTrack(page, guitar.name)
  await expect(page.getByTestId('kept-sound')).toContainText(`Take 1, ${guitar.name}`)
})

test('no room for sound: that is said, the notes are kept, and sound is stored again when there is room', async ({
  page,
}) => {
  await recordingGuitar(page)
  await fillStorage(page, true)
  await expect(alert(page)).toContainText(/stored|storage/, { timeout: 20_000 })
  await page.waitForTimeout(4000)
  await fillStorage(page, false)
  await page.waitForTimeout(4000)
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  await expect(page.getByTestId('take-account')).toContainText(/on tracks/)
  await goTo(page, 'Tracks')
  await chooseTrack(page, guitar.name)
  await expect(page.getByTestId('kept-sound')).toBeVisible()
  // What was held meanwhile is there too: the take has sound from its first second to its last.
  const lane = page.getByRole('region', { name: 'Sound', exact: true })
  await lane.getByRole('button', { name: 'Read it again' }).click()
  const reading = page.getByRole('region', { name: 'Read a recording' })
  await reading.getByRole('button', { name: 'Read its notes' }).click()
  const heard = reading.getByTestId('heard-notes')
  await expect(heard).toBeVisible({ timeout: 30_000 })
  const read = Number(/^\d+/.exec((await heard.textContent())!)![0])
  await reading.getByRole('button', { name: 'Leave it' }).click()
  const onTrack = Number(/^\d+/.exec((await page.getByTestId('selection').textContent())!)![0])
  expect(Math.abs(read - onTrack)).toBeLessThanOrEqual(3)
})

test('pressed twice, and while the page is busy: one player, one take, nothing hangs', async ({ page }) => {
  await newPiece(page)
  const panel = page.getByRole('complementary', { name: 'The wiring' })
  await panel.getByText('Sound in', { exact: true }).click()
  await panel.getByLabel('input', { exact: true }).selectOption({ label: `${guitar.name} (stand-in)` })
  await panel.getByRole('button', { name: 'Listen', exact: true }).dblclick()
  const card = page.locator('[data-source]').filter({ hasText: guitar.name })
  await expect(card.getByText('good')).toBeVisible()
  await expect(card).toHaveCount(1)
  // Half a second of work at a time, in the page's own thread.
  await page.evaluate(() => {
    const busy = setInterval(() => {
      const until = performance.now() + 500
      while (performance.now() < until);
    }, 700)
    setTimeout(() => clearInterval(busy), 12_000)
  })
  await record(page)
  await page.waitForTimeout(8000)
  await page.getByRole('button', { name: 'Stop', exact: true }).dblclick()
  await expect(page.getByTestId('take-account')).toContainText(/on tracks/, { timeout: 30_000 })
  await goTo(page, 'Tracks')
  await chooseTrack(page, guitar.name)
  await expect(page.getByTestId('kept-sound')).toContainText('Take 1')
  // Everything undone, and done again.
  const undo = page.getByRole('button', { name: /^Undo: / })
  while ((await undo.count()) > 0) await undo.click()
  await goTo(page, 'Players')
  await expect(card).toHaveCount(0)
  const redo = page.getByRole('button', { name: /^Redo: / })
  while ((await redo.count()) > 0) await redo.click()
  await expect(card.getByText('good')).toBeVisible()
  await goTo(page, 'Tracks')
  await chooseTrack(page, guitar.name)
  await expect(page.getByTestId('kept-sound')).toContainText('Take 1')
})
