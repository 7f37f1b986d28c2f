import { generator, listed, places } from '../effectsPlaces'
import { expect, type Page, test } from '../fixtures'
import { goTo, newPiece, reaches, saved } from '../helpers'

test('a chart plays while a live take is recorded, each on its own tracks; then the generator rests', async ({
  page,
}) => {
  await newPiece(page)
  await generator(page, 'Bass, drums and comping')
  await goTo(page, 'Record')
  await page.getByRole('combobox', { name: 'count-in' }).selectOption('0')
  await page.getByRole('button', { name: 'Record everyone' }).click()
  await reaches(page, 1, 2)
  await page.keyboard.down('KeyA')
  await page.waitForTimeout(200)
  await page.keyboard.up('KeyA')
  await reaches(page, 3)
  await page.keyboard.press('Shift+R')
  await expect(page.getByTestId('take-account')).toContainText(/(\d\d+) notes heard, \1 on tracks/)
  await expect(page.getByText(/events as played · on 4 tracks/)).toBeVisible()
  await goTo(page, 'Effects')
  await expect(places(page).getByRole('button', { name: /^Band rests/ })).toBeVisible()
  await saved(page)
  await page.reload()
  await goTo(page, 'Effects')
  await expect(places(page).getByRole('button', { name: /^Band rests/ })).toBeVisible()
})

test('chart and typed music: what is wrong is said at its line; what is right plays and prints', async ({
  page,
}) => {
  await newPiece(page)
  await generator(page, 'A chord player')
  const chart = page.getByRole('textbox', { name: 'Chord chart' })
  await chart.fill('Am7 | Hoho | C')
  await expect(page.getByRole('list', { name: 'What is wrong in chord chart' })).toContainText(
    'Line 1, 7: “Hoho” is not a chord symbol that is known here',
  )
  await chart.fill('')
  await expect(page.getByRole('button', { name: 'Print 0 notes' })).toBeDisabled()
  await chart.fill('Am7 | F | C/E')
  await expect(page.getByRole('button', { name: /^Print \d\d+ notes/ })).toBeEnabled()
  await generator(page, 'Typed music')
  const typed = page.getByRole('textbox', { name: 'Typed music' })
  await page.getByLabel('Written as').selectOption({ label: 'ABC notation' })
  await typed.fill('X:1\nL:1/4\nK:D\nV:1 name="Pier bell"\n|: D F A d :|\nV:2 name="Swell"\nD,4 ? | A,4')
  await expect(page.getByRole('list', { name: 'What is wrong in typed music' })).toContainText('Line 7, 5:')
  await expect(page.getByTestId('typed-count')).toHaveText('2 parts, 10 notes')
  await typed.fill('X:1\nL:1/4\nK:D\nV:1 name="Pier bell"\n|: D F A d :|\nV:2 name="Swell"\nD,4 | A,4')
  await page.getByRole('button', { name: 'Print 10 notes' }).click()
  expect((await listed(page, 'Pier bell, printed')).map((row) => row.split(' ').at(-2))).toEqual([
    'D4',
    'F♯4',
    'A4',
    'D5',
    'D4',
    'F♯4',
    'A4',
    'D5',
  ])
})

test('lanes: steps are set by keys, a lane turns evenly, and both are printed for so many bars', async ({
  page,
}) => {
  await newPiece(page)
  await generator(page, 'Lanes of steps')
  await page.getByRole('button', { name: 'Step 2: rest' }).focus()
  await page.getByRole('button', { name: 'Step 2: rest' }).click()
  await page.keyboard.press('ArrowUp')
  await expect(page.getByRole('button', { name: 'Step 2: C♯4' })).toBeVisible()
  await page.getByRole('textbox', { name: 'in steps' }).fill('8')
  await page.getByRole('textbox', { name: 'pulses', exact: true }).fill('3')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('img', { name: '3 pulses in 8 steps' })).toHaveText('●··●··●·')
  await page.getByRole('textbox', { name: 'of bars' }).fill('2')
  await page.keyboard.press('Enter')
  // Six steps and two turns of three pulses in each bar.
  await page.getByRole('button', { name: 'Print 24 notes' }).click()
  expect(await listed(page, 'Lanes, steps, printed')).toHaveLength(12)
})

/** Puts a long text into an editor at once, as from the clipboard. */
async function paste(page: Page, name: string, text: string): Promise<void> {
  const editor = page.getByRole('textbox', { name })
  await editor.press('ControlOrMeta+A')
  await editor.evaluate((element, pasted) => {
    const clipboardData = new DataTransfer()
    clipboardData.setData('text/plain', pasted)
    element.dispatchEvent(new ClipboardEvent('paste', { clipboardData, bubbles: true, cancelable: true }))
  }, text)
}

test('typed music of 100,000 lines, most of them wrong, is read, and what is wrong is said', async ({
  page,
}) => {
  await newPiece(page)
  await generator(page, 'Typed music')
  const lines = Array.from({ length: 100_000 }, (_, line) => (line % 4 === 0 ? 'C4 1/16' : `hoho${line}`))
  await paste(page, 'Typed music', `part Long\n${lines.join('\n')}`)
  await expect(page.getByTestId('typed-count')).toHaveText(/^1 part, [\d,]+ notes$/, { timeout: 30_000 })
  const wrong = page.getByRole('list', { name: 'What is wrong in typed music' })
  await expect(wrong).toContainText('Line 3, 1:')
  await expect(wrong).toContainText(/and \d+ more/)
  // The piece stays at hand: the text can be replaced by a short one.
  await paste(page, 'Typed music', 'part Short\nC4 1/4 E4 G4')
  await expect(page.getByTestId('typed-count')).toHaveText('1 part, 3 notes', { timeout: 30_000 })
  await expect(wrong).toHaveCount(0)
})

test('a generator in another tab plays over a cable, and is recorded into four tracks', async ({ page }) => {
  await newPiece(page)
  await page.getByText('Cables', { exact: true }).click()
  await page.getByRole('checkbox', { name: 'read', exact: true }).check()
  const other = await page.context().newPage()
  await newPiece(other)
  await generator(other, 'Lanes of steps')
  await other.getByRole('button', { name: 'A lane of steps' }).click()
  await other.getByRole('button', { name: 'A lane of even pulses' }).click()
  const lanes = other.locator('[data-lane-of-generator]')
  await expect(lanes).toHaveCount(4)
  for (let lane = 0; lane < 4; lane++)
    await lanes.nth(lane).getByRole('combobox', { name: 'cable' }).selectOption('Quayside')
  await other.getByRole('button', { name: 'Play', exact: true }).click()
  await page.bringToFront()
  // Each channel of the cable takes a seat when it first plays.
  await expect(page.locator('[data-source]')).toHaveCount(5)
  await goTo(page, 'Record')
  await page.getByLabel('count-in').selectOption('0')
  await page.getByRole('button', { name: 'Record everyone' }).click()
  await reaches(page, 3)
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  await expect(page.getByText(/events as played · on 4 tracks/)).toBeVisible()
  const words = (await page.getByTestId('take-account').textContent())!
  const [heard, captured, outside = 0] = words.match(/\d+(?= notes heard| on tracks| outside)/g)!.map(Number)
  expect(heard).toBeGreaterThan(20)
  expect(captured! + outside).toBe(heard)
})
