/** Takes the pictures in docs/screenshots from the demo: `npm run build`, then `node scripts/screenshots.mjs`. */
import { spawn } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { chromium } from '@playwright/test'
import { launchOptions } from '../tests/chromium.mjs'

const port = 3188
const folder = 'docs/screenshots'
const server = spawn('npx', ['next', 'start', '-p', String(port)], { stdio: 'ignore', detached: true })
const address = `http://localhost:${port}`
for (let attempt = 0; attempt < 60; attempt++) {
  try {
    if ((await fetch(address)).ok) break
  } catch {
    await new Promise((resolve) => setTimeout(resolve, 300))
  }
}
const browser = await chromium.launch(launchOptions)
const context = await browser.newContext({ viewport: { width: 1280, height: 800 } })
const page = await context.newPage()
const step = async (title) => {
  await page
    .getByRole('navigation', { name: 'Steps of the work' })
    .getByRole('button', { name: new RegExp(`^${title}`) })
    .click()
  await page.mouse.move(640, 20)
}
const picture = (name) => page.screenshot({ path: `${folder}/${name}.png` })

const calm = async (ms = 400) => {
  await page.mouse.move(640, 20)
  await page.waitForTimeout(ms)
}
const putIn = async (effect) => {
  await page.getByRole('button', { name: 'Put in an effect' }).click()
  await page
    .getByRole('menuitem')
    .filter({ has: page.getByText(effect, { exact: true }) })
    .click()
}

await page.goto(address)
await page.getByRole('button', { name: /Open the demo/, disabled: false }).click()
await page.waitForURL(/project/)
await page.getByRole('button', { name: 'Let them play' }).click()
await page.waitForTimeout(4200)
await picture('players')
await page.getByRole('button', { name: 'Thank you, stop' }).click()
await step('Effects')
await page
  .getByRole('navigation', { name: 'Tracks with effects' })
  .getByRole('button', { name: /Sefa/ })
  .first()
  .click()
await putIn('Arpeggio')
await page.getByLabel('Rate').selectOption('1/8')
await page.getByLabel('Order').selectOption('up and down')
await putIn('Chance pitch')
await calm()
await picture('effects')
await page.getByRole('button', { name: /^Print \d+ notes/ }).click()
await calm()
await step('Tracks')
await page
  .locator('[data-lane]')
  .nth(1)
  .click({ position: { x: 700, y: 30 } })
await page.waitForTimeout(500)
await picture('tracks')
await page
  .locator('[data-lane]')
  .filter({ hasText: 'Benno' })
  .first()
  .click({ position: { x: 700, y: 30 } })
await page.getByRole('button', { name: 'Take apart', exact: true }).click()
await page.waitForTimeout(1500)
await picture('apart')
await page.getByRole('button', { name: 'Keep as voices of this part' }).click()
await step('Score')
await page.getByTestId('page').locator('g.note').first().waitFor()
await calm(2500)
// Written on by keys: signs, a slur, a hairpin, another name; shown as changed by hand, with the chords that sound.
await page.getByRole('button', { name: 'Find chords' }).click()
await page.getByRole('region', { name: 'Page', exact: true }).focus()
for (const key of [
  'ArrowRight',
  'ArrowRight',
  "'",
  'ArrowRight',
  '@',
  'ArrowRight',
  '!',
  'ArrowRight',
  'ArrowRight',
  'Shift+ArrowRight',
  'Shift+ArrowRight',
  '(',
  '>',
])
  await page.keyboard.press(key)
await calm(1500)
await page.getByLabel(/^show all/).check()
await page.getByRole('region', { name: 'The note' }).scrollIntoViewIfNeeded()
await calm(1000)
await picture('writing')
// The chords and the five changes are taken back, for what comes after.
for (let step = 0; step < 6; step++) await page.keyboard.press('Control+z')
await page.keyboard.press('Control+z')
await page.getByRole('button', { name: 'Close', exact: true }).click()
await step('Score')
await page.waitForSelector('[data-system="0"] g.note')
await page.locator('[data-system="0"] g.note .notehead').nth(10).click({ force: true })
await page.waitForTimeout(1500)
await picture('score')
await page.setViewportSize({ width: 390, height: 844 })
await calm(1500)
await picture('phone')
await page.setViewportSize({ width: 1280, height: 800 })
await calm(800)
await step('Tracks')
await page.getByRole('button', { name: 'Bars', exact: true }).click()
await page.getByRole('button', { name: 'Find the bars' }).click()
await page.getByTestId('found-bars').waitFor()
await calm()
await picture('bars')
await page.getByRole('button', { name: 'Leave it' }).click()
await page.getByRole('button', { name: 'Bars', exact: true }).click()
await step('Deliver')
await page.getByRole('button', { name: 'Write and check the files' }).click()
await page.waitForSelector('[data-file$=".musicxml"]', { timeout: 60_000 })
await page.waitForTimeout(300)
await picture('deliver')
await page.getByLabel('Composer').fill('Orla Venn')
await page.keyboard.press('Enter')
await page.getByRole('button', { name: 'Lay the pages out' }).click()
await page.getByRole('button', { name: 'Save as PDF' }).waitFor({ timeout: 60_000 })
await page
  .getByRole('button', { name: 'Lay the pages out again' })
  .evaluate((element) => element.scrollIntoView())
