import { strToU8, zipSync } from 'fflate'
import { writeMidiFile } from '../../../src/core/midi/standardMidiFile/write'
import { expect, test } from '../fixtures'
import { bringIn, expectEveryFileProved, goTo, openDemo, saved } from '../helpers'

const markup = '<img src=x onerror="window.__ran=1"><b>Bold</b>'
const hit = (tick: number, key = 60) => [
  { tick, type: 'noteOn' as const, channel: 1, key, velocity: 80 },
  { tick: tick + 400, type: 'noteOff' as const, channel: 1, key, velocity: 64 },
]
const midi = (events: Parameters<typeof writeMidiFile>[0]['tracks'][number]['events']) =>
  writeMidiFile({ format: 0, divisionTicksPerQuarter: 480, tracks: [{ events, endTick: 4000 }] })

test('projects are made, renamed, copied, deleted and brought back', async ({ page }) => {
  await page.goto('/')
  await page.getByRole('button', { name: /^New piece Starts/ }).click()
  await expect(page.getByRole('region', { name: 'Who plays' })).toContainText('Your keys')
  await page.getByRole('link', { name: 'Shelf' }).click()
  await page.getByRole('button', { name: 'Project name: New piece. Rename' }).click()
  await page.getByLabel('Project name').fill('Tide table')
  await page.getByLabel('Project name').press('Enter')
  await page.getByRole('button', { name: 'Duplicate Tide table' }).click()
  await expect(page.getByRole('button', { name: 'Open Tide table copy' })).toBeVisible()
  await page.getByRole('button', { name: 'Delete Tide table', exact: true }).click()
  await expect(page.getByRole('button', { name: 'Open Tide table', exact: true })).toHaveCount(0)
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByRole('button', { name: 'Open Tide table', exact: true })).toBeVisible()
})

test.describe('bad files are refused with a reason, and nothing is lost', () => {
  const whole = midi([...hit(0), ...hit(480), ...hit(960)])
  const smpte = whole.slice()
  smpte[12] = 0xe7
  smpte[13] = 40
  const cases: [string, Uint8Array, RegExp][] = [
    ['empty.mid', new Uint8Array(0), /empty: it has zero bytes/],
    ['letter.mid', strToU8('Dear musicians, this is a letter.'), /not a Standard MIDI File/],
    ['cut.mid', whole.slice(0, whole.length - 6), /cut off/],
    ['frames.mid', smpte, /SMPTE frames/],
    ['silent.mid', midi([]), /no note in it/],
    ['huge.mid', new Uint8Array(20 * 1024 * 1024).fill(77), /up to 16 MB/],
    [
      'newer.voice',
      zipSync({ 'project.json': strToU8(JSON.stringify({ schemaVersion: 99 })) }),
      /newer version/,
    ],
    ['other.voice', zipSync({ 'letter.txt': strToU8('hello') }), /not a project/],
  ]
  for (const [name, bytes, message] of cases)
    test(name, async ({ page }) => {
      await bringIn(page, { name, bytes })
      await expect(page.getByRole('main').getByRole('alert')).toContainText(message)
      await expect(page.getByRole('main').getByRole('alert')).toContainText(`“${name}” was not brought in`)
      await expect(page.getByText('Nothing here yet.')).toBeVisible()
    })
})

test('a file that is read for more than a moment says so; stopped, nothing is changed, and the next one is read', async ({
  page,
}) => {
  const bar = (number: number) =>
    `<measure number="${number}"><attributes><divisions>4</divisions></attributes>${'<note><pitch><step>C</step><octave>5</octave></pitch><duration>1</duration></note>'.repeat(16)}</measure>`
  const part = (id: number) =>
    `<part id="P${id}">${Array.from({ length: 1500 }, (_, index) => bar(index + 1)).join('')}</part>`
  const ids = [1, 2, 3, 4, 5, 6]
  const long = `<score-partwise><part-list>${ids.map((id) => `<score-part id="P${id}"><part-name>P</part-name></score-part>`).join('')}</part-list>${ids.map(part).join('')}</score-partwise>`
  await bringIn(page, { name: 'long.musicxml', bytes: strToU8(long) })
  await expect(page.getByText(/^Reading “long\.musicxml”: \d+ s\.$/)).toBeVisible()
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  await expect(page.getByRole('main').getByRole('alert')).toContainText(
    '“long.musicxml” was not brought in, and nothing was changed: it was stopped',
  )
  await expect(page.getByText(/^Reading/)).toHaveCount(0)
  await expect(page.getByText('Nothing here yet.')).toBeVisible()
  await bringIn(page, { name: 'short.mid', bytes: midi(hit(0)) })
  await page.waitForURL(/step=tracks/)
})

