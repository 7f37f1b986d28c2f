import { expect, type Page, test } from '../fixtures'
import { alert, chooseTrack, goTo, newPiece, openDemo, reaches, saved } from '../helpers'

const account = (page: Page) => page.getByTestId('take-account')

async function loopBars(page: Page, first: number, last: number): Promise<void> {
  await goTo(page, 'Record')
  await page.getByRole('button', { name: 'Mark it' }).click()
  await page.getByLabel('from bar').fill(String(first))
  await page.keyboard.press('Enter')
  await page.getByLabel('to bar').fill(String(last))
  await page.keyboard.press('Enter')
  await page.getByRole('checkbox', { name: /^loop it/ }).check()
}

test('a loop of four passes with a player 60 ms early: each pass a take, nothing lost', async ({ page }) => {
  await newPiece(page)
  await page.getByRole('button', { name: 'Seat six players' }).click()
  await loopBars(page, 1, 1)
  await page.getByRole('button', { name: 'Record everyone' }).click()
  await expect(page.getByText(/^Recording, pass ([5-9]|\d\d)/)).toBeVisible({ timeout: 30_000 })
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  await expect(account(page)).toContainText(/Take 1, \d+ passes: (\d+) notes heard, \1 on tracks/)
  // The marimba is 60 ms ahead and plays four notes in the bar: four in each of the first four passes, none before.
  await goTo(page, 'Tracks')
  await chooseTrack(page, 'Mette’s marimba')
  await page.getByRole('button', { name: 'Show as list' }).click()
  const passes = page.getByLabel('Hears')
  for (const pass of [1, 2, 3, 4]) {
    const option = passes.locator('option').filter({ hasText: `pass ${pass}` })
    await expect(option).toHaveText(`Take 1, pass ${pass} (4)`)
    await passes.selectOption({ label: `Take 1, pass ${pass} (4)` })
    await expect(
      page
        .getByRole('region', { name: /^List of notes/ })
        .getByRole('row')
        .nth(1),
    ).toContainText('1 · 1 · 00')
  }
})

test('passes are layered or the last sounds, chosen afterwards; bars are put together from takes', async ({
  page,
}) => {
  await openDemo(page)
  await loopBars(page, 1, 2)
  await page.getByRole('button', { name: 'Record everyone' }).click()
  await expect(page.getByText('Recording, pass 3')).toBeVisible({ timeout: 30_000 })
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  await expect(account(page)).toContainText(/Take 2, [23] passes/)
  const takes = page.getByRole('region', { name: 'List of takes' })
  await takes.getByRole('button', { name: 'Layer' }).click()
  await expect(takes.getByText('heard', { exact: true })).not.toHaveCount(1)
  await takes.getByRole('button', { name: 'Last', exact: true }).click()
  // Bar 1 from the first rehearsal, bar 2 from the first pass.
  const picker = page.getByRole('region', { name: 'Orla’s flute, bar by bar' })
  await picker.getByRole('button', { name: 'Bar 1 from First rehearsal' }).click()
  await picker.getByRole('button', { name: 'Bar 2 from Take 2, pass 1' }).click()
  await expect(picker.getByRole('button', { name: 'Bar 1 from First rehearsal' })).toHaveAttribute(
    'aria-pressed',
    'true',
  )
  await expect(picker).toContainText('is put together bar by bar')
  await goTo(page, 'Tracks')
  await expect(page.getByLabel('Hears').locator('option:checked')).toHaveText(/^Combined/)
  await page.getByRole('button', { name: /^Undo: bar 2 from Take 2, pass 1/ }).click()
  await page.getByRole('button', { name: /^Undo: bar 1 from First rehearsal/ }).click()
  await expect(page.getByLabel('Hears').locator('option:checked')).toHaveText(/^Take 2, pass/)
})

test('a take that was edited comes back as it was played, beside the edited one', async ({ page }) => {
  await openDemo(page)
  await goTo(page, 'Tracks')
  await expect(page.getByTestId('selection')).toHaveText('63 notes')
  await page.getByRole('application').focus()
  await page.keyboard.press('Control+a')
  await page.keyboard.press('Delete')
  await expect(page.getByTestId('selection')).toHaveText('0 notes')
  await goTo(page, 'Record')
  await page.getByRole('button', { name: 'as played' }).click()
  await expect(page.getByRole('button', { name: /^Undo: restore First rehearsal as played/ })).toBeVisible()
  await goTo(page, 'Tracks')
  await expect(page.getByTestId('selection')).toHaveText('63 notes')
  await expect(page.getByLabel('Hears').locator('option')).toHaveText([
    'First rehearsal (0)',
    'First rehearsal, as played (63)',
  ])
})

