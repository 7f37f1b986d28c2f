import AxeBuilder from '@axe-core/playwright'
import type { Page } from '@playwright/test'
import { readMidiFile } from '../../../src/core/midi/standardMidiFile/read'
import { writeMidiFile } from '../../../src/core/midi/standardMidiFile/write'
import { expect, test } from '../fixtures'
import { bringIn, deliveredMusicXml, expectEveryFileProved, goTo, savedFile } from '../helpers'

/** A piano, ten bars: four quarters a bar above, with a black key and one key twice in each, and a whole note below. */
function pianoFile(): Uint8Array {
  const quarter = 480
  const bars = Array.from({ length: 10 }, (_, bar) => bar * 4)
  const notes = bars.flatMap((beat) => [
    ...[72, 70, 77, 77].map((key, place) => ({ key, beat: beat + place, beats: 1 })),
    { key: 53 - 12, beat, beats: 4 },
  ])
  const events = [
    { tick: 0, type: 'tempo' as const, microsecondsPerQuarter: 600_000 },
    { tick: 0, type: 'trackName' as const, text: 'Lantern piano' },
    ...notes
      .flatMap(({ key, beat, beats }) => [
        { tick: beat * quarter, type: 'noteOn' as const, channel: 1, key, velocity: 80 },
        { tick: (beat + beats) * quarter - 30, type: 'noteOff' as const, channel: 1, key, velocity: 64 },
      ])
      .sort((a, b) => a.tick - b.tick),
  ]
  return writeMidiFile({
    format: 1,
    divisionTicksPerQuarter: quarter,
    tracks: [{ events, endTick: 40 * quarter }],
  })
}

async function openPiano(page: Page): Promise<void> {
  await bringIn(page, { name: 'piano.mid', bytes: pianoFile() })
  await page.waitForURL(/project/)
  await goTo(page, 'Score')
  await expect(page.getByTestId('page').locator('g.note').first()).toBeVisible()
  await page.getByRole('region', { name: 'Page', exact: true }).focus()
}

const says = (page: Page) => page.getByTestId('place-says')

/** What is said now; nothing where nothing is chosen. */
const saysNow = (page: Page) =>
  page.evaluate(() => document.querySelector('[data-testid=place-says]')?.textContent ?? '')

/** One press that leads to another place. */
async function step(page: Page, key: string): Promise<void> {
  const before = await saysNow(page)
  await page.keyboard.press(key)
  await expect.poll(() => saysNow(page)).not.toBe(before)
}

/** Walks along the upper voice to a beat of a bar, from what is chosen before it. */
async function walkTo(page: Page, bar: number, beat: number): Promise<void> {
  const there = `bar ${bar}, beat ${beat}`
  for (let steps = 0; steps < 60; steps++) {
    const at = await saysNow(page)
    if (at.replace('the first: ', '').startsWith(there) && !at.includes(' and ')) return
    await step(page, 'ArrowRight')
  }
  throw new Error(`${there} was not reached`)
}

test('more than twenty changes by keys alone, heard by screen readers, in the file, and after a reload', async ({
  page,
}) => {
  await openPiano(page)
  /** At a beat of a bar, these keys, and what is said of the place then. */
  const changes: readonly (readonly [bar: number, beat: number, keys: readonly string[], says: string])[] = [
    [1, 1, ['8'], 'eighth'],
    [1, 2, ['='], 'A♯4'],
    [1, 3, ['+'], 'quarter'],
    [2, 1, ["'"], 'staccato'],
    [2, 2, ['-'], 'tenuto'],
    [2, 3, ['!'], 'accent'],
    [2, 4, ['^'], 'marcato'],
    [3, 1, ['~'], 'trill'],
    [3, 2, ['@'], 'fermata'],
    [3, 3, ['PageUp'], 'quarter'],
    [4, 1, ['8', '.'], 'dotted eighth'],
    [4, 3, ['6'], 'sixteenth'],
    [5, 1, ['Shift+ArrowRight', 'Shift+ArrowRight', '('], 'the first'],
    [5, 4, ['Shift+ArrowRight', 'Shift+ArrowRight', '<'], 'the first'],
    [6, 3, ['Shift+ArrowRight', '>'], 'the first'],
    [7, 1, ['Shift+ArrowRight', 'Shift+ArrowRight', '*'], 'in a group of 3'],
    [8, 1, ['\\'], 'lower staff'],
  ]
  for (const [bar, beat, keys, said] of changes) {
    await walkTo(page, bar, beat)
    for (const key of keys) await page.keyboard.press(key)
    await expect(says(page)).toContainText(said)
    if (said === 'A♯4') await expect(page.getByTestId('note-details').getByRole('heading')).toHaveText(said)
    // From several notes on to one: the walk goes on from the last.
    if (keys.length > 1) await step(page, 'ArrowRight')
  }
  // From the lower staff back up, and on.
  await page.keyboard.press('ArrowUp')
  await walkTo(page, 9, 1)
  await page.keyboard.press(':')
  await page.keyboard.press(']')
  await expect(says(page)).toContainText('bar 9, beat 1 and 0.25')
  await page.keyboard.press('ArrowRight')
  await page.keyboard.press('/')
  const { violations } = await new AxeBuilder({ page }).exclude('.engraved').analyze()
  expect(violations.map(({ id, nodes }) => [id, nodes[0]?.html])).toEqual([])
  await page.keyboard.press('Control+a')
  await expect(page.getByTestId('note-details').getByRole('heading')).toHaveText('4 notes')

  const byHand = page.getByRole('region', { name: 'Changed by hand' })
  await byHand.getByLabel(/show all \d+ changes/).check()
  await expect(byHand.getByRole('list', { name: 'Changes' }).getByRole('listitem')).not.toHaveCount(0)
  await expect(byHand.getByRole('status')).toBeHidden()

  const xml = await deliveredMusicXml(page)
  for (const written of [
    '<step>A</step><alter>1</alter>',
    '<staccato/>',
    '<tenuto/>',
    '<accent/>',
    '<strong-accent type="up"/>',
    '<trill-mark/>',
    '<fermata type="upright"/>',
    '<slur type="start"',
    '<wedge type="crescendo"/>',
    '<wedge type="diminuendo"/>',
    '<actual-notes>3</actual-notes>',
    '<repeat direction="backward"/>',
  ])
    expect(xml).toContain(written)

  await page.reload()
  await goTo(page, 'Score')
  await expect(byHand.getByLabel(/show all \d+ changes/)).toBeVisible()
  expect(await deliveredMusicXml(page)).toBe(xml)
})

