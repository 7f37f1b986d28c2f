import { readMidiFile } from '../../../src/core/midi/standardMidiFile/read'
import { choose, effects, listed, places, putIn } from '../effectsPlaces'
import { expect, test } from '../fixtures'
import { alert, goTo, newPiece, openDemo, reaches, saved, savedFile } from '../helpers'

test('a chain: effects put in, moved by keys, soloed, taken from a preset, kept and used on another track', async ({
  page,
}) => {
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
  // Two throws may let as many notes through: thrown until another number comes out.
  let throws = 0
  do {
    await effects(page).nth(0).getByRole('button', { name: 'Another throw' }).click()
    throws++
    await page.waitForTimeout(150)
  } while ((await page.getByTestId('result-count').textContent()) === before && throws < 12)
  await expect(page.getByTestId('result-count')).not.toHaveText(before!)
  // An old throw can be returned to: the latest stands first.
  await effects(page).nth(0).getByLabel('Earlier throws').selectOption({ index: throws })
  await expect(page.getByTestId('result-count')).toHaveText(before!)
  await effects(page).nth(2).getByRole('checkbox', { name: 'alone' }).check()
  await expect(page.getByTestId('result-count')).toContainText('102 notes')
  await effects(page).nth(2).getByRole('checkbox', { name: 'alone' }).uncheck()
  // A single effect is kept as a preset of its own, and taken elsewhere.
  await effects(page).nth(0).getByLabel('Presets of Chance').selectOption('keep these settings…')
  await page.getByLabel('Name for this chance').fill('Spray')
  await page.getByLabel('Name for this chance').press('Enter')
  await expect(page.getByLabel('Name for this chance')).toHaveCount(0)
  await effects(page).nth(0).getByLabel('Presets of Chance').selectOption({ label: 'Spray' })
  await expect(page.getByRole('button', { name: 'Undo: take the preset “Spray” (Ctrl+Z)' })).toBeVisible()
  await page.getByLabel('Name for this chain').fill('Spray')
  await expect(page.getByRole('button', { name: 'Replace it' })).toBeVisible()
  await page.getByLabel('Name for this chain').fill('Tide over stones')
  await page.getByRole('button', { name: 'Keep it' }).click()
  await choose(page, /Orla’s flute/)
  await page.getByLabel('Take a kept chain').selectOption('Tide over stones')
  await expect(effects(page)).toHaveCount(3)
  await page.getByRole('button', { name: /^Undo: take the chain/ }).click()
  await expect(effects(page)).toHaveCount(0)
})

