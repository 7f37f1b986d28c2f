import { expect, test } from '../fixtures'
import { goTo, openDemo, reaches } from '../helpers'

test('Escape closes what is open and only that; a recording goes on; at once after Record it is heard; Silence ends a rehearsal', async ({
  page,
}) => {
  await openDemo(page)
  await page.getByRole('button', { name: 'Let them play' }).click()
  await expect(page.getByRole('button', { name: 'Thank you, stop' })).toBeVisible()
  await page.getByRole('button', { name: 'Silence' }).click()
  await expect(page.getByRole('button', { name: 'Let them play' })).toBeVisible()

  await goTo(page, 'Record')
  await page.getByRole('combobox', { name: 'count-in' }).selectOption('0')
  await page.getByRole('button', { name: 'Record everyone' }).click()
  await reaches(page, 1, 2)
  await page.getByRole('button', { name: 'Tempo and meter along the piece' }).click()
  await page.getByRole('button', { name: 'Add a meter' }).focus()
  await page.keyboard.press('Escape')
  await expect(page.getByRole('button', { name: 'Add a meter' })).toHaveCount(0)
  await expect(page.getByRole('button', { name: 'Recording', exact: true })).toBeVisible()
  // With nothing open it silences, and what is recorded goes on; the button says that it ends it.
  await page.keyboard.press('Escape')
  const before = await page.getByTestId('position').textContent()
  await expect(page.getByTestId('position')).not.toHaveText(before!)
  await page.getByRole('button', { name: 'Silence and stop' }).click()
  await expect(page.getByTestId('take-account')).toContainText('Take 2')

  await page.getByRole('main').click({ position: { x: 5, y: 5 } })
  await page.keyboard.press('Shift+R')
  await page.keyboard.press('Escape')
  await page.waitForTimeout(700)
  await expect(page.getByRole('button', { name: 'Record', exact: true })).toBeVisible()
  await expect(page.getByTestId('position')).not.toHaveText('count-in')
})
