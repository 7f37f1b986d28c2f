import { expect, test } from '../fixtures'
import { goTo, openDemo } from '../helpers'

test('what is recorded appears on the page while the stand-ins play, and is read with the rest when it is a take', async ({
  page,
}) => {
  await openDemo(page)
  await goTo(page, 'Score')
  const revision = () => page.getByTestId('page').getAttribute('data-revision').then(Number)
  await expect.poll(revision).toBeGreaterThan(0)
  await page.getByRole('button', { name: 'Record', exact: true }).click()
  const live = page.getByRole('region', { name: 'Being played' })
  const lines = live.getByTestId('live-line')
  await expect(lines.first().locator('g.note').first()).toBeVisible({ timeout: 20_000 })
  // The bar that is played has its notes at once: more come, in the same line.
  const heads = () => lines.first().locator('g.note').count()
  const before = await heads()
  await expect.poll(heads, { timeout: 20_000 }).toBeGreaterThan(before)
  // Both staves of the piano, by the split, beside the flute and the harp.
  await expect
    .poll(() => lines.first().locator('g.measure').first().locator('g.staff').count(), { timeout: 20_000 })
    .toBe(4)
  await expect(lines).toHaveCount(2, { timeout: 30_000 })
  await expect(lines.first()).toHaveAttribute('aria-label', 'Bars 1 to 4, being played')
  const shown = await revision()
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  await expect(live).toBeHidden()
  await expect.poll(revision, { timeout: 20_000 }).toBeGreaterThan(shown)
  // What was there is there: the earlier take is a clip of its track still.
  await goTo(page, 'Record')
  await expect(page.getByText('Take 2').first()).toBeVisible()
})
