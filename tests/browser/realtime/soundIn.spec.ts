import AxeBuilder from '@axe-core/playwright'
import type { Page } from '@playwright/test'
import { soundingPlayers } from '@/core/demo/soundingPlayers'
import { readWav } from '@/core/sound/readWav'
import { choose, effects, listed, putIn } from '../effectsPlaces'
import { expect, test } from '../fixtures'
import { bringIn, chooseTrack, goTo, newPiece, saved, savedFile } from '../helpers'

/** Seats one of the inputs of sound, as a person does. */
async function joinBySound(page: Page, input: string): Promise<void> {
  await goTo(page, 'Players')
  const panel = page.getByRole('complementary', { name: 'The wiring' })
  const button = panel.getByRole('button', { name: 'Listen', exact: true })
  if (!(await button.isVisible())) await panel.getByText('Sound in', { exact: true }).click()
  await panel.getByLabel('input', { exact: true }).selectOption({ label: input })
  await button.click()
}

const source = (page: Page, name: string) => page.locator('[data-source]').filter({ hasText: name })

async function record(page: Page, seconds: number): Promise<void> {
  await goTo(page, 'Record')
  await page.getByRole('button', { name: /^Record everyone/ }).click()
  await expect(page.getByRole('status').filter({ hasText: /^Recording/ })).toBeVisible({ timeout: 20_000 })
  await page.waitForTimeout(seconds * 1000)
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  await expect(page.getByTestId('take-account')).toContainText('on tracks')
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

const letters: Readonly<Record<string, number>> = { C: 0, D: 2, E: 4, F: 5, G: 7, A: 9, B: 11 }
/** Key of a name such as "B♭3". */
function keyOf(name: string): number {
  const [, letter, sign, octave] = /^([A-G])([♯♭]?)(-?\d)$/.exec(name)!
  return letters[letter!]! + (sign === '♯' ? 1 : sign === '♭' ? -1 : 0) + 12 * (Number(octave) + 1)
}
/** Place in quarters and key of a row such as "2 · 1 · 51 F3 75", in four quarters to the bar. */
function noteOf(row: string): { quarters: number; key: number } {
  const [, bar, beat, hundredths, name] = /^(\d+) · (\d) · (\d\d) (\S+) \d+$/.exec(row)!
  const quarters = (Number(bar) - 1) * 4 + Number(beat) - 1 + Number(hundredths) / 100
  return { quarters, key: keyOf(name!) }
}

const [guitar, pipe, voice] = soundingPlayers
const quarter = 10_080

test('a stand-in guitar is heard and recorded: its track and page have what it played, when it played it', async ({
  page,
}) => {
  await newPiece(page)
  await joinBySound(page, `${guitar!.name} (stand-in)`)
  const card = source(page, guitar!.name)
  await expect(card.getByText('good')).toBeVisible()
  await card.getByRole('button', { name: `Settings of ${guitar!.name}` }).click()
  await expect(card.getByRole('img', { name: /^Pitch of/ })).toBeVisible()
  const violations = (await new AxeBuilder({ page }).analyze()).violations
  expect(violations.map(({ id, nodes }) => [id, nodes.map(({ html }) => html)])).toEqual([])
  await record(page, 12)
  const notes = (await listed(page, guitar!.name)).map(noteOf)
  const played = guitar!.part.slice(0, notes.length)
  const found = inCommon(
    played.map(({ key }) => key),
    notes.map(({ key }) => key),
  )
  expect(notes.length).toBeGreaterThan(25)
  // The last is cut by the end of the take; one more may be heard otherwise.
  expect(notes.length - found).toBeLessThanOrEqual(2)
  // Where both agree, the follower's own delay is not in the take: 40 ms are 7 hundredths of a quarter.
  const off = notes.flatMap(({ quarters, key }) => {
    const near = played.find(
      (note) => note.key === key && Math.abs(note.onsetTicks / quarter - quarters) < 0.25,
    )
    return near ? [Math.abs(quarters - near.onsetTicks / quarter)] : []
  })
  expect(off.sort((a, b) => a - b)[off.length >> 1]!).toBeLessThan(0.07)
  await goTo(page, 'Score')
  await expect(page.locator('svg g.note').first()).toBeVisible({ timeout: 30_000 })
  await expect.poll(() => page.locator('svg g.note').count()).toBeGreaterThan(20)
})

test('a guitar line through chords in key becomes chords on its track and on the page', async ({ page }) => {
  await newPiece(page)
  await joinBySound(page, `${guitar!.name} (stand-in)`)
  await expect(source(page, guitar!.name).getByText('good')).toBeVisible()
  await goTo(page, 'Effects')
  // On the player, so that chords are what is recorded.
  await choose(page, new RegExp(`^${guitar!.name}`), 1)
  await putIn(page, 'Chord in key')
  await expect(effects(page)).toHaveCount(1)
  await record(page, 8)
  await page.getByRole('button', { name: 'See the page' }).click()
  await expect(page.locator('svg g.chord').first()).toBeVisible({ timeout: 30_000 })
  expect(await page.locator('svg g.chord').count()).toBeGreaterThan(8)
})

test('the sound is kept with the take: told, seen, saved, there after a reload, read again, let go', async ({
  page,
}) => {
  await newPiece(page)
  // The tempo changes in the middle of the take: what is read again lies under what was followed all the same.
  await page.getByRole('button', { name: 'Tempo and meter along the piece' }).click()
  const plan = page.getByRole('dialog', { name: 'Tempo and meter along the piece' })
  await plan.getByLabel('at bar').fill('3')
  await plan.getByRole('button', { name: 'Add a tempo' }).click()
  await plan.getByRole('list', { name: 'Tempo changes' }).getByLabel('♩ =').last().fill('170')
  await page.keyboard.press('Enter')
  await page.keyboard.press('Escape')
  await joinBySound(page, `${voice!.name} (stand-in)`)
  await joinBySound(page, `${pipe!.name} (stand-in)`)
  await expect(source(page, pipe!.name).getByText('good')).toBeVisible()
  await record(page, 10)
  await goTo(page, 'Tracks')
  await chooseTrack(page, voice!.name)
  const lane = page.getByRole('region', { name: 'Sound', exact: true })
  await expect(lane.getByTestId('kept-sound')).toHaveText(/sound of Take 1, Linnet’s voice, \d+ s, 0\.\d MB/)
  await expect(lane.getByRole('img', { name: /^The sound of Take 1/ })).toBeVisible()
  await saved(page)
  await page.waitForTimeout(1500)
  await page.reload()
  await goTo(page, 'Tracks')
  await chooseTrack(page, voice!.name)
  await expect(lane.getByTestId('kept-sound')).toBeVisible()
  const wav = await savedFile(page, lane.getByRole('button', { name: 'Save it' }))
  expect(wav.name).toBe('Take 1, Linnet’s voice.wav')
  const sound = readWav(wav.bytes)
  expect(sound.channels.length).toBe(1)
  const seconds = sound.channels[0]!.length / sound.sampleRate
  expect(seconds).toBeGreaterThan(6)
  const loud = sound.channels[0]!.filter((sample) => Math.abs(sample) > 0.05).length
  expect(loud / sound.channels[0]!.length).toBeGreaterThan(0.3)
  // Heard with its notes, then read anew.
  await lane.getByLabel('hear it with the notes').check()
  await page.getByRole('button', { name: 'Play', exact: true }).click()
  await page.waitForTimeout(1200)
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  await lane.getByRole('button', { name: 'Read it again' }).click()
  const reading = page.getByRole('region', { name: 'Read a recording' })
  await expect(reading.getByLabel('played by')).toHaveValue('voice')
  await reading.getByRole('button', { name: 'Read its notes' }).click()
  await reading.getByRole('button', { name: 'Take these notes' }).click({ timeout: 30_000 })
  await expect(reading).toHaveCount(0)
  const again = (await listed(page, 'Take 1, Linnet’s voice')).map(noteOf)
  const live = (await listed(page, voice!.name)).map(noteOf)
  expect(
    inCommon(
      again.map(({ key }) => key),
      live.map(({ key }) => key),
    ),
  ).toBeGreaterThanOrEqual(live.length - 2)
  // In quarters from each note of the one to the nearest of that key in the other.
  const apart = again.map(({ key, quarters }) =>
    Math.min(...live.filter((note) => note.key === key).map((note) => Math.abs(note.quarters - quarters))),
  )
  expect(apart.filter((distance) => distance > 0.15).length).toBeLessThanOrEqual(2)
  // The file of the piece has it when that is wished: brought in, it is there again.
  await goTo(page, 'Deliver')
  const wish = page.getByLabel(/^with the sound of its takes, \d/)
  const save = page.getByRole('button', { name: 'Save the project to a file' })
  const whole = await savedFile(page, save)
  await wish.uncheck()
  const without = await savedFile(page, save)
  expect(whole.bytes.byteLength).toBeGreaterThan(without.bytes.byteLength + 200_000)
  // Its sound can be let go: the notes stay.
  await goTo(page, 'Tracks')
  await chooseTrack(page, voice!.name)
  await lane.getByRole('button', { name: /^Let go of the sound/ }).click()
  await lane.getByRole('button', { name: 'Keep it' }).click()
  await lane.getByRole('button', { name: /^Let go of the sound/ }).click()
  await lane.getByRole('button', { name: 'Let go of it' }).click()
  await expect(lane).toHaveCount(0)
  expect((await listed(page, voice!.name)).length).toBe(live.length)
  await chooseTrack(page, pipe!.name)
  await page.getByRole('button', { name: 'Show as drawing' }).click()
  await expect(lane.getByTestId('kept-sound')).toContainText(pipe!.name)
  await bringIn(page, whole)
  await page.waitForURL(/\/project/)
  await goTo(page, 'Tracks')
  await chooseTrack(page, voice!.name)
  await expect(lane.getByTestId('kept-sound')).toContainText(voice!.name)
  const wavAgain = await savedFile(page, lane.getByRole('button', { name: 'Save it' }))
  expect(wavAgain.bytes.byteLength).toBe(wav.bytes.byteLength)
})

test('how late an input is can be measured by playing along', async ({ page }) => {
  await newPiece(page)
  await joinBySound(page, `${guitar!.name} (stand-in)`)
  const card = source(page, guitar!.name)
  await expect(card.getByText('good')).toBeVisible()
  await card.getByRole('button', { name: `Settings of ${guitar!.name}` }).click()
  await card.getByRole('button', { name: /^Measure/ }).click()
  const result = card.getByText(/^Median [\d.]+ ms/)
  await expect(result).toBeVisible({ timeout: 30_000 })
  // What the follower takes to know a note is no lateness of the player, who is two milliseconds late.
  expect(Number(/[\d.]+/.exec((await result.textContent())!)![0])).toBeLessThan(25)
})

test('what is played into an input outside recording can still become a take, with its sound', async ({
  page,
}) => {
  await newPiece(page)
  await joinBySound(page, `${guitar!.name} (stand-in)`)
  await expect(source(page, guitar!.name).getByText('good')).toBeVisible()
  await page.getByRole('button', { name: 'Let them play' }).click()
  const keep = page.getByRole('button', { name: /^Keep as a take/ })
  await expect(keep).toBeVisible({ timeout: 20_000 })
  await page.waitForTimeout(4000)
  await page.getByRole('button', { name: 'Thank you, stop' }).click()
  await page.waitForTimeout(1500)
  await keep.click()
  await goTo(page, 'Tracks')
  await chooseTrack(page, guitar!.name)
  await expect(page.getByTestId('kept-sound')).toContainText(guitar!.name)
})

test('the tuner tells what a stand-in plays, by key and by string, at another concert pitch', async ({
  page,
}) => {
  await newPiece(page)
  await joinBySound(page, `${pipe!.name} (stand-in)`)
  const card = source(page, pipe!.name)
  await card.getByRole('button', { name: `Settings of ${pipe!.name}` }).click()
  await card.getByRole('button', { name: 'Tuner' }).click()
  const tuner = card.getByRole('region', { name: 'Tuner' })
  await expect(tuner.getByTestId('tuner-words')).toHaveText('Play one tone.')
  await page.getByRole('button', { name: 'Let them play' }).click()
  await expect(tuner.getByTestId('tuner-note')).toHaveText('A4')
  await expect(tuner.getByTestId('tuner-words')).toHaveText(/^(in tune|\d+ cents too (high|low))$/)
  await tuner.getByLabel('A4 is').fill('415')
  await tuner.getByLabel('A4 is').press('Enter')
  await page.getByRole('button', { name: 'Thank you, stop' }).click()
  await page.getByRole('button', { name: 'Let them play' }).click()
  // Half a tone lower is what is called A now.
  await expect(tuner.getByTestId('tuner-note')).toHaveText('B♭4')
  await tuner.getByLabel('strings of').selectOption({ label: 'violin' })
  await tuner.getByRole('button', { name: 'A4' }).click()
  await expect(tuner.getByTestId('tuner-words')).toHaveText(/cents too high/)
  await page.getByRole('button', { name: 'Undo' }).first().click()
  await expect(tuner.getByLabel('A4 is')).toHaveValue('440')
})

test('no input, or one that may not be listened to: a sentence says why, and another input can be chosen', async ({
  page,
}) => {
  await newPiece(page)
  await joinBySound(page, 'The system’s input')
  const card = source(page, 'The system’s input')
  await expect(card.getByRole('status')).toContainText(
    /is not there\. Plug it in|does not let this page listen/,
  )
  await card.getByRole('button', { name: 'Listen', exact: true }).click()
  await expect(card.getByRole('status')).toContainText(
    /is not there\. Plug it in|does not let this page listen/,
  )
  // A browser that asks and is told no.
  await page.evaluate(() => {
    navigator.mediaDevices.getUserMedia = () => Promise.reject(new DOMException('no', 'NotAllowedError'))
  })
  await card.getByRole('button', { name: 'Listen', exact: true }).click()
  await expect(card.getByRole('status')).toContainText(
    'The browser does not let this page listen. Allow the microphone beside the address, then press Listen again.',
  )
  // Reloaded, it does not ask by itself.
  await saved(page)
  await page.reload()
  await goTo(page, 'Players')
  await expect(card.getByRole('status')).toContainText('Press Listen')
  await card.getByRole('button', { name: /^Settings of/ }).click()
  await card.getByLabel('input', { exact: true }).selectOption({ label: `${pipe!.name} (stand-in)` })
  await expect(card.getByText('good')).toBeVisible()
})

test('of two tabs one listens; the other says so, and listens when it takes the piece over', async ({
  page,
  context,
}) => {
  await newPiece(page)
  await joinBySound(page, `${pipe!.name} (stand-in)`)
  await expect(source(page, pipe!.name).getByText('good')).toBeVisible()
  await saved(page)
  const second = await context.newPage()
  await second.goto(page.url())
  await goTo(second, 'Players')
  await expect(source(second, pipe!.name).getByRole('status')).toContainText('This tab only reads the piece')
  await second.getByRole('button', { name: 'Take it over here' }).click()
  await expect(source(second, pipe!.name).getByText('good')).toBeVisible()
  await expect(source(page, pipe!.name).getByRole('status')).toContainText('This tab only reads the piece')
})

test('undo takes an input off and lets go of it, redo seats it again and listens', async ({ page }) => {
  await newPiece(page)
  await joinBySound(page, `${guitar!.name} (stand-in)`)
  const card = source(page, guitar!.name)
  await expect(card.getByText('good')).toBeVisible()
  await page.getByRole('button', { name: /^Undo: seat/ }).click()
  await expect(card).toHaveCount(0)
  await page.getByRole('button', { name: /^Redo: seat/ }).click()
  await expect(card.getByText('good')).toBeVisible()
  await page.getByRole('button', { name: 'Let them play' }).click()
  await expect(card.getByText(/^[A-G]♯?♭?[2-5]$/)).toBeVisible({ timeout: 10_000 })
})
