import { expect, type Page } from '@playwright/test'
import { chooseTrack, goTo } from './helpers'

export const places = (page: Page) => page.getByRole('navigation', { name: 'Tracks with effects' })

export async function choose(page: Page, name: string | RegExp, which = 0): Promise<void> {
  await goTo(page, 'Effects')
  await places(page).getByRole('button', { name }).nth(which).click()
}

export async function putIn(page: Page, effect: string): Promise<void> {
  await page.getByRole('button', { name: 'Put in an effect' }).click()
  await page
    .getByRole('menuitem')
    .filter({ has: page.getByText(effect, { exact: true }) })
    .click()
}

export async function generator(page: Page, title: string): Promise<void> {
  await goTo(page, 'Effects')
  await page.getByRole('button', { name: 'New generator' }).click()
  await page.getByRole('menuitem', { name: new RegExp(`^${title}`) }).click()
}

export const effects = (page: Page) => page.locator('[data-effect]')

/** Position, key and velocity of every row of a track's list. */
export async function listed(page: Page, track: string): Promise<string[]> {
  await goTo(page, 'Tracks')
  await chooseTrack(page, track)
  const list = page.getByRole('region', { name: /^List of notes of/ })
  if (!(await list.isVisible())) await page.getByRole('button', { name: /list/i }).first().click()
  await expect(list).toHaveAttribute('aria-label', `List of notes of ${track}`)
  const rows = new Map<number, string>()
  for (let top = 0; ; top += 500) {
    await list.evaluate((element, y) => {
      element.scrollTop = y
    }, top)
    await page.waitForTimeout(60)
    const seen = await list.getByRole('row').evaluateAll((elements) =>
      elements.flatMap((row): [number, string][] => {
        const cells = [...row.querySelectorAll('td')].map((cell) => cell.textContent!.trim())
        return cells.length === 6
          ? [[Number(row.getAttribute('aria-rowindex')), `${cells[0]} ${cells[1]} ${cells[3]}`]]
          : []
      }),
    )
    for (const [index, text] of seen) rows.set(index, text)
    if (
      await list.evaluate((element) => element.scrollTop + element.clientHeight >= element.scrollHeight - 2)
    )
      break
  }
  return [...rows.entries()].sort(([a], [b]) => a - b).map(([, text]) => text)
}
