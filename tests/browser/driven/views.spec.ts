import AxeBuilder from '@axe-core/playwright'
import { countNotes, parse } from 'musicxml-io'
import { createDemo } from '../../../src/core/demo/harbourEvening'
import { projectToMidi } from '../../../src/core/formats/projectToMidi'
import { writeMidiFile } from '../../../src/core/midi/standardMidiFile/write'
import { expect, type Page, test } from '../fixtures'
import { goTo, openDemo, type StepTitle } from '../helpers'

test('the shelf and every step can be used with assistive technology', async ({ page }) => {
  await page.goto('/')
  await expect(page.getByRole('heading', { name: 'On the shelf' })).toBeVisible()
  expect((await new AxeBuilder({ page }).analyze()).violations.map(summary)).toEqual([])
  await openDemo(page)
  for (const step of ['Players', 'Record', 'Effects', 'Tracks', 'Score', 'Deliver'] as StepTitle[]) {
    await goTo(page, step)
    if (step === 'Score') await expect(page.getByTestId('page').locator('g.note').first()).toBeVisible()
    await page.waitForTimeout(200)
    const { violations } = await new AxeBuilder({ page }).exclude('.engraved').analyze()
    expect({ step, violations: violations.map(summary) }).toEqual({ step, violations: [] })
  }
})

function summary(violation: { id: string; nodes: { html: string }[] }): string {
  return `${violation.id}: ${violation.nodes.map((node) => node.html.slice(0, 160)).join(' | ')}`
}

/** Controls that somebody could not press or read: outside the page, behind something else, or with their words cut off. */
function unusableControls(page: Page): Promise<string[]> {
  return page.evaluate(() => {
    const problems: string[] = []
    const controls = document.querySelectorAll<HTMLElement>(
      'button, a[href], select, textarea, input:not([type="file"])',
    )
    for (const control of controls) {
      if (!control.checkVisibility({ checkOpacity: true, checkVisibilityCSS: true })) continue
      if (control.matches(':disabled') || control.closest('.cm-editor')) continue
      control.scrollIntoView({ block: 'center', inline: 'nearest' })
      const box = control.getBoundingClientRect()
      if (box.width < 2 || box.height < 2) continue
      const name = `${control.tagName} “${(control.getAttribute('aria-label') ?? control.textContent ?? '').trim().slice(0, 40)}”`
      if (box.left < -1 || box.right > innerWidth + 1) problems.push(`${name} is outside the page`)
      const [x, y] = [box.left + box.width / 2, box.top + box.height / 2]
      const top = document.elementFromPoint(x, y)
      const isReached =
        top !== null &&
        (control.contains(top) || top.contains(control) || top.closest('label')?.contains(control))
      if (!isReached)
        problems.push(`${name} is covered by ${top?.tagName} “${top?.textContent?.trim().slice(0, 30)}”`)
      const isMeantToBeCut =
        control.querySelector('.truncate') !== null || control.classList.contains('truncate')
      if (control.tagName === 'BUTTON' && !isMeantToBeCut && control.scrollWidth > control.clientWidth + 2)
        problems.push(`the words of ${name} are cut off`)
    }
    return problems
  })
}

const sizes = [
  ['a desk', 1280, 800],
  ['a small desk', 1024, 768],
  ['a tablet upright', 820, 1180],
  ['a desk at 200 %', 640, 400],
  ['a phone', 390, 844],
] as const

for (const [place, width, height] of sizes)
  test(`on ${place} (${width} by ${height}) every control can be reached and read`, async ({ page }) => {
    await page.setViewportSize({ width, height })
    await openDemo(page)
    for (const step of ['Players', 'Record', 'Effects', 'Tracks', 'Score', 'Deliver'] as StepTitle[]) {
      await goTo(page, step)
      await expect(page.getByRole('main')).toBeVisible()
      const overflow = await page.evaluate(() => document.documentElement.scrollWidth - innerWidth)
      expect({ step, overflow, problems: await unusableControls(page) }).toEqual({
        step,
        overflow: 0,
        problems: [],
      })
    }
  })

test('words beside the sound are not cut off, and a very long name is told on the page', async ({ page }) => {
  await page.goto('/')
  await page.getByRole('button', { name: /Open the demo/ }).click()
  const words = page.getByText(/sound (on|starts)/)
  expect(await words.evaluate((element) => element.scrollWidth <= element.clientWidth + 1)).toBe(true)
  await page.getByRole('button', { name: 'Track: Orla’s flute. Rename' }).click()
  await page
    .getByLabel('Track', { exact: true })
    .fill('First flute of the harbour society, second desk, doubling')
  await page.keyboard.press('Enter')
  await goTo(page, 'Score')
  const drawing = page.locator('[data-system="0"] .engraved')
  const label = drawing.getByText(/First flute/).first()
  await expect(label).toContainText('First flute of the')
  // All of it, in lines, beside the first line of music; in short beside the others.
  await expect(drawing.getByText('second desk, doubling').first()).toBeVisible()
  const [labelBox, pageBox] = [
    (await label.boundingBox())!,
    (await page.locator('[data-system="0"] svg').first().boundingBox())!,
  ]
  expect(labelBox.x).toBeGreaterThanOrEqual(pageBox.x)
})