test('recording begins with the first note', async ({ page }) => {
  await newPiece(page)
  await page.getByLabel('count-in').selectOption('firstNote')
  await goTo(page, 'Record')
  await page.getByRole('button', { name: 'Record everyone' }).click()
  await expect(page.getByText('Waiting for the first note')).toBeVisible()
  await page.waitForTimeout(700)
  await page.keyboard.down('KeyA')
  await page.waitForTimeout(300)
  await page.keyboard.up('KeyA')
  await expect(page.getByRole('status').filter({ hasText: /^Recording/ })).toBeVisible()
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  await expect(account(page)).toContainText('1 notes heard, 1 on tracks')
  await goTo(page, 'Tracks')
  await page.getByRole('button', { name: 'Show as list' }).click()
  await expect(
    page
      .getByRole('region', { name: /^List of notes/ })
      .getByRole('row')
      .nth(1),
  ).toContainText('1 · 1 · 00')
})

test('a tempo set while recording waits for the end of the take, and says so', async ({ page }) => {
  await newPiece(page)
  await page.getByLabel('count-in').selectOption('firstNote')
  await goTo(page, 'Record')
  await page.getByRole('button', { name: 'Record everyone' }).click()
  await expect(page.getByText('Waiting for the first note')).toBeVisible()
  await page.keyboard.press('KeyA')
  await reaches(page, 1, 3)
  const tempo = page.getByLabel('Tempo in quarters a minute')
  await tempo.fill('400')
  await tempo.press('Enter')
  await expect(page.getByText('goes on at the tempo and in the meter it began with')).toBeVisible()
  // At four times the tempo a bar would be over by now.
  await page.keyboard.press('KeyS')
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  await expect(account(page)).toContainText('2 notes heard, 2 on tracks')
  await expect(tempo).toHaveValue('400')
  await goTo(page, 'Tracks')
  await page.getByRole('button', { name: 'Show as list' }).click()
  const rows = page.getByRole('region', { name: /^List of notes/ }).getByRole('row')
  await expect(rows.nth(1)).toContainText('1 · 1 · 00')
  await expect(rows.nth(2)).toContainText(/(1 · [34]|2 · [12]) · /)
})

test('a marked stretch is recorded only, and ends by itself', async ({ page }) => {
  await openDemo(page)
  await goTo(page, 'Record')
  await page.getByRole('button', { name: 'Mark it' }).click()
  await page.getByLabel('to bar').fill('3')
  await page.keyboard.press('Enter')
  await page.getByLabel('from bar').fill('3')
  await page.keyboard.press('Enter')
  await expect(page.getByText('Bars 3 to 3 only.')).toBeVisible()
  await page.getByRole('button', { name: 'Record everyone from bar 3' }).click()
  await expect(account(page)).toContainText(/Take 2: \d+ notes heard/, { timeout: 20_000 })
  await expect(page.getByTestId('position')).toHaveText(/^3 · 1 · 00/)
})

test('snapping is a view: on the grid, and back as played', async ({ page }) => {
  await openDemo(page)
  await goTo(page, 'Tracks')
  await page.getByRole('button', { name: 'Show as list' }).click()
  const second = page
    .getByRole('region', { name: /^List of notes/ })
    .getByRole('row')
    .filter({ hasText: 'quarters' })
    .nth(1)
  const played = await second.textContent()
  await page.getByRole('button', { name: 'As played' }).click()
  await page.getByRole('checkbox', { name: 'show what was played on a grid' }).check()
  await expect(second).toContainText('1 · 2 · 00')
  await page.getByRole('checkbox', { name: 'show what was played on a grid' }).uncheck()
  await page.keyboard.press('Escape')
  expect(await second.textContent()).toBe(played)
})

test('a curve can be drawn and taken out with undo', async ({ page }) => {
  await openDemo(page)
  await goTo(page, 'Tracks')
  await page.getByLabel('Curve', { exact: true }).selectOption('controller 11')
  await expect(page.getByTestId('curve-count')).toHaveText('0 events')
  const lane = page.getByRole('img', { name: /^Curve of expression/ })
  const box = (await lane.boundingBox())!
  await page.mouse.move(box.x + 100, box.y + 60)
  await page.mouse.down()
  await page.mouse.move(box.x + 300, box.y + 20, { steps: 8 })
  await page.mouse.up()
  await expect(page.getByTestId('curve-count')).toHaveText(/^\d\d+ events$/)
  await page.getByRole('button', { name: /^Undo: draw expression/ }).click()
  await expect(page.getByTestId('curve-count')).toHaveText('0 events')
})

