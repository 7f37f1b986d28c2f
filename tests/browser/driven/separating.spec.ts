import AxeBuilder from '@axe-core/playwright'
import type { Page } from '@playwright/test'
import { readMidiFile } from '../../../src/core/midi/standardMidiFile/read'
import { writeMidiFile } from '../../../src/core/midi/standardMidiFile/write'
import { knownMusic, mergedNotes } from '../../../src/core/separation/voices/knownMusic.testing'
import { expect, test } from '../fixtures'
import { bringIn, chooseTrack, expectEveryFileProved, goTo, openDemo, saved, savedFile } from '../helpers'

interface FileNote {
  readonly onset: number
  readonly end: number
  readonly key: number
  readonly velocity?: number
}

/** A file with everything on one track and channel; times in quarters. */
function oneTrack(notes: readonly FileNote[], channel = 1): Uint8Array {
  const events = notes
    .flatMap(({ onset, end, key, velocity = 80 }) => [
      { tick: Math.round(onset * 480), type: 'noteOn' as const, channel, key, velocity },
      { tick: Math.round(end * 480) - 6, type: 'noteOff' as const, channel, key, velocity: 64 },
    ])
    .sort((a, b) => a.tick - b.tick)
  const endTick = events.at(-1)!.tick
  return writeMidiFile({ format: 1, divisionTicksPerQuarter: 480, tracks: [{ events, endTick }] })
}

async function openFile(page: Page, bytes: Uint8Array): Promise<void> {
  await bringIn(page, { name: 'apart.mid', bytes })
  await page.waitForURL(/project/)
  await goTo(page, 'Tracks')
}

const bench = (page: Page, title: string) => page.getByRole('complementary', { name: title })
const roll = (page: Page) => page.getByRole('application')

async function takeApart(page: Page, way: string) {
  const apart = bench(page, 'Take apart')
  if (!(await apart.isVisible())) await page.getByRole('button', { name: 'Take apart', exact: true }).click()
  await apart.getByLabel('Take apart', { exact: true }).last().selectOption({ label: way })
  return apart
}

/** Two voices of a right hand: the upper rests for a quarter, the lower goes on in its range. */
const rightHand: FileNote[] = [
  ...[76, 77, 79, 77, 76, 74, 72, 74].map((key, index) => ({ onset: index, end: index + 1, key })),
  ...[67, 69, 71, 69].map((key, index) => ({ onset: index * 2, end: index * 2 + 2, key })),
]

test('a two-voice right hand is told apart, corrected, carried on and delivered with its voices', async ({
  page,
}) => {
  await openFile(page, oneTrack(rightHand))
  const apart = await takeApart(page, 'by voice')
  const parts = apart.getByRole('list', { name: 'Parts' }).getByRole('listitem')
  await expect(parts).toHaveText([/voice 1\s*8 · C5–G5/, /voice 2\s*4 · G4–B4/])
  await apart.getByRole('button', { name: 'Keep as voices of this part' }).click()
  await expect(page.getByText('12 notes are in 2 voices of Channel 1 now.')).toBeVisible()

  // One note is put elsewhere by hand: in the list it can be reached without knowing where it is drawn.
  const voices = page.getByRole('group', { name: 'Voices' })
  await page.getByRole('button', { name: 'Show as list' }).click()
  await page
    .getByRole('region', { name: /List of/ })
    .getByRole('button', { name: /^2 · 1/ })
    .last()
    .click()
  await page.getByRole('button', { name: 'Show as drawing' }).click()
  await expect(page.getByTestId('selection')).toContainText(/E5.*voice 1/)
  await roll(page).focus()
  await page.keyboard.press('2')
  await expect(page.getByTestId('selection')).toContainText('voice 2')
  await page.keyboard.press('.')
  await expect(page.getByText(/\d+ notes that follow changed voice, up to bar 2/)).toBeVisible()

  // It stays through undo and redo, and through a reload.
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+Shift+z')
  await saved(page)
  await page.reload()
  await goTo(page, 'Tracks')
  await voices.getByRole('button', { name: 'voice 2', exact: true }).click()
  await expect(page.getByTestId('selection')).toContainText(/^[5-8] of 12 notes selected/)

  // Both files have the voices: numbers in one, a track for each in the other.
  await goTo(page, 'Deliver')
  await page.getByRole('button', { name: 'Write and check the files' }).click()
  await expect(page.locator('[data-file$=".musicxml"]')).toBeVisible({ timeout: 60_000 })
  await expectEveryFileProved(page)
  const midi = await savedFile(page, page.getByRole('button', { name: /^Save .*\.mid$/ }).first())
  const tracks = readMidiFile(midi.bytes).tracks.map(({ events }) => ({
    name: events.find((event) => event.type === 'trackName')?.text,
    keys: events.flatMap((event) => (event.type === 'noteOn' ? [event.key] : [])),
  }))
  expect(tracks.slice(1).map(({ name }) => name)).toEqual(['Channel 1, voice 1', 'Channel 1, voice 2'])
  expect(tracks.flatMap(({ keys }) => keys)).toHaveLength(12)
  const xml = await savedFile(page, page.getByRole('button', { name: /^Save .*\.musicxml$/ }).first())
  const text = new TextDecoder().decode(xml.bytes)
  expect(text).toContain('<voice>1</voice>')
  expect(text).toContain('<voice>2</voice>')
})