test('noteheads are reached by keys, and what each is gets said', async ({ page }) => {
  await openDemo(page)
  await goTo(page, 'Score')
  await expect(page.getByTestId('page').locator('g.note').first()).toBeVisible()
  const sheet = page.getByRole('region', { name: 'Page' })
  await sheet.focus()
  await page.keyboard.press('ArrowRight')
  const details = page.getByTestId('note-details')
  await expect(details).toContainText(/bar 1, beat 1, .*Orla’s flute/)
  const first = await details.getByRole('heading').textContent()
  await page.keyboard.press('ArrowRight')
  await expect(details).toContainText(/bar 1, beat 2, .*Orla’s flute/)
  await page.keyboard.press('ArrowDown')
  await expect(details).toContainText('Benno’s piano')
  await page.keyboard.press('ArrowUp')
  await page.keyboard.press('ArrowLeft')
  await expect(details).toContainText(/bar 1, beat 1, .*Orla’s flute/)
  await expect(details.getByRole('heading')).toHaveText(first!)
  await expect(page.locator('.engraved .is-selected')).toHaveCount(1)
})

test('at rest no frame is drawn, in any step; when the piece runs it is', async ({ page }) => {
  await page.addInitScript(() => {
    const ask = globalThis.requestAnimationFrame
    Object.assign(globalThis, { frames: 0 })
    globalThis.requestAnimationFrame = (draw) => {
      ;(globalThis as unknown as { frames: number }).frames++
      return ask(draw)
    }
  })
  const frames = () => page.evaluate(() => (globalThis as unknown as { frames: number }).frames)
  await openDemo(page)
  for (const step of ['Players', 'Record', 'Tracks', 'Score', 'Effects', 'Deliver'] as const) {
    await goTo(page, step)
    // What a step draws when it is opened is drawn after a while.
    await expect
      .poll(
        async () => {
          const before = await frames()
          await page.waitForTimeout(700)
          return (await frames()) - before
        },
        { message: step, timeout: 20_000 },
      )
      .toBe(0)
  }
  await goTo(page, 'Tracks')
  await page.getByRole('button', { name: 'Play', exact: true }).click()
  const before = await frames()
  await expect.poll(frames).toBeGreaterThan(before + 10)
})

test.describe('whoever asked for less motion', () => {
  test('sees no bead run along a thread', async ({ page }) => {
    await page.emulateMedia({ reducedMotion: 'reduce' })
    // Where beads are drawn: an ellipse for each.
    await page.addInitScript(() => {
      const places: number[] = []
      const draw = CanvasRenderingContext2D.prototype.ellipse
      CanvasRenderingContext2D.prototype.ellipse = function (x, ...rest) {
        places.push(Math.round(x))
        draw.call(this, x, ...rest)
      }
      Object.assign(globalThis, { beadPlaces: places })
    })
    await openDemo(page)
    await page.getByRole('button', { name: 'Let them play' }).click()
    await page.waitForTimeout(2500)
    const places = await page.evaluate(() => (globalThis as unknown as { beadPlaces: number[] }).beadPlaces)
    expect(places.length).toBeGreaterThan(20)
    // All at the ends of threads, which lie in one column.
    expect(new Set(places).size).toBe(1)
  })
})

test('notes are drawn, moved, stretched and deleted with the pointer and with keys', async ({ page }) => {
  await openDemo(page)
  await goTo(page, 'Tracks')
  await page
    .locator('[data-lane]')
    .nth(3)
    .click({ position: { x: 800, y: 30 } })
  const roll = page.getByRole('application', { name: /Notes of Your keys/ })
  const box = (await roll.boundingBox())!
  await page.getByRole('button', { name: 'Draw', exact: true }).click()
  await page.mouse.click(box.x + 62 + 70 * 2 + 5, box.y + 120)
  await expect(page.getByTestId('selection')).toContainText(/velocity 84, drawn/)
  await page.getByRole('button', { name: 'Draw', exact: true }).click()
  const undo = page.getByRole('button', { name: /^Undo:/ })
  await expect(undo).toHaveAttribute('aria-label', /^Undo: draw a note/)
  await roll.focus()
  await page.keyboard.press('ArrowRight')
  await expect(undo).toHaveAttribute('aria-label', /^Undo: move a note/)
  await page.keyboard.press('Shift+ArrowRight')
  await expect(undo).toHaveAttribute('aria-label', /^Undo: stretch a note/)
  await page.getByRole('button', { name: 'Show as list' }).click()
  const row = page.getByRole('region', { name: 'List of notes of Your keys' }).getByRole('row').nth(1)
  await expect(row).toContainText('1 · 3 · 25')
  await expect(row).toContainText('0.50 quarters')
  await page.getByRole('button', { name: 'Show as drawing' }).click()
  await roll.focus()
  await page.keyboard.press('Delete')
  await expect(page.getByTestId('selection')).toHaveText('0 notes')
  for (let i = 0; i < 4; i++) await page.keyboard.press('Control+z')
  await expect(page.getByRole('button', { name: 'Nothing to undo' })).toBeDisabled()
})

test('the route handler takes a MIDI file and gives MusicXML with the account of its notes', async ({
  page,
  request,
}) => {
  await openDemo(page)
  const refused = await request.post('/api/score', { data: Buffer.from('no midi here at all') })
  expect(refused.status()).toBe(400)
  expect((await refused.json()).error).toContain('not a Standard MIDI File')
  const { project } = createDemo('demo', 0, 'computer-keyboard')
  const midi = writeMidiFile(projectToMidi(project, project.tracks, 480))
  const written = await request.post('/api/score?split=C4&grid=16', { data: Buffer.from(midi) })
  expect(written.status()).toBe(200)
  expect(JSON.parse(written.headers()['x-note-account']!)).toMatchObject({ captured: 255, written: 255 })
  // An independent reader: musicxml-io.
  expect(countNotes(parse(await written.text()))).toBeGreaterThan(250)
})
