import { expect, test } from '../fixtures'
import { goTo, openDemo, reaches } from '../helpers'

test('what was played while nothing recorded becomes a take with one press', async ({ page }) => {
  await openDemo(page)
  for (const key of ['KeyA', 'KeyD', 'KeyG']) {
    await page.keyboard.down(key)
    await page.waitForTimeout(150)
    await page.keyboard.up(key)
    await page.waitForTimeout(60)
  }
  const heard = page.getByRole('group', { name: 'Always listening' })
  await heard.getByRole('button', { name: 'Keep as a take: 3 notes heard' }).click()
  await expect(heard).toBeHidden()
  await goTo(page, 'Record')
  await expect(page.getByTestId('take-account')).toContainText('Take 2: 3 notes heard, 3 on tracks')
  await goTo(page, 'Tracks')
  await page
    .locator('[data-lane]')
    .nth(3)
    .click({ position: { x: 800, y: 30 } })
  await page.getByRole('button', { name: 'Show as list' }).click()
  await expect(
    page.getByRole('region', { name: 'List of notes of Your keys' }).getByRole('row').nth(1),
  ).toContainText('1 · 1 · 00')
})

test('keys on the screen play, and what was heard can be forgotten', async ({ page }) => {
  await openDemo(page)
  const key = page.getByRole('button', { name: 'Play E4' })
  await key.hover()
  await page.mouse.down()
  await expect(page.locator('[data-source="computer-keyboard"]')).toContainText('E4')
  await page.mouse.up()
  const heard = page.getByRole('group', { name: 'Always listening' })
  await expect(heard).toContainText('Keep 1 note')
  await heard.getByRole('button', { name: 'Forget what was heard' }).click()
  await expect(heard).toBeHidden()
})

test('a track is assigned by playing a note', async ({ page }) => {
  await openDemo(page)
  await page.getByRole('button', { name: 'Assign Orla’s flute by playing' }).click()
  await expect(page.getByRole('button', { name: 'Orla’s flute waits for whoever plays' })).toBeVisible()
  await page.keyboard.press('KeyF')
  await expect(page.locator('[data-track]').first().getByLabel('hears')).toHaveValue('computer-keyboard')
  await expect(
    page.getByRole('list', { name: 'Remarks on the wiring' }).getByText('Your keys drives 2 tracks.'),
  ).toBeVisible()
  await expect(
    page.getByRole('list', { name: 'Remarks on the wiring' }).getByText('Orla’s flute reaches no track.'),
  ).toBeVisible()
})

test('the tempo can be tapped, and is one step to undo', async ({ page }) => {
  await openDemo(page)
  const tap = page.getByRole('button', { name: 'tap', exact: true })
  const taps = tap.evaluateHandle((button) => {
    const times: number[] = []
    button.addEventListener('click', (event) => times.push(event.timeStamp))
    return times
  })
  await taps
  for (let i = 0; i < 4; i++) {
    await tap.click()
    await page.waitForTimeout(200)
  }
  const tempo = page.getByLabel('Tempo in quarters a minute')
  const times = await (await taps).jsonValue()
  expect(times).toHaveLength(4)
  await expect(tempo).toHaveValue(String(Math.round(180_000 / (times[3]! - times[0]!))))
  await expect(page.getByRole('button', { name: /^Undo: tap the tempo/ })).toBeVisible()
  await page.getByRole('button', { name: /^Undo: tap the tempo/ }).click()
  await expect(tempo).toHaveValue('92')
})

test('recording from a bar in the middle keeps what is around it, and a take can be deleted with undo', async ({
  page,
}) => {
  await openDemo(page)
  await goTo(page, 'Tracks')
  // The ruler of the lanes sets the playing position: into bar 5.
  await page.getByRole('button', { name: 'Set the playing position' }).click({ position: { x: 232, y: 10 } })
  await reaches(page, 5)
  await goTo(page, 'Record')
  await page.getByRole('button', { name: 'Record everyone from bar 5' }).click()
  await reaches(page, 7)
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  await expect(page.getByTestId('take-account')).toContainText(/Take 2: \d\d notes heard/)
  await expect(page.getByTestId('position')).toHaveText(/^5 · 1 · 00/)
  await goTo(page, 'Score')
  await expect(page.getByTestId('page').locator('g.note').first()).toBeVisible()
  await expect(page.getByRole('navigation', { name: 'Steps of the work' })).toContainText('16 bars')
  await goTo(page, 'Record')
  await page.getByRole('button', { name: 'Delete Take 2', exact: true }).click()
  await expect(page.getByRole('button', { name: 'Delete Take 2', exact: true })).toHaveCount(0)
  await page.getByRole('button', { name: /^Undo: delete Take 2/ }).click()
  await expect(page.getByRole('button', { name: 'Delete Take 2', exact: true })).toBeVisible()
})