test('what was played is changed from the page, a rest is not printed, and each step is undone', async ({
  page,
}) => {
  await openPiano(page)
  await walkTo(page, 1, 1)
  await page.keyboard.press('Alt+ArrowUp')
  await expect(says(page)).toContainText(/[CD][♯♭]5/)
  await page.keyboard.press('Alt+Shift+ArrowDown')
  await expect(says(page)).toContainText('4, quarter')
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+z')
  await expect(says(page)).toContainText('C5')
  await walkTo(page, 1, 3)
  await page.keyboard.press('Delete')
  await expect(page.getByTestId('page').locator('g.note')).not.toHaveCount(0)
  await expect(says(page)).toContainText('bar 1, beat 2')
  await page.keyboard.press('ArrowRight')
  await expect(says(page)).toContainText('bar 1, beat 3, quarter rest')
  await page.keyboard.press('Insert')
  await expect(says(page)).toContainText('bar 1, beat 3, G4, quarter')
  await page.keyboard.press('Control+z')
  await walkTo(page, 1, 2)
  await walkTo(page, 1, 3)
  await page.keyboard.press('Delete')
  await expect(page.getByRole('region', { name: 'Changed by hand' })).toBeVisible()
  await expect(page.getByTestId('page').locator('g.rest')).toHaveCount(0)
})

test('a change that no longer fits is listed, stays, and is taken back by a press; words and chords are typed and found', async ({
  page,
}) => {
  await openPiano(page)
  await walkTo(page, 1, 2)
  await page.keyboard.press('=')
  await expect(says(page)).toContainText('A♯4')
  await page.keyboard.press('Alt+ArrowUp')
  const byHand = page.getByRole('region', { name: 'Changed by hand' })
  await expect(byHand).toContainText('One change does not fit what is read now')
  await expect(byHand).toContainText('the note has another pitch now')
  await page.keyboard.press('Alt+ArrowDown')
  await expect(byHand.getByRole('status')).toBeHidden()
  await expect(says(page)).toContainText('A♯4')
  await byHand.getByRole('button', { name: 'Take all back' }).click()
  await expect(byHand).toBeHidden()
  await expect(says(page)).toContainText('B♭4')

  const write = page.getByRole('region', { name: 'Write' })
  await write.getByLabel('What is typed').selectOption('chord')
  await write.getByLabel('chord symbol', { exact: true }).fill('H7')
  await page.keyboard.press('Enter')
  await expect(page.getByTestId('pen-says')).toContainText('“H7” is no chord symbol')
  await page.getByRole('button', { name: 'Find chords' }).click()
  await expect(page.getByTestId('page').locator('g.dir').filter({ hasText: 'F' }).first()).toBeVisible()
  await write.getByLabel('What is typed').selectOption('words')
  await write.getByLabel('words above the staff').fill('like a buoy')
  await page.keyboard.press('Enter')
  await expect(page.getByTestId('page')).toContainText('like a buoy')
  const xml = await deliveredMusicXml(page)
  expect(xml).toContain('<harmony>')
  expect(xml).toContain('like a buoy')
})

test('the piece is heard as it was played or as it is written, and so are its MIDI files; one part before the others', async ({
  page,
}) => {
  await openPiano(page)
  await walkTo(page, 1, 1)
  await page.keyboard.press("'")
  await expect(says(page)).toContainText('staccato')
  const heard = page.getByRole('region', { name: 'How it is heard' })
  await heard.getByLabel('Plays').selectOption('as written')
  await goTo(page, 'Deliver')
  await expect(page.getByLabel('MIDI', { exact: true })).toHaveValue('written')
  await page.getByRole('button', { name: 'Write and check the files' }).click()
  await expect(page.locator('[data-file$=".musicxml"]')).toBeVisible({ timeout: 60_000 })
  await expectEveryFileProved(page)
  const file = await savedFile(page, page.getByRole('button', { name: /^Save .*piano\.mid$/ }).first())
  const [first] = readMidiFile(file.bytes).tracks.flatMap(({ events }) =>
    events.filter((event) => event.type === 'noteOff' && event.key === 72),
  )
  // A quarter with a dot is half a quarter long: 480 of 960.
  expect(first!.tick).toBe(480)
  await page.getByLabel('MIDI', { exact: true }).selectOption('as played')
  await expect(page.getByText('The piece has changed since these files were written.')).toBeVisible()

  await goTo(page, 'Score')
  await page.getByRole('region', { name: 'Page', exact: true }).focus()
  await page.keyboard.press('Enter')
  await expect(page.getByRole('button', { name: 'Stop', exact: true })).toBeVisible()
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  await page.getByRole('button', { name: 'Loop it' }).click()
  await expect(page.getByRole('button', { name: 'Stop', exact: true })).toBeVisible()
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
})
