import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import AxeBuilder from '@axe-core/playwright'
import { createDemo } from '@/core/demo/harbourEvening'
import { projectToMidi } from '@/core/formats/projectToMidi'
import { writeMidiFile } from '@/core/midi/standardMidiFile/write'
import { chordsByChance, lineByChance, playedBySampler, usualManner } from '@/core/pitch/playedLines.testing'
import { writeWav } from '@/core/sound/wav'
import { expect, test } from '../fixtures'
import { alert, goTo, newPiece } from '../helpers'

const folder = mkdtempSync(join(tmpdir(), 'recordings-'))

function wavFile(name: string, sound: Float32Array): string {
  const file = join(folder, name)
  writeFileSync(file, writeWav({ left: sound, right: sound }, 44_100, 16))
  return file
}

const line = lineByChance(928, 24, { ...usualManner, lowKey: 55, highKey: 79, repeats: 0.1 })
const lineFile = () => wavFile('evening line.wav', playedBySampler(line, 71))

test('a recording of a line is read on the shelf, and opens as a piece with bars', async ({ page }) => {
  await page.goto('/')
  await page.getByLabel('File to bring in').setInputFiles(lineFile())
  const reading = page.getByRole('region', { name: 'Read a recording' })
  await expect(reading).toContainText('evening line.wav')
  await reading.getByLabel('played by').selectOption('wind')
  await reading.getByRole('button', { name: 'Read its notes' }).click()
  await expect(reading.getByTestId('heard-notes')).toHaveText(/^2[345] notes/, { timeout: 30_000 })
  await expect(reading).toContainText('A4 = 440 Hz')
  // Told of another concert pitch, it is read again, and the tuning is told from there.
  await reading.getByLabel('A4 in hertz').fill('430')
  await reading.getByLabel('A4 in hertz').press('Enter')
  await reading.getByRole('button', { name: 'Read it again' }).click()
  await expect(reading).toContainText(/Tuned 4\d cents above A4 = 430 Hz/, { timeout: 30_000 })
  await reading.getByRole('button', { name: 'Open them as a piece' }).click()
  await page.waitForURL(/\/project/)
  await expect(page.getByText(/^2[345] notes$/)).toBeVisible()
  await goTo(page, 'Score')
  await expect(page.locator('svg g.note').first()).toBeVisible({ timeout: 30_000 })
})

test('chords are read; more and fewer are taken, and a doubtful one by a press; they come into the open piece', async ({
  page,
}) => {
  const notes = chordsByChance(901, 8, 48, 84)
  const file = wavFile('lantern chords.wav', playedBySampler(notes, 0))
  await newPiece(page)
  await page.getByLabel('File with tracks for this piece').setInputFiles(file)
  const reading = page.getByRole('region', { name: 'Read a recording' })
  await reading.getByLabel('It holds').selectOption('chords')
  await reading.getByRole('button', { name: 'Read its notes' }).click()
  const count = reading.getByTestId('heard-notes')
  await expect(count).toHaveText(/notes/, { timeout: 60_000 })
  const taken = async () => Number(/^\d+/.exec((await count.textContent()) ?? '')![0])
  const usual = await taken()
  expect(Math.abs(usual - notes.length)).toBeLessThanOrEqual(notes.length * 0.15)
  await reading.getByLabel('How much is taken').press('End')
  const everything = await taken()
  expect(everything).toBeGreaterThan(usual)
  await reading.getByLabel('How much is taken').press('Home')
  const sure = await taken()
  expect(sure).toBeLessThan(usual)
  await reading.getByText(/not quite sure/).click()
  await reading.getByRole('checkbox', { checked: false }).first().check()
  expect(await taken()).toBe(sure + 1)
  await reading.getByRole('button', { name: 'Take these notes' }).click()
  const brought = page.getByRole('region', { name: 'Tracks from a file' })
  await expect(brought).toContainText(`: 1 part, ${sure + 1} notes`)
  await brought.getByRole('button', { name: 'Bring it in' }).click()
  await goTo(page, 'Tracks')
  await expect(page.getByText('lantern chords').first()).toBeVisible()
})