await calm()
await picture('paper')
// The piano as sound, to be read again below.
await page.getByRole('button', { name: 'Render the sound' }).click()
const piano = page.locator('[data-sound]').filter({ hasText: 'Benno' })
const [saved] = await Promise.all([
  page.waitForEvent('download', { timeout: 60_000 }),
  piano.getByRole('button').first().click({ timeout: 60_000 }),
])
const recorded = {
  name: 'Benno in the boathouse.wav',
  mimeType: 'audio/wav',
  buffer: readFileSync(await saved.path()),
}
await step('Record')
await page.getByRole('button', { name: 'Record everyone' }).click()
await page.waitForTimeout(13_000)
await picture('record')
await page.getByRole('button', { name: 'Stop', exact: true }).click()
await page.waitForTimeout(800)
// The receiver writes what is sent to it.
const receiver = await context.newPage()
await receiver.goto(`${address}/programs/receiver`)
await receiver.getByText('waiting for the clock').waitFor()
await page.bringToFront()
await step('Deliver')
const live = page.getByRole('region', { name: 'Live into notation software' })
await page.getByLabel('speed').selectOption('150')
await live.getByRole('button', { name: 'Send them' }).click()
await live.getByText(/notes written/).waitFor({ timeout: 120_000 })
await page.getByLabel('speed').selectOption('100')
await receiver.bringToFront()
await receiver.waitForTimeout(1500)
await receiver.screenshot({ path: `${folder}/receiver.png` })
await page.bringToFront()
// A second piece: six players, a loop, a wrong wire, generators.
await page.getByRole('link', { name: 'Shelf' }).click()
await page.getByRole('button', { name: /^New piece Starts/ }).click()
await page.waitForURL(/project/)
await page.getByRole('button', { name: 'Seat six players' }).click()
await page.locator('[data-track]').nth(2).getByLabel('hears').selectOption('Orla’s flute')
await page.getByText('Cables', { exact: true }).click()
await page.getByRole('checkbox', { name: 'read', exact: true }).check()
await page.getByText('Clock', { exact: true }).click()
await calm()
await picture('wiring')
await page.locator('[data-track]').nth(2).getByLabel('hears').selectOption('Benno’s piano')
await step('Record')
await page.getByRole('textbox', { name: 'to bar' }).fill('2')
await page.getByRole('button', { name: 'Mark it' }).click()
await page.getByRole('checkbox', { name: /loop it/ }).check()
await page.getByRole('button', { name: 'Record everyone' }).click()
await page.waitForTimeout(14_500)
await page.keyboard.press('Shift+R')
await page.waitForTimeout(1000)
await page.getByText('by player').click()
await calm()
await picture('takes')
await step('Effects')
await page.getByRole('button', { name: 'New generator' }).click()
await page.getByRole('menuitem', { name: /^Bass, drums and comping/ }).click()
await calm(900)
await picture('chart')
await page.bringToFront()
await page.getByRole('link', { name: 'Shelf' }).click()
await page.waitForTimeout(1200)
await picture('shelf')
await page.getByLabel('File to bring in').setInputFiles(recorded)
await page.getByLabel('It holds').selectOption('chords')
await page.getByRole('button', { name: 'Read its notes' }).click()
await page.getByTestId('heard-notes').waitFor({ timeout: 120_000 })
await page.getByText(/not quite sure/).click()
await calm()
await picture('recording')
await page.goto(address)
await page.getByRole('button', { name: /Open the demo/, disabled: false }).click()
await page.waitForURL(/project/)
const wiring = page.getByRole('complementary', { name: 'The wiring' })
await wiring.getByText('Sound in', { exact: true }).click()
await wiring.getByLabel('input', { exact: true }).selectOption({ label: 'Linnet’s voice (stand-in)' })
await wiring.getByRole('button', { name: 'Listen', exact: true }).click()
await page.getByText('good').first().waitFor()
await page.getByRole('button', { name: 'Settings of Linnet’s voice' }).click()
await page.getByRole('button', { name: 'Tuner' }).click()
await page.getByRole('button', { name: 'Let them play' }).click()
await page.getByRole('region', { name: 'Tuner' }).getByLabel('A4 is').scrollIntoViewIfNeeded()
await calm(7000)
await picture('soundIn')
await page.getByRole('button', { name: 'Thank you, stop' }).click()
await step('Record')
await page.getByRole('button', { name: /^Record everyone/ }).click()
await page.waitForTimeout(16_000)
await page.keyboard.press('Shift+R')
await page.waitForTimeout(2500)
await step('Tracks')
const lanesOfTracks = page.getByRole('region', { name: 'Tracks', exact: true })
await lanesOfTracks.evaluate((element) => {
  element.scrollTop = element.scrollHeight
})
await page.getByRole('button', { name: 'Show Linnet’s voice below' }).press('Enter')
await calm(2500)
await picture('keptSound')
await browser.close()
process.kill(-server.pid, 'SIGTERM')
