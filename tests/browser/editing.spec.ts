import type { Page } from '@playwright/test'
import { expect, test } from './fixtures'
import { chooseTrack, goTo, openDemo, saved } from './helpers'

const roll = (page: Page) => page.getByRole('application')
const selection = (page: Page) => page.getByTestId('selection')
const bench = (page: Page, title: string) => page.getByRole('complementary', { name: title })

async function openTracks(page: Page, name: string): Promise<void> {
  await openDemo(page)
  await goTo(page, 'Tracks')
  await chooseTrack(page, name)
}

test('notes go from one piece to another through the clipboard; text that is no music is refused', async ({
  page,
  context,
}) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write'])
  await openTracks(page, 'Orla’s flute')
  await roll(page).focus()
  await page.keyboard.press('Control+a')
  const count = Number((await selection(page).textContent())!.match(/\d+/)![0])
  expect(count).toBeGreaterThan(10)
  await page.keyboard.press('Control+c')
  await expect(selection(page)).toContainText(`${count} notes copied`)
  await saved(page)

  await page.goto('/')
  await page.getByRole('button', { name: /^New piece Starts/ }).click()
  await goTo(page, 'Tracks')
  await roll(page).focus()
  await page.keyboard.press('Control+v')
  await expect(selection(page)).toContainText(`${count} notes pasted at bar 1`)
  await page.keyboard.press('Control+d')
  await page.keyboard.press('Control+z')
  await page.evaluate(() => navigator.clipboard.writeText('Dear Orla, the pier at nine?'))
  await roll(page).focus()
  await page.keyboard.press('Control+v')
  await expect(page.getByText('is not music: it begins “Dear Orla')).toBeVisible()
  await page.getByRole('button', { name: /^Undo: paste/ }).click()
  await expect(selection(page)).toHaveText('0 notes')
})

test('every operation is found by its name and done without a pointer, told and taken back', async ({
  page,
}) => {
  await openTracks(page, 'Benno’s piano')
  const before = (await selection(page).textContent())!
  await roll(page).focus()
  await page.keyboard.press('/')
  await page.getByPlaceholder(/What is to be done/).fill('upside')
  await page.keyboard.press('Enter')
  await expect(selection(page)).toContainText(/\d+ notes: upside down/)
  await page.getByRole('button', { name: 'Undo: upside down (Ctrl+Z)' }).click()
  await page.keyboard.press('/')
  await page.getByPlaceholder(/What is to be done/).fill('edit notes')
  await page.keyboard.press('Enter')
  const edit = bench(page, 'Edit notes')
  await edit.getByRole('button', { name: 'Transpose', exact: true }).click()
  await edit.getByLabel('octaves').fill('4')
  await edit.getByRole('button', { name: 'Transpose all' }).click()
  await expect(selection(page)).toContainText(/141 notes: transpose|at the edge left as they were/)
  await page.keyboard.press('Control+z')
  await edit.getByRole('button', { name: 'Remove doubles', exact: true }).click()
  await expect(edit.getByText(/nothing there to take out|would be/)).toBeVisible()
  await expect(selection(page)).toHaveText(before)
})

test('what is selected by what it is can be heard alone, over and over', async ({ page }) => {
  await openTracks(page, 'Benno’s piano')
  await page.getByRole('button', { name: 'Edit', exact: true }).click()
  const edit = bench(page, 'Edit notes')
  await edit.getByLabel('Select', { exact: true }).selectOption({ label: 'every n-th' })
  await edit.getByRole('button', { name: 'Select', exact: true }).click()
  await expect(selection(page)).toContainText(/\d+ of \d+ notes selected/)
  const [chosen, all] = (await selection(page).textContent())!.match(/\d+/g)!.map(Number)
  expect(chosen).toBe(Math.ceil(all! / 2))
  await edit.getByRole('button', { name: 'Hear it over and over' }).click()
  await expect(page.getByRole('button', { name: /^Stop/ })).toBeVisible()
  await page.getByRole('button', { name: /^Stop/ }).click()
  await edit.getByLabel('in all tracks').check()
  await edit.getByLabel('Select', { exact: true }).selectOption({ label: 'everything' })
  await edit.getByRole('button', { name: 'Select', exact: true }).click()
  const everything = Number((await selection(page).textContent())!.match(/\d+/)![0])
  expect(everything).toBeGreaterThan(all!)
  await roll(page).focus()
  await page.keyboard.press('ArrowUp')
  await expect(
    page.getByRole('button', { name: new RegExp(`^Undo: move ${everything} notes`) }),
  ).toBeVisible()
})

test('bars go in through all tracks, the page follows, sections are marked on it, and one press takes it back', async ({
  page,
}) => {
  await openTracks(page, 'Orla’s flute')
  const bars = page
    .getByRole('navigation', { name: 'Steps of the work' })
    .getByRole('button', { name: /^Score/ })
  const count = Number((await bars.textContent())!.match(/(\d+) bars/)![1])
  await page.getByRole('button', { name: 'Bars', exact: true }).click()
  const bench_ = bench(page, 'Bars and sections')
  await bench_.getByLabel('Insert', { exact: true }).fill('2')
  await bench_.getByLabel('bars before bar').fill('3')
  await bench_.getByLabel('bars before bar').press('Enter')
  await bench_.getByRole('button', { name: 'Insert', exact: true }).click()
  await expect(selection(page)).toContainText('2 bars put in before bar 3')
  await expect(bars).toContainText(`${count + 2} bars`)
  await bench_.getByRole('button', { name: /^Begin one at bar 1/ }).click()
  await expect(bench_.getByRole('list', { name: 'Sections' })).toContainText('A')
  await goTo(page, 'Score')
  await expect(page.getByTestId('page').locator('g.reh').first()).toBeVisible()
  await expect(bars).toContainText(`${count + 2} bars`)
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+z')
  await expect(bars).toContainText(`${count} bars`)
  // Before the first bar and behind the last.
  await goTo(page, 'Tracks')
  for (const before of ['1', String(count + 1)]) {
    await bench_.getByLabel('bars before bar').fill(before)
    await bench_.getByLabel('bars before bar').press('Enter')
    await bench_.getByRole('button', { name: 'Insert', exact: true }).click()
    await expect(selection(page)).toContainText(`put in before bar ${before}`)
  }
})