test('tempo and meter change along the piece; notes keep their bar or their clock time', async ({ page }) => {
  await openDemo(page)
  await page.getByRole('button', { name: 'Tempo and meter along the piece' }).click()
  const plan = page.getByRole('dialog', { name: 'Tempo and meter along the piece' })
  await plan.getByRole('button', { name: 'Add a tempo' }).click()
  const tempos = plan.getByRole('list', { name: 'Tempo changes' })
  await expect(tempos.getByRole('listitem')).toHaveCount(2)
  await tempos.getByLabel('♩ =').last().fill('60')
  await page.keyboard.press('Enter')
  await plan.getByRole('button', { name: 'Add a meter' }).click()
  await expect(plan.getByRole('list', { name: 'Meter changes' }).getByRole('listitem')).toHaveCount(2)
  await page.keyboard.press('Escape')
  await goTo(page, 'Score')
  await expect(page.getByTestId('page').locator('g.note').first()).toBeVisible()
  await expect(page.getByRole('button', { name: /^Score/ })).toContainText('2')
  await saved(page)
  await page.reload()
  await page.getByRole('button', { name: 'Tempo and meter along the piece' }).click()
  await expect(tempos.getByLabel('♩ =').last()).toHaveValue('60')
})

test('a backing track is kept with the project, through a file and back', async ({ page }) => {
  await openDemo(page)
  await goTo(page, 'Record')
  await page.getByText('Backing track', { exact: true }).click()
  const field = page.getByLabel('Audio file for the backing track')
  await field.setInputFiles({ name: 'noise.txt', mimeType: 'audio/wav', buffer: Buffer.from('no sound') })
  await expect(alert(page)).toContainText('“noise.txt” was not brought in: this browser cannot read it')
  await field.setInputFiles({ name: 'tide.wav', mimeType: 'audio/wav', buffer: sine(8) })
  await expect(page.getByText('tide.wav')).toBeVisible()
  await page.getByLabel('begins').fill('250')
  await page.keyboard.press('Enter')
  await page.getByRole('button', { name: 'Play', exact: true }).click()
  await reaches(page, 1, 3)
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  await goTo(page, 'Deliver')
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: /Save the project/ }).click(),
  ])
  const path = (await download.path())!
  await page.goto('/')
  await expect(page.getByRole('heading', { name: 'On the shelf' })).toBeVisible()
  await page.getByLabel('File to bring in').setInputFiles(path)
  await goTo(page, 'Record')
  await page.getByText('Backing track', { exact: true }).click()
  await expect(page.getByText('tide.wav')).toBeVisible()
  await expect(page.getByLabel('begins')).toHaveValue('250')
})

/** A WAV file (RIFF, 16 bit, one channel) of a quiet tone. */
function sine(seconds: number): Buffer {
  const rate = 8000
  const data = Buffer.alloc(seconds * rate * 2)
  for (let i = 0; i < seconds * rate; i++)
    data.writeInt16LE(Math.round(3000 * Math.sin((2 * Math.PI * 220 * i) / rate)), i * 2)
  const head = Buffer.alloc(44)
  head.write('RIFF', 0)
  head.writeUInt32LE(36 + data.length, 4)
  head.write('WAVEfmt ', 8)
  head.writeUInt32LE(16, 16)
  head.writeUInt16LE(1, 20)
  head.writeUInt16LE(1, 22)
  head.writeUInt32LE(rate, 24)
  head.writeUInt32LE(rate * 2, 28)
  head.writeUInt16LE(2, 32)
  head.writeUInt16LE(16, 34)
  head.write('data', 36)
  head.writeUInt32LE(data.length, 40)
  return Buffer.concat([head, data])
}

test('how late a source is gets measured, shown as a chart, and evened out', async ({ page }) => {
  await newPiece(page)
  await page.getByRole('button', { name: 'Seat six players' }).click()
  await page.getByRole('button', { name: 'Settings of Mette’s marimba' }).click()
  await page.getByRole('button', { name: 'Measure: play along to the click' }).click()
  const apply = page.getByRole('button', { name: /^Move its notes/ })
  await expect(apply).toBeVisible({ timeout: 20_000 })
  await expect(page.getByRole('img', { name: /notes against the click/ })).toBeVisible()
  await expect(apply).toHaveText(/^Move its notes (5[5-9]|6[0-5])\.\d ms later$/)
  await apply.click()
  await expect(page.getByText(/-(5[5-9]|6[0-5])(\.\d)? ms taken off/)).toBeVisible()
})
