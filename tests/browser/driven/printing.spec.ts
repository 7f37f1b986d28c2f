import { lookIntoPdf } from '../../../src/engine/print/pdfReader.testing'
import { expect, test } from '../fixtures'
import { goTo, openDemo, savedFile } from '../helpers'

test('the piece on paper: words typed, paper chosen, pages looked at, one PDF of the score and all parts', async ({
  page,
}) => {
  await openDemo(page)
  await goTo(page, 'Deliver')
  const paper = page.getByRole('region', { name: 'On paper' })
  await paper.getByLabel('Composer').fill('Orla Venn')
  await page.keyboard.press('Enter')
  await paper.getByLabel('Rights').fill('© the Lantern Press')
  await page.keyboard.press('Enter')
  await paper.getByLabel('Paper', { exact: true }).selectOption('letter')
  await paper.getByLabel('Lines to a page').selectOption({ label: 'at most 1' })
  await paper.getByRole('button', { name: 'Lay the pages out' }).click()
  const save = paper.getByRole('button', { name: 'Save as PDF' })
  await expect(save).toBeVisible({ timeout: 60_000 })
  const { bytes } = await savedFile(page, save)
  const found = lookIntoPdf(bytes)
  expect(found).toMatchObject({ size: '612 x 792', title: 'Lamps on the Ebb', images: 0 })
  expect(found.pages).toBeGreaterThan(8)
  expect(found.texts[0]).toContain('Orla Venn')
  expect(found.texts[0]).toContain('© the Lantern Press')
  expect(found.texts.some((text) => /Lamps on the Ebb: Benno’s piano/.test(text))).toBe(true)
  expect(found.fonts.every(({ isEmbedded }) => isEmbedded)).toBe(true)

  const sheet = page.getByTestId('printed-page')
  await expect(sheet).toHaveAttribute('aria-label', 'Score, page 1')
  await paper.getByRole('button', { name: 'Next page' }).click()
  await expect(sheet).toHaveAttribute('aria-label', 'Score, page 2')
  await expect(sheet.locator('g.staff').first()).toBeVisible()

  // For the printer there are the same pages and nothing else.
  const printed = lookIntoPdf(new Uint8Array(await page.pdf({ preferCSSPageSize: true })))
  expect(printed.pages).toBe(found.pages)
  expect(printed.texts[0]).toContain('Orla Venn')
  expect(printed.texts.join()).not.toContain('Save as PDF')

  // What was typed and chosen is undone like anything else, and the pages say that they are older.
  await page.getByRole('button', { name: /^Undo/ }).click()
  await expect(paper.getByLabel('Lines to a page')).toHaveValue('0')
  await expect(paper.getByText('The piece has changed since these pages were laid out')).toBeVisible()
  await page.reload()
  await goTo(page, 'Deliver')
  await expect(paper.getByLabel('Composer')).toHaveValue('Orla Venn')
  await expect(paper.getByLabel('Paper', { exact: true })).toHaveValue('letter')
})

test('laying out is stopped, and done again', async ({ page }) => {
  await openDemo(page)
  await goTo(page, 'Deliver')
  const paper = page.getByRole('region', { name: 'On paper' })
  await paper.getByRole('checkbox', { name: 'Score', exact: true }).uncheck()
  await paper.getByRole('button', { name: 'Lay the pages out' }).click()
  await paper.getByRole('button', { name: 'Stop', exact: true }).click()
  await expect(paper.getByRole('alert')).toContainText('it was stopped')
  // Pressed twice it is done once; and it goes on while another view is open.
  await paper.getByRole('button', { name: 'Lay the pages out' }).dblclick()
  await goTo(page, 'Tracks')
  await goTo(page, 'Deliver')
  await expect(paper.getByRole('button', { name: 'Save as PDF' })).toBeVisible({ timeout: 60_000 })
  await expect(page.locator('#for-printer')).toHaveCount(0)
  await expect(paper.getByText(/Orla’s flute 1, Benno’s piano 1, Sefa’s harp 1/)).toBeVisible()
})
