import AxeBuilder from '@axe-core/playwright'
import { expect, type Page, testByItself as test } from '../fixtures'
import { goTo, openDemo } from '../helpers'

test.use({ hasTouch: true, viewport: { width: 1024, height: 768 } })

/** Moves two fingers over an element from one pair of places to another, in pixels from its left edge. */
async function twoFingers(
  page: Page,
  name: RegExp,
  from: [number, number],
  to: [number, number],
): Promise<void> {
  const box = (await page.getByRole('application', { name }).boundingBox())!
  const client = await page.context().newCDPSession(page)
  const touch = (type: 'touchStart' | 'touchMove' | 'touchEnd', places: readonly number[]) =>
    client.send('Input.dispatchTouchEvent', {
      type,
      touchPoints: places.map((x, id) => ({ x: box.x + x, y: box.y + box.height / 2, id })),
    })
  await touch('touchStart', from.slice(0, 1))
  await touch('touchStart', from)
  for (let step = 1; step <= 5; step++)
    await touch(
      'touchMove',
      from.map((x, finger) => x + ((to[finger]! - x) * step) / 5),
    )
  await touch('touchEnd', [])
}

/** Bar and beat that a press on the ruler sets, at a place in the roll. */
async function positionAt(page: Page, x: number): Promise<number> {
  const box = (await page.getByRole('application', { name: /^Notes of/ }).boundingBox())!
  await page.touchscreen.tap(box.x + x, box.y + 8)
  const [bar, beat] = (await page.getByTestId('position').textContent())!.split('·').map(Number)
  return bar! * 4 + beat!
}

test('two fingers scroll and zoom the roll, and no note is moved by that', async ({ page }) => {
  await openDemo(page)
  await goTo(page, 'Tracks')
  await page.locator('[data-lane]').first().getByRole('button').first().tap()
  await expect(page.getByRole('application', { name: /^Notes of/ })).toBeVisible()
  const before = await positionAt(page, 460)
  await twoFingers(page, /^Notes of/, [200, 320], [140, 380])
  const closer = await positionAt(page, 460)
  expect(closer).toBeLessThan(before)
  await twoFingers(page, /^Notes of/, [400, 500], [250, 350])
  expect(await positionAt(page, 460)).toBeGreaterThan(closer)
  await expect(page.getByRole('button', { name: /[Uu]ndo/ }).first()).toBeDisabled()
})

const steps = ['Players', 'Record', 'Effects', 'Tracks', 'Score', 'Deliver'] as const

/** What a rule of WCAG finds wrong in every step of the work. */
async function foundIn(page: Page, rule: string): Promise<string[]> {
  const found: string[] = []
  await openDemo(page)
  for (const step of steps) {
    await goTo(page, step)
    if (step === 'Score') await expect(page.locator('.engraved g.note').first()).toBeVisible()
    const { violations } = await new AxeBuilder({ page }).withRules([rule]).analyze()
    for (const { nodes } of violations)
      found.push(
        ...nodes.map(({ html, failureSummary }) => `${step}: ${html.slice(0, 160)}: ${failureSummary}`),
      )
  }
  return found
}

test.describe('on a phone', () => {
  test.use({ viewport: { width: 390, height: 844 }, isMobile: true })

  test('whatever is pressed is 24 pixels wide and high, or has as much room', async ({ page }) => {
    expect(await foundIn(page, 'target-size')).toEqual([])
  })
})

test.describe('in the colours of a system that chooses its own', () => {
  test.use({ contextOptions: { forcedColors: 'active' } })

  test('everything can be read', async ({ page }) => {
    expect(await foundIn(page, 'color-contrast')).toEqual([])
  })
})