test('odd files are read, and what was odd is said', async ({ page }) => {
  const odd = midi([
    { tick: 0, type: 'noteOn', channel: 1, key: 60, velocity: 80 },
    { tick: 100, type: 'noteOn', channel: 1, key: 60, velocity: 80 },
    { tick: 480, type: 'noteOff', channel: 1, key: 60, velocity: 64 },
  ])
  await bringIn(page, { name: 'odd.mid', bytes: odd })
  await expect(page.getByRole('status').filter({ hasText: 'Brought in, with remarks' })).toContainText(
    /no end/,
  )
  await expect(page.getByTestId('selection')).toHaveText('2 notes')
})

test('markup in a track name is text: never run, never breaking a file', async ({ page }) => {
  await bringIn(page, {
    name: 'markup.mid',
    bytes: midi([{ tick: 0, type: 'trackName', text: markup }, ...hit(0), ...hit(480, 64)]),
  })
  await expect(page.locator('[data-lane]').first()).toContainText(markup)
  await goTo(page, 'Score')
  await expect(page.getByTestId('page').locator('g.note').first()).toBeVisible()
  await goTo(page, 'Deliver')
  await page.getByRole('button', { name: 'Write and check the files' }).click()
  await expect(page.locator('[data-file$=".musicxml"]')).toBeVisible({ timeout: 60_000 })
  await expectEveryFileProved(page)
  expect(await page.evaluate(() => '__ran' in window)).toBe(false)
})

test('a second tab is told, cannot overwrite, and may take over', async ({ page, context }) => {
  await openDemo(page)
  await saved(page)
  const second = await context.newPage()
  await second.goto(page.url())
  await expect(second.getByText('open in another tab')).toBeVisible()
  await goTo(second, 'Tracks')
  await second.getByRole('button', { name: 'Mute Orla’s flute' }).click()
  await expect(second.getByRole('button', { name: 'Mute Orla’s flute' })).toHaveAttribute(
    'aria-pressed',
    'false',
  )
  await goTo(page, 'Tracks')
  await page.getByRole('button', { name: 'Mute Orla’s flute' }).click()
  await second.getByRole('button', { name: 'Take it over here' }).click()
  await expect(page.getByText('open in another tab')).toBeVisible()
  await expect(second.getByText('open in another tab')).toBeHidden({ timeout: 15_000 })
  await expect(second.getByRole('button', { name: 'Mute Orla’s flute' })).toHaveAttribute(
    'aria-pressed',
    'true',
  )
})

test('full storage is said at once, and the next save succeeds when there is room', async ({ page }) => {
  await openDemo(page)
  await saved(page)
  await page.evaluate(() => {
    const real = IDBObjectStore.prototype.put
    Object.assign(window, { makeRoom: () => Object.assign(IDBObjectStore.prototype, { put: real }) })
    IDBObjectStore.prototype.put = () => {
      throw new DOMException('full', 'QuotaExceededError')
    }
  })
  await goTo(page, 'Tracks')
  await page.getByRole('button', { name: 'Mute Orla’s flute' }).click()
  await expect(page.getByRole('alert').filter({ hasText: 'storage is full' })).toBeVisible()
  await expect(page.getByRole('button', { name: 'Mute Orla’s flute' })).toHaveAttribute(
    'aria-pressed',
    'true',
  )
  await page.evaluate(() => (window as unknown as { makeRoom: () => void }).makeRoom())
  await page.getByRole('button', { name: 'Try again' }).click()
  await saved(page)
  await page.reload()
  await goTo(page, 'Tracks')
  await expect(page.getByRole('button', { name: 'Mute Orla’s flute' })).toHaveAttribute(
    'aria-pressed',
    'true',
  )
})

test('a project that does not exist is said, with the way back', async ({ page }) => {
  await page.goto('/project/nowhere')
  await expect(page.getByRole('alert').filter({ hasText: 'no such project' })).toBeVisible()
  await page.getByRole('link', { name: 'Back to the shelf' }).click()
  await expect(page.getByRole('heading', { name: 'On the shelf' })).toBeVisible()
})