test('a chorale is put on four tracks, compared, and comes back with one press; put together it is one part', async ({
  page,
}) => {
  const chorale = mergedNotes(knownMusic[0]!).map(({ onsetQuarters, endQuarters, key }) => ({
    onset: onsetQuarters,
    end: endQuarters,
    key,
  }))
  await openFile(page, oneTrack(chorale))
  const apart = await takeApart(page, 'by voice')
  await apart.getByRole('button', { name: 'Put on 4 tracks' }).click()
  await expect(page.locator('[data-lane]')).toHaveCount(5)
  const mute = page.getByRole('button', { name: 'Mute Channel 1', exact: true })
  await expect(mute).toHaveAttribute('aria-pressed', 'true')
  await page.getByRole('button', { name: 'Hear the source' }).click()
  await expect(mute).toHaveAttribute('aria-pressed', 'false')
  await page.getByRole('button', { name: 'Hear the result' }).click()

  // The tracks go together again on one, each a voice of it.
  await page.getByRole('button', { name: 'Put together', exact: true }).click()
  const together = bench(page, 'Put together')
  for (const voice of [1, 2, 3, 4])
    await together.getByLabel(new RegExp(`^Channel 1, voice ${voice}`)).check()
  await together.getByRole('button', { name: 'Put 4 tracks together' }).click()
  await expect(page.getByText(`${chorale.length} notes of 4 tracks are on one now.`)).toBeVisible()
  await expect(
    page.getByRole('group', { name: 'Voices' }).getByRole('button', { name: 'voice 4', exact: true }),
  ).toBeVisible()
  await page.getByRole('button', { name: 'Bring the source back', exact: true }).click()
  await chooseTrack(page, 'Channel 1, voice 1')
  await page.getByRole('button', { name: 'Bring the source back', exact: true }).click()
  await expect(mute).toHaveAttribute('aria-pressed', 'false')
})

test('drums are put on tracks by instrument, the hi-hat with its pedal', async ({ page }) => {
  const beat = [0, 1, 2, 3].flatMap((onset) => [
    { onset, end: onset + 0.2, key: 42 },
    { onset: onset + 0.5, end: onset + 0.7, key: 44 },
    { onset, end: onset + 0.2, key: onset % 2 ? 38 : 36 },
  ])
  await openFile(page, oneTrack(beat, 10))
  const apart = await takeApart(page, 'by drum')
  await expect(apart.getByRole('listitem')).toHaveText([/Bass drum\s*2/, /Hi-hat\s*8/, /Snare drum\s*2/])
  await apart.getByLabel('each stroke for itself').check()
  await expect(apart.getByRole('listitem')).toHaveCount(4)
  await apart.getByLabel('each stroke for itself').uncheck()
  await apart.getByRole('button', { name: 'Put on 3 tracks' }).click()
  await expect(page.locator('[data-lane]')).toHaveText([/Drums|Channel/, /Bass drum/, /Hi-hat/, /Snare drum/])
})

test('nothing to take apart is said: an empty stretch, twenty voices of a melody, keys that are none', async ({
  page,
}) => {
  await openFile(
    page,
    oneTrack([
      { onset: 0, end: 1, key: 60 },
      { onset: 1, end: 2, key: 62 },
      { onset: 12, end: 13, key: 64 },
    ]),
  )
  const apart = await takeApart(page, 'by voice')
  await apart.getByLabel('find how many').uncheck()
  await apart.getByLabel('Voices').fill('20')
  await apart.getByLabel('Voices').press('Enter')
  await expect(apart.getByLabel('Voices')).toHaveValue('8')
  await expect(apart.getByText('At no moment do more than 1 sound together')).toBeVisible()
  await apart.getByLabel('find how many').check()
  await expect(apart.getByText('All of it is one part')).toBeVisible()
  await expect(apart.getByRole('button', { name: /^Put on/ })).toBeDisabled()
  await takeApart(page, 'by key range')
  await apart.getByLabel('Parts begin at').fill('H9 x')
  await expect(apart.getByRole('alert')).toContainText('Keys by name')
  await apart.getByLabel('Parts begin at').fill('C#4')
  await expect(apart.getByRole('listitem')).toHaveText([/from C♯4\s*2/, /below C♯4\s*1/])
  // Bars 2 and 3 are empty.
  const ruler = page.getByRole('button', { name: 'Set the playing position' }).first()
  const box = (await ruler.boundingBox())!
  await page.mouse.move(box.x + box.width * 0.4, box.y + 8)
  await page.mouse.down()
  await page.mouse.move(box.x + box.width * 0.55, box.y + 8, { steps: 4 })
  await page.mouse.up()
  await apart.getByLabel('Of it').selectOption({ label: 'the marked stretch' })
  await expect(apart.getByText('there is nothing to take apart')).toBeVisible()
})