test('recorded through the loop under a busy page, and printed: the same notes', async ({
  page,
  clockTimes,
}) => {
  test.setTimeout(180_000)
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
  await page.evaluate(async (busyMs) => {
    const until = performance.now() + busyMs
    while (performance.now() < until) {
      const busyUntil = performance.now() + 400
      while (performance.now() < busyUntil);
      await new Promise((resolve) => setTimeout(resolve, 60))
    }
  }, 43_000 / clockTimes)
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
  await reaches(page, 1, 2)
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
  await reaches(page, 3)
  await page.getByLabel('Presets of Transpose').selectOption('An octave down')
  await reaches(page, 4, 2)
  await page.keyboard.press('Shift+R')
  await expect(page.getByText('The effects were changed 1 time while they played')).toBeVisible()
  await page.getByRole('button', { name: 'Forget the changes' }).click()
  await expect(page.getByText('The effects were changed')).toHaveCount(0)
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

test('while someone plays, each effect shows what goes in and what comes out', async ({ page }) => {
  await newPiece(page)
  await choose(page, /^Your keys/)
  await putIn(page, 'Chord in key')
  await putIn(page, 'Transpose')
  await effects(page).nth(1).getByLabel('Octaves').fill('1')
  // The slider that was just moved has the keyboard, and is no hindrance to playing.
  await page.keyboard.down('KeyA')
  await expect(effects(page).nth(0).getByTestId('flow')).toHaveText('C4 → C4 E4 G4')
  await expect(effects(page).nth(1).getByTestId('flow')).toHaveText('C4 E4 G4 → C5 E5 G5')
  await page.keyboard.up('KeyA')
  await expect(effects(page).nth(0).getByTestId('flow')).toHaveText('')
  await page.keyboard.press('Control+Z')
  await expect(effects(page).nth(1).getByLabel('Octaves')).toHaveValue('0')
  // The same for the effects of a player, before its tracks.
  await choose(page, /^Your keys/, 1)
  await putIn(page, 'Fixed chord')
  await page.keyboard.down('KeyA')
  await expect(effects(page).first().getByTestId('flow')).toHaveText(/^C4 → C4 \S+ \S+/)
  await page.keyboard.up('KeyA')
  await expect(effects(page).first().getByTestId('flow')).toHaveText('')
})

test('a chain comes back after a reload, is undone step by step, and a second tab reads it without changing it', async ({
  page,
}) => {
  await openDemo(page)
  await choose(page, /Sefa’s harp/)
  await putIn(page, 'Echo')
  await putIn(page, 'Humanise')
  await saved(page)
  await page.reload()
  await choose(page, /Sefa’s harp/)
  await expect(effects(page)).toHaveCount(2)
  const second = await page.context().newPage()
  await second.goto(page.url())
  await choose(second, /Sefa’s harp/)
  await expect(effects(second)).toHaveCount(2)
  await putIn(second, 'Transpose')
  await expect(effects(second)).toHaveCount(2)
  // The first tab still writes, and every step of it can be undone.
  await page.bringToFront()
  await effects(page).nth(1).getByRole('button', { name: 'Take out Humanise' }).click()
  await expect(effects(page)).toHaveCount(1)
  await page.getByRole('button', { name: /^Print \d+ notes/ }).click()
  await expect(places(page).getByRole('button', { name: /^Sefa’s harp, printed/ })).toBeVisible()
  await page.getByRole('button', { name: /^Undo: print/ }).click()
  await expect(places(page).getByRole('button', { name: /^Sefa’s harp, printed/ })).toHaveCount(0)
  await page.getByRole('button', { name: /^Undo: take out humanise/ }).click()
  await choose(page, /Sefa’s harp/)
  await expect(effects(page)).toHaveCount(2)
})

test('when its print is deleted, a track says that its effects rest, and brings them back', async ({
  page,
}) => {
  await openDemo(page)
  await choose(page, /Sefa’s harp/)
  await putIn(page, 'Arpeggio')
  await page.getByRole('button', { name: /^Print \d+ notes/ }).click()
  await goTo(page, 'Tracks')
  await page.getByRole('button', { name: 'Delete Sefa’s harp, printed' }).click()
  await choose(page, /Sefa’s harp/)
  await expect(page.getByRole('status').filter({ hasText: 'The effects of Sefa’s harp rest' })).toBeVisible()
  await page.getByRole('button', { name: 'Bring the effects back' }).click()
  await expect(places(page).getByRole('button', { name: /^Sefa’s harp 1 effect on/ })).toBeVisible()
})

test('the voices of what a player plays are dealt straight to tracks of their own', async ({ page }) => {
  await newPiece(page)
  await choose(page, /^Your keys/, 1)
  await putIn(page, 'Chord in key')
  await putIn(page, 'Deal voices to channels')
  await effects(page).nth(1).getByRole('slider', { name: 'Voices' }).fill('3')
  await expect(page.getByRole('status').filter({ hasText: 'reach no track yet' })).toContainText(
    '2 of the voices',
  )
  await page.getByRole('button', { name: 'A track for each voice', exact: true }).click()
  await expect(page.getByRole('button', { name: 'A track for each voice', exact: true })).toHaveCount(0)
  await goTo(page, 'Record')
  await page.getByRole('combobox', { name: 'count-in' }).selectOption('0')
  await page.getByRole('button', { name: 'Record everyone' }).click()
  await reaches(page, 1, 2)
  await page.keyboard.down('KeyA')
  await page.waitForTimeout(200)
  await page.keyboard.up('KeyA')
  await page.keyboard.press('Shift+R')
  await expect(page.getByText(/on 3 tracks/)).toBeVisible()
  const keys = async (track: string) => (await listed(page, track)).map((row) => row.split(' ').at(-2))
  expect(await keys('Your keys')).toEqual(['C4'])
  expect(await keys('Your keys, voice 2')).toEqual(['E4'])
  expect(await keys('Your keys, voice 3')).toEqual(['G4'])
})
