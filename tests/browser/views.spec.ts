import AxeBuilder from '@axe-core/playwright'
import { expect, test } from './fixtures'
import { goTo, openDemo, type StepTitle } from './helpers'

test('the shelf and every step can be used with assistive technology', async ({ page }) => {
  await page.goto('/')
  await expect(page.getByRole('heading', { name: 'On the shelf' })).toBeVisible()
  expect((await new AxeBuilder({ page }).analyze()).violations.map(summary)).toEqual([])
  await openDemo(page)
  for (const step of ['Players', 'Record', 'Effects', 'Tracks', 'Score', 'Deliver'] as StepTitle[]) {
    await goTo(page, step)
    if (step === 'Score') await expect(page.getByTestId('page').locator('g.note').first()).toBeVisible()
    await page.waitForTimeout(200)
    const { violations } = await new AxeBuilder({ page }).exclude('.engraved').analyze()
    expect({ step, violations: violations.map(summary) }).toEqual({ step, violations: [] })
  }
})

function summary(violation: { id: string; nodes: { html: string }[] }): string {
  return `${violation.id}: ${violation.nodes.map((node) => node.html.slice(0, 160)).join(' | ')}`
}

test('nothing is cut off at 1280 by 800, and 1024 wide is usable', async ({ page }) => {
  await openDemo(page)
  for (const width of [1280, 1024]) {
    await page.setViewportSize({ width, height: 800 })
    for (const step of ['Players', 'Record', 'Effects', 'Tracks', 'Score', 'Deliver'] as StepTitle[]) {
      await goTo(page, step)
      const overflow = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth)
      expect({ width, step, overflow: Math.max(0, overflow) }).toEqual({ width, step, overflow: 0 })
    }
  }
})

test('notes are drawn, moved, stretched and deleted with the pointer and with keys', async ({ page }) => {
  await openDemo(page)
  await goTo(page, 'Tracks')
  await page
    .locator('[data-lane]')
    .nth(3)
    .click({ position: { x: 800, y: 30 } })
  const roll = page.getByRole('application', { name: /Notes of Your keys/ })
  const box = (await roll.boundingBox())!
  await page.getByRole('button', { name: 'Draw', exact: true }).click()
  await page.mouse.click(box.x + 62 + 70 * 2 + 5, box.y + 120)
  await expect(page.getByTestId('selection')).toContainText(/velocity 84, drawn/)
  await page.getByRole('button', { name: 'Draw', exact: true }).click()
  const undo = page.getByRole('button', { name: /^Undo:/ })
  await expect(undo).toHaveAttribute('aria-label', /^Undo: draw a note/)
  await roll.focus()
  await page.keyboard.press('ArrowRight')
  await expect(undo).toHaveAttribute('aria-label', /^Undo: move a note/)
  await page.keyboard.press('Shift+ArrowRight')
  await expect(undo).toHaveAttribute('aria-label', /^Undo: stretch a note/)
  await page.getByRole('button', { name: 'Show as list' }).click()
  const row = page.getByRole('region', { name: 'List of notes of Your keys' }).getByRole('row').nth(1)
  await expect(row).toContainText('1 · 3 · 25')
  await expect(row).toContainText('0.50 quarters')
  await page.getByRole('button', { name: 'Show as drawing' }).click()
  await roll.focus()
  await page.keyboard.press('Delete')
  await expect(page.getByTestId('selection')).toHaveText('0 notes')
  for (let i = 0; i < 4; i++) await page.keyboard.press('Control+z')
  await expect(page.getByRole('button', { name: 'Nothing to undo' })).toBeDisabled()
})

test('the route handler takes a MIDI file and gives MusicXML', async ({ page, request }) => {
  await openDemo(page)
  const refused = await request.post('/api/score', { data: Buffer.from('no midi here at all') })
  expect(refused.status()).toBe(400)
  expect((await refused.json()).error).toContain('not a Standard MIDI File')
})