test('what is no sound is refused, silence is told, and a reading that is stopped leaves all as it was', async ({
  page,
}) => {
  await page.goto('/')
  const input = page.getByLabel('File to bring in')
  await input.setInputFiles({ name: 'words.mp3', mimeType: 'audio/mpeg', buffer: Buffer.from('no sound') })
  await expect(alert(page)).toContainText('“words.mp3” was not read, and nothing was changed')
  await page.getByRole('button', { name: 'Leave it' }).click()
  const reading = page.getByRole('region', { name: 'Read a recording' })
  await expect(reading).toHaveCount(0)
  await input.setInputFiles(wavFile('nobody.wav', new Float32Array(88_200)))
  await reading.getByRole('button', { name: 'Read its notes' }).click()
  await expect(reading).toContainText('Nothing is to be heard')
  await expect(reading.getByRole('button', { name: 'Open them as a piece' })).toBeDisabled()
  await reading.getByRole('button', { name: 'Leave it' }).click()
  // Twelve minutes of chords take minutes: they are stopped, and read again from the beginning.
  const short = playedBySampler(chordsByChance(7, 6, 48, 84), 0)
  const long = new Float32Array(short.length * 60)
  for (let part = 0; part < 60; part++) long.set(short, part * short.length)
  await input.setInputFiles(wavFile('long.wav', long))
  await reading.getByLabel('It holds').selectOption('chords')
  await reading.getByRole('button', { name: 'Read its notes' }).click()
  await expect(reading.getByRole('status')).toContainText('% read', { timeout: 30_000 })
  await reading.getByRole('button', { name: 'Stop', exact: true }).click()
  await expect(reading.getByRole('button', { name: 'Read its notes' })).toBeEnabled()
  await expect(reading.getByRole('alert')).toHaveCount(0)
  await reading.getByLabel('It holds').selectOption('line')
  await reading.getByRole('button', { name: 'Read its notes' }).click()
  await expect(reading.getByRole('status')).toContainText('% read')
  await reading.getByRole('button', { name: 'Leave it' }).click()
  await expect(reading).toHaveCount(0)
})

test('several files at once: notes lie on the shelf, recordings are read one after the other', async ({
  page,
}) => {
  await page.goto('/')
  const { project } = createDemo('demo', 0, 'keyboard')
  const midi = Buffer.from(writeMidiFile(projectToMidi(project, project.tracks, 480)))
  const wav = readFileSync(lineFile())
  const input = page.getByLabel('File to bring in')
  await input.setInputFiles([
    { name: 'first.wav', mimeType: 'audio/wav', buffer: wav },
    // As some systems call it, and a name that says nothing.
    { name: 'quay evening.mid', mimeType: 'audio/mid', buffer: midi },
    { name: 'second', mimeType: '', buffer: wav },
  ])
  const reading = page.getByRole('region', { name: 'Read a recording' })
  await expect(reading).toContainText('first.wav')
  await expect(page.getByText('1 more recording waits to be read.')).toBeVisible()
  await expect(page.getByText('quay evening').first()).toBeVisible()
  await reading.getByRole('button', { name: 'Read its notes' }).click()
  await expect(reading.getByTestId('heard-notes')).toHaveText(/notes/, { timeout: 30_000 })
  // A third one comes while the first is looked at: nothing of that is lost.
  await input.setInputFiles({ name: 'third.wav', mimeType: 'audio/wav', buffer: wav })
  await expect(page.getByText('2 more recordings wait to be read.')).toBeVisible()
  await expect(reading.getByTestId('heard-notes')).toHaveText(/notes/)
  await reading.getByRole('button', { name: 'Put them on the shelf as a piece' }).dblclick()
  await expect(reading).toContainText('second')
  await expect(page.getByLabel('Open first', { exact: true })).toHaveCount(1)
  await reading.getByRole('button', { name: 'Leave it' }).click()
  await expect(reading).toContainText('third.wav')
  // Reloaded in the middle, what was taken is there.
  await reading.getByRole('button', { name: 'Read its notes' }).click()
  await page.reload()
  await expect(page.getByLabel('Open first', { exact: true })).toHaveCount(1)
  await expect(reading).toHaveCount(0)
})

test('what is cut off at the top is told; what was brought in is taken back; nobody is kept out', async ({
  page,
}) => {
  const loud = playedBySampler(line, 71).map((sample) => Math.max(-1, Math.min(1, sample * 30)))
  await newPiece(page)
  await page.getByLabel('File with tracks for this piece').setInputFiles(wavFile('too loud.wav', loud))
  const reading = page.getByRole('region', { name: 'Read a recording' })
  await reading.getByRole('button', { name: 'Read its notes' }).click()
  await expect(reading).toContainText('cut off at the top', { timeout: 30_000 })
  const { violations } = await new AxeBuilder({ page }).include('[aria-label="Read a recording"]').analyze()
  expect(violations.map(({ id, nodes }) => [id, nodes.map(({ html }) => html)])).toEqual([])
  await reading.getByRole('button', { name: 'Take these notes' }).click()
  await page.getByRole('button', { name: 'Bring it in' }).click()
  await goTo(page, 'Tracks')
  await expect(page.getByText('too loud').first()).toBeVisible()
  await page.getByRole('button', { name: /^Undo/ }).click()
  await expect(page.getByText('too loud')).toHaveCount(0)
})
