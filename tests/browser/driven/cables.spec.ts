import { expect, type Page, test } from '../fixtures'
import { goTo, newPiece, openDemo, reaches } from '../helpers'

async function openSender(page: Page): Promise<Page> {
  const other = await page.context().newPage()
  await other.goto('/programs/sender?cable=Quayside')
  await expect(other.getByLabel('cable', { exact: true })).toHaveValue('Quayside')
  return other
}

/** Reads a cable in the project. */
async function readCable(page: Page): Promise<void> {
  await page.getByText('Cables', { exact: true }).click()
  await page.getByRole('checkbox', { name: 'read', exact: true }).check()
}

test('another tab plays over a cable: each channel takes a seat and is recorded on its own track', async ({
  page,
}) => {
  await newPiece(page)
  await readCable(page)
  const sender = await openSender(page)
  await sender.getByLabel('channels').fill('6')
  await sender.keyboard.press('Enter')
  await sender.getByRole('button', { name: 'Send' }).click()
  await expect(sender.getByTestId('sender-state')).toContainText('notes sent')
  await page.bringToFront()
  await expect(page.locator('[data-source]')).toHaveCount(7)
  await goTo(page, 'Record')
  await page.getByLabel('count-in').selectOption('0')
  await page.getByRole('button', { name: 'Record everyone' }).click()
  await reaches(page, 3)
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  // Whatever was sent before the first bar line is kept outside the take; nothing is missing.
  const words = (await page.getByTestId('take-account').textContent())!
  const [heard, captured, outside = 0] = words.match(/\d+(?= notes heard| on tracks| outside)/g)!.map(Number)
  expect(heard).toBeGreaterThan(20)
  expect(captured! + outside).toBe(heard)
  await expect(page.getByText(/events as played · on 6 tracks/)).toBeVisible()
  // The other tab goes: nothing of it hangs.
  await sender.close()
  await goTo(page, 'Players')
  await page.getByRole('button', { name: 'Silence' }).click()
  const seats = page.locator('[data-source^="cable:"]')
  await expect(seats).toHaveCount(6)
  // A key that is down shows on the card of its player.
  await expect(seats.filter({ hasText: /(^|[^A-Za-z])[A-G][♯♭]?\d/ })).toHaveCount(0)
})

test('what this piece sends over a cable is printed at once, and its sender rests', async ({ page }) => {
  await openDemo(page)
  await page.getByText('Cables', { exact: true }).click()
  const print = page.getByRole('button', { name: 'print what goes out' })
  await expect(print).toHaveCount(0)
  await page.getByRole('button', { name: 'Ways of Sefa’s harp' }).click()
  await page.getByLabel('also sends to').selectOption({ label: 'cable Quayside' })
  await print.click()
  await expect(page.getByTestId('roll')).toBeVisible()
  await expect(page.getByText('Quayside, printed').first()).toBeVisible()
  await expect(page.getByText('51 notes')).toBeVisible()
  await goTo(page, 'Effects')
  await expect(page.getByText('These notes were printed from Sefa’s harp')).toBeVisible()
  await page.getByRole('button', { name: /^Undo: print the cable Quayside/ }).click()
  await goTo(page, 'Players')
  await page.getByText('Cables', { exact: true }).click()
  await expect(print).toHaveCount(1)
})
