import { expect, type Page, test } from '@playwright/test'
import { readMidiFile } from '../../src/core/midi/standardMidiFile/read'
import { alert, chooseTrack, failOnPageErrors, goTo, newPiece, openDemo, saved, savedFile } from './helpers'

const places = (page: Page) => page.getByRole('navigation', { name: 'Tracks with effects' })

async function choose(page: Page, name: string | RegExp, which = 0): Promise<void> {
  await goTo(page, 'Effects')
  await places(page).getByRole('button', { name }).nth(which).click()
}

async function putIn(page: Page, effect: string): Promise<void> {
  await page.getByRole('button', { name: 'Put in an effect' }).click()
  await page
    .getByRole('menuitem')
    .filter({ has: page.getByText(effect, { exact: true }) })
    .click()
}

async function generator(page: Page, title: string): Promise<void> {
  await goTo(page, 'Effects')
  await page.getByRole('button', { name: 'New generator' }).click()
  await page.getByRole('menuitem', { name: new RegExp(`^${title}`) }).click()
}

const effects = (page: Page) => page.locator('[data-effect]')

/** Position, key and velocity of every row of a track's list. */
async function listed(page: Page, track: string): Promise<string[]> {
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

test('a chain: effects put in, moved by keys, soloed, taken from a preset, kept and used on another track', async ({
  page,
}) => {
  failOnPageErrors(page)
  await openDemo(page)
  await choose(page, /Sefa’s harp/)
  await putIn(page, 'Arpeggio')
  await putIn(page, 'Octave spread')
  await putIn(page, 'Chance')
  await expect(effects(page)).toHaveCount(3)
  await expect(effects(page).nth(0).getByTestId('flow')).toHaveText(/^51 → \d+ notes$/)
  // Moved by keys: the last one to the front.
  await effects(page)
    .nth(2)
    .getByRole('button', { name: /^Move Chance/ })
    .focus()
  await page.keyboard.press('Space')
  await page.waitForTimeout(200)
  await page.keyboard.press('ArrowUp')
  await page.waitForTimeout(300)
  await page.keyboard.press('ArrowUp')
  await page.waitForTimeout(300)
  await page.keyboard.press('Space')
  await expect(effects(page).nth(0)).toHaveAttribute('data-effect', 'probability')
  await effects(page).nth(0).getByLabel('Presets of Chance').selectOption('Streaks')
  const before = await page.getByTestId('result-count').textContent()
  await effects(page).nth(0).getByRole('button', { name: 'Another throw' }).click()
  await expect(page.getByTestId('result-count')).not.toHaveText(before!)
  // An old throw can be returned to.
  await effects(page).nth(0).getByLabel('Earlier throws').selectOption({ index: 1 })
  await expect(page.getByTestId('result-count')).toHaveText(before!)
  await effects(page).nth(2).getByRole('checkbox', { name: 'alone' }).check()
  await expect(page.getByTestId('result-count')).toContainText('102 notes')
  await effects(page).nth(2).getByRole('checkbox', { name: 'alone' }).uncheck()
  await page.getByLabel('Name for this chain').fill('Tide over stones')
  await page.getByRole('button', { name: 'Keep it' }).click()
  await choose(page, /Orla’s flute/)
  await page.getByLabel('Take a kept chain').selectOption('Tide over stones')
  await expect(effects(page)).toHaveCount(3)
  await page.getByRole('button', { name: /^Undo: take the chain/ }).click()
  await expect(effects(page)).toHaveCount(0)
})

test('recorded through the loop under a busy page, and printed: the same notes', async ({ page }) => {
  test.setTimeout(180_000)
  failOnPageErrors(page)
  await openDemo(page)
  // The harp plays through five effects with chance and sends over a cable that is read here: a loop.
  await choose(page, /Sefa’s harp/)
  for (const effect of ['Chord in key', 'Arpeggio', 'Chance', 'Chance pitch', 'Repeat'])
    await putIn(page, effect)
  await goTo(page, 'Players')
  await page.getByText('Cables', { exact: true }).click()
  await page.getByRole('checkbox', { name: 'read', exact: true }).check()
  await page.getByRole('button', { name: 'Ways of Sefa’s harp' }).click()
  await page.getByLabel('also sends to').selectOption({ label: 'cable Quayside' })
  // Heard once, the loop takes its seat; the stand-ins stay silent in this recording.
  await page.getByRole('button', { name: 'Play', exact: true }).click()
  const seat = page.locator('[data-source]').filter({ hasText: 'over a cable' })
  await expect(seat).toHaveCount(1, { timeout: 20_000 })
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  for (const name of ['Orla’s flute', 'Benno’s piano', 'Sefa’s harp']) {
    await page.getByRole('button', { name: `Settings of ${name}` }).click()
    await page.getByRole('button', { name: 'Take off the list' }).click()
  }
  await page.getByRole('button', { name: 'Back to the beginning' }).click()
  await goTo(page, 'Record')
  await page.getByRole('combobox', { name: 'count-in' }).selectOption('0')
  await page
    .getByRole('button', { name: /^Record/ })
    .last()
    .click()
  await page.evaluate(async () => {
    const until = performance.now() + 43_000
    while (performance.now() < until) {
      const busyUntil = performance.now() + 400
      while (performance.now() < busyUntil);
      await new Promise((resolve) => setTimeout(resolve, 60))
    }
  })
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  await expect(page.getByTestId('take-account')).toContainText(/(\d{3,}) notes heard, \1 on tracks/)
  await choose(page, /Sefa’s harp/)
  await page.getByRole('button', { name: /^Print \d+ notes/ }).click()
  await expect(page.getByText('Each line below leads to the note it came from')).toBeVisible()
  // The comparison is made on what is delivered: one file of each, at the finest division.
  await goTo(page, 'Deliver')
  await page.getByLabel('MIDI ticks to a quarter').selectOption('10080')
  await page.getByRole('button', { name: 'Write and check the files' }).click()
  const whole = await savedFile(page, page.getByRole('button', { name: /^Save .*\.mid$/ }).first())
  const tracks = readMidiFile(whole.bytes).tracks.map(({ events }) => ({
    name: events.find((event) => event.type === 'trackName')?.text ?? '',
    notes: events.flatMap((event) =>
      event.type === 'noteOn' ? [{ tick: event.tick, key: event.key, velocity: event.velocity }] : [],
    ),
  }))
  const looped = tracks.find(({ name }) => name.startsWith('Quayside'))!.notes
  const printed = tracks.find(({ name }) => name.endsWith(', printed'))!.notes
  expect(printed.length).toBeGreaterThan(200)
  const lastTick = looped.at(-1)!.tick
  const expected = printed.filter(({ tick }) => tick <= lastTick)
  expect(looped.map(({ key, velocity }) => `${key} ${velocity}`).sort()).toEqual(
    expected.map(({ key, velocity }) => `${key} ${velocity}`).sort(),
  )
  // Within a millisecond: at 92 bpm a tick is 0.065 ms.
  const byKey = (notes: typeof looped) => [...notes].sort((a, b) => a.key - b.key || a.tick - b.tick)
  const [a, b] = [byKey(looped), byKey(expected)]
  const apartMs = a.map((each, index) => Math.abs(each.tick - b[index]!.tick) * (60_000 / 92 / 10_080))
  expect(Math.max(...apartMs)).toBeLessThan(1)
})

test('effects of a player: the result is recorded, and the take comes back as played', async ({ page }) => {
  await newPiece(page)
  await choose(page, /Your keys/, 1)
  await putIn(page, 'Chord in key')
  await goTo(page, 'Record')
  await page.getByRole('combobox', { name: 'count-in' }).selectOption('0')
  await page.getByRole('button', { name: 'Record everyone' }).click()
  await expect(page.getByTestId('position')).toHaveText(/^1 · [23] · /)
  for (const key of ['KeyA', 'KeyD']) {
    await page.keyboard.down(key)
    await page.waitForTimeout(150)
    await page.keyboard.up(key)
  }
  await page.keyboard.press('Shift+R')
  await expect(page.getByTestId('take-account')).toContainText('2 notes heard, 2 on tracks')
  expect((await listed(page, 'Your keys')).map((row) => row.split(' ').at(-2))).toEqual([
    'C4',
    'E4',
    'G4',
    'E4',
    'G4',
    'B4',
  ])
  await goTo(page, 'Record')
  await page.getByRole('button', { name: 'as played' }).click()
  expect((await listed(page, 'Your keys')).map((row) => row.split(' ').at(-2))).toEqual(['C4', 'E4'])
  await goTo(page, 'Record')
  await page.getByRole('button', { name: 'with effects' }).click()
  expect(await listed(page, 'Your keys')).toHaveLength(6)
})

test('a pattern changed while it is recorded is part of the performance', async ({ page }) => {
  await openDemo(page)
  await choose(page, /Sefa’s harp/)
  await putIn(page, 'Transpose')
  await page.keyboard.press('Shift+R')
  await expect(page.getByTestId('position')).toHaveText(/^3 · /, { timeout: 30_000 })
  await page.getByLabel('Presets of Transpose').selectOption('An octave down')
  await expect(page.getByTestId('position')).toHaveText(/^4 · [23] · /, { timeout: 30_000 })
  await page.keyboard.press('Shift+R')
  await expect(page.getByText('The effects were changed 1 time while they played')).toBeVisible()
  await page.getByRole('button', { name: 'Forget the changes' }).click()
  await expect(page.getByText('The effects were changed')).toHaveCount(0)
})

test('a chart plays while a live take is recorded, each on its own tracks; then the generator rests', async ({
  page,
}) => {
  failOnPageErrors(page)
  await newPiece(page)
  await generator(page, 'Bass, drums and comping')
  await goTo(page, 'Record')
  await page.getByRole('combobox', { name: 'count-in' }).selectOption('0')
  await page.getByRole('button', { name: 'Record everyone' }).click()
  await expect(page.getByTestId('position')).toHaveText(/^1 · [234] · /)
  await page.keyboard.down('KeyA')
  await page.waitForTimeout(200)
  await page.keyboard.up('KeyA')
  await expect(page.getByTestId('position')).toHaveText(/^[3-9] · /, { timeout: 20_000 })
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
  failOnPageErrors(page)
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

test('printed, compared, repeated, given another instrument, delivered; a chain without end is bounded', async ({
  page,
}) => {
  await openDemo(page)
  await choose(page, /Sefa’s harp/)
  await putIn(page, 'Arpeggio')
  await page.getByRole('button', { name: /^Print \d+ notes/ }).click()
  await page.getByRole('button', { name: 'Hear the source', exact: true }).click()
  await expect(page.getByRole('button', { name: 'Hear the source', exact: true })).toHaveAttribute(
    'aria-pressed',
    'true',
  )
  await page.getByRole('button', { name: 'Hear the print', exact: true }).click()
  await page.getByRole('textbox', { name: 'Take bars' }).fill('5')
  await page.getByRole('textbox', { name: 'to', exact: true }).fill('8')
  await page.getByRole('textbox', { name: 'and play them times' }).fill('3')
  await page.getByRole('button', { name: 'Take and repeat' }).click()
  await expect(page.getByTestId('result-count')).toContainText(/printed · 1\d\d notes/)
  await page.getByRole('button', { name: 'Edit the notes' }).click()
  await page.getByRole('combobox', { name: 'Instrument of Sefa’s harp, printed' }).click()
  await page.getByRole('option', { name: 'Vibraphone' }).click()
  await goTo(page, 'Deliver')
  await page.getByRole('button', { name: 'Write and check the files' }).click()
  await expect(page.locator('[data-file$=".mid"]').first()).toBeVisible({ timeout: 30_000 })
  await choose(page, /Benno’s piano/)
  for (let count = 0; count < 4; count++) {
    await putIn(page, 'Repeat')
    await effects(page).nth(count).getByLabel('Times').fill('16')
  }
  await expect(alert(page)).toContainText('multiplies without end')
})