test('players who were recorded on one track are told apart by who played', async ({ page }) => {
  await openDemo(page)
  await goTo(page, 'Tracks')
  await page.getByRole('button', { name: 'Put together', exact: true }).click()
  const together = bench(page, 'Put together')
  for (const box of await together.getByRole('checkbox').all()) await box.check()
  await together.getByRole('button', { name: 'Put 3 tracks together' }).click()
  const apart = await takeApart(page, 'by player')
  await expect(apart.getByRole('listitem')).toHaveText([/Benno/, /Orla/, /Sefa/])
  await apart.getByRole('button', { name: 'Hear Orla’s flute alone' }).click()
  await expect(page.getByRole('button', { name: /^Stop/ })).toBeVisible()
  await page.getByRole('button', { name: /^Stop/ }).click()
  await apart.getByRole('button', { name: 'Put on 3 tracks' }).click()
  const steps = page.getByRole('navigation', { name: 'Steps of the work' })
  await expect(steps.getByRole('button', { name: /^Tracks/ })).toContainText('8 tracks')
})

test('the benches and the list can be used with assistive technology, at every size', async ({ page }) => {
  await openDemo(page)
  await goTo(page, 'Tracks')
  for (const title of ['Edit', 'Take apart', 'Put together', 'Bars', 'Sound']) {
    await page.getByRole('button', { name: title, exact: true }).click()
    await page.waitForTimeout(500)
    const { violations } = await new AxeBuilder({ page }).analyze()
    expect({
      title,
      violations: violations.map(({ id, nodes }) => `${id}: ${nodes[0]!.html.slice(0, 120)}`),
    }).toEqual({ title, violations: [] })
    for (const [width, height] of [
      [1280, 800],
      [1024, 768],
      [390, 844],
    ] as const) {
      await page.setViewportSize({ width, height })
      // Canvases take on the new width a frame later.
      await expect
        .poll(() => page.evaluate(() => document.documentElement.scrollWidth - innerWidth), {
          message: `${title} at ${width}`,
        })
        .toBeLessThanOrEqual(0)
    }
    await page.setViewportSize({ width: 1280, height: 800 })
  }
})

test('what is taken apart may change meanwhile, and another piece knows nothing of a correction', async ({
  page,
}) => {
  await openFile(page, oneTrack(rightHand))
  const apart = await takeApart(page, 'by voice')
  const parts = apart.getByRole('listitem')
  await expect(parts).toHaveCount(2)
  await roll(page).focus()
  await page.keyboard.press('Control+a')
  await page.keyboard.press('Delete')
  await expect(apart.getByText('There is no note on this track yet.')).toBeVisible()
  await page.keyboard.press('Control+z')
  await expect(parts).toHaveCount(2)
  // Asked in quick succession, the last way is what is shown.
  for (const way of ['by hand', 'by channel', 'by force', 'by line', 'by voice']) await takeApart(page, way)
  await expect(parts).toHaveText([/voice 1/, /voice 2/])
  await apart.getByRole('button', { name: 'Keep as voices of this part' }).dblclick()
  await expect(page.getByRole('button', { name: /^Undo: tell the voices/ })).toBeVisible()
  await roll(page).focus()
  await page.keyboard.press('Control+a')
  await page.keyboard.press('2')
  await expect(page.getByRole('button', { name: 'Carry the correction on' })).toBeEnabled()
  await saved(page)
  await page.getByRole('link', { name: 'Shelf' }).click()
  await page.getByRole('button', { name: /^New piece Starts/ }).click()
  await goTo(page, 'Tracks')
  await expect(page.getByTestId('selection')).toHaveText('0 notes')
  await page.keyboard.press('/')
  await page.getByPlaceholder(/What is to be done to Your keys/).fill('carry')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('button', { name: 'Nothing to undo' })).toBeDisabled()
})
