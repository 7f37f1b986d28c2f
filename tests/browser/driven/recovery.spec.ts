import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect, type Page, test, testByItself } from '../fixtures'
import {
  alert,
  bringIn,
  browserWith,
  fillStorage,
  goTo,
  newPiece,
  newPieceFromShelf,
  reaches,
  saved,
} from '../helpers'

type PageWithAudio = typeof globalThis & { lastContext?: AudioContext }

/** The state of the page's sound. */
function audioState(page: Page): Promise<string | undefined> {
  return page.evaluate(() => (globalThis as PageWithAudio).lastContext?.state)
}

test('the browser is killed in the middle of recording: the take is there when it is opened again', async ({
  baseURL,
}) => {
  const profile = mkdtempSync(join(tmpdir(), 'unbroken-profile-'))
  const launch = () => browserWith(profile, baseURL)
  try {
    const first = await launch()
    const page = await first.newPage()
    await newPiece(page)
    await page.getByRole('button', { name: 'Seat six players' }).click()
    await goTo(page, 'Record')
    await page.getByRole('button', { name: 'Record everyone' }).click()
    await reaches(page, 2, 3)
    const address = page.url()
    // Killed, not closed: no page gets a last word.
    execFileSync('pkill', ['-9', '-f', profile])
    await first.close().catch(() => undefined)

    const second = await launch()
    const again = await second.newPage()
    await again.goto(address)
    await expect(again.getByText('A recording was cut off before the piece had it.')).toBeVisible({
      timeout: 20_000,
    })
    await again.getByRole('button', { name: 'Bring it back as a take' }).click()
    await goTo(again, 'Record')
    await expect(again.getByTestId('take-account')).toContainText(/Take 1: (\d\d+) notes heard, \1 on tracks/)
    await expect(again.getByText(/events as played · on 6 tracks/)).toBeVisible()
    await second.close()
  } finally {
    rmSync(profile, { recursive: true, force: true })
  }
})

test('full storage while recording is said, and all of it is stored when there is room', async ({ page }) => {
  await newPiece(page)
  await page.getByRole('button', { name: 'Seat six players' }).click()
  await saved(page)
  await fillStorage(page, true)
  await goTo(page, 'Record')
  await page.getByRole('button', { name: 'Record everyone' }).click()
  await expect(alert(page)).toContainText('storage is full')
  await reaches(page, 2, 2)
  await page.keyboard.press('Shift+R')
  await expect(page.getByTestId('take-account')).toContainText(/Take 1: (\d\d+) notes heard, \1 on tracks/)
  await fillStorage(page, false)
  await expect(page.getByText('everything that was played is stored')).toBeVisible()
  await saved(page)
  await page.reload()
  await goTo(page, 'Record')
  const events = (await page.getByText(/events as played/).textContent())!
  await page.getByRole('button', { name: 'as played' }).click()
  await expect(page.getByText(/events as played/)).toHaveText(events.replace('on 6 tracks', 'on 12 tracks'))
})

test('what is not stored is asked about at every way out, and saved to a file from the notice', async ({
  page,
}) => {
  await newPieceFromShelf(page)
  await page.getByRole('button', { name: 'Seat six players' }).click()
  await saved(page)
  await goTo(page, 'Record')
  await page.getByRole('button', { name: 'Record everyone' }).click()
  await fillStorage(page, true)
  await reaches(page, 2)
  await page.evaluate(() => {
    IDBObjectStore.prototype.put = () => {
      throw new DOMException('full', 'QuotaExceededError')
    }
  })
  const question = page.getByRole('alertdialog', { name: 'Not everything of this piece is stored' })
  await page.getByRole('link', { name: 'Shelf' }).click()
  await expect(question).toContainText('Only in the memory of this tab: what was played last.')
  await question.getByRole('button', { name: 'Stay' }).click()
  await page.evaluate(() => history.back())
  await expect(question).toBeVisible()
  await page.keyboard.press('Escape')
  const [asked] = await Promise.all([page.waitForEvent('dialog'), page.close({ runBeforeUnload: true })])
  expect(asked.type()).toBe('beforeunload')
  await asked.dismiss()

  // Pressed twice, it is one file.
  const downloads: string[] = []
  page.on('download', (each) => downloads.push(each.suggestedFilename()))
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    alert(page).getByRole('button', { name: 'End the recording and save it to a file' }).dblclick(),
  ])
  const file = { name: download.suggestedFilename(), bytes: readFileSync((await download.path())!) }
  const account = (await page.getByTestId('take-account').textContent())!
  expect(account).toMatch(/Take 1: (\d+) notes heard, \1 on tracks/)
  await expect(alert(page).filter({ hasText: 'nothing since' })).toBeVisible()
  expect(downloads).toEqual([file.name])
  // What is in the file may be left.
  await page.getByRole('link', { name: 'Shelf' }).click()
  await bringIn(page, file)
  await goTo(page, 'Record')
  const events = (await page.getByText(/events as played · on 6 tracks/).textContent())!
  await page.getByRole('button', { name: 'as played' }).click()
  await expect(page.getByText(/events as played/)).toHaveText(events.replace('on 6 tracks', 'on 12 tracks'))
})

testByItself(
  'a tab that slept while another took its piece over writes nothing; its take is offered there',
  async ({ page, context }) => {
    await newPiece(page)
    await page.getByRole('button', { name: 'Seat six players' }).click()
    await saved(page)
    await goTo(page, 'Record')
    await page.getByRole('button', { name: 'Record everyone' }).click()
    await reaches(page, 1, 2)
    // Its page stands still, as a tab that the system has put aside, until it is woken.
    const devTools = await context.newCDPSession(page)
    await devTools.send('Debugger.enable')
    const asleep = new Promise((resolve) => devTools.once('Debugger.paused', resolve))
    await devTools.send('Debugger.pause')
    await asleep
    const other = await context.newPage()
    await other.goto(page.url())
    await other.getByRole('button', { name: 'Take it over here' }).click()
    await expect(other.getByText('open in another tab')).toBeHidden({ timeout: 15_000 })
    await other.getByRole('button', { name: 'Piece: New piece. Rename' }).click()
    await other.getByRole('textbox', { name: 'Piece' }).fill('Gone on with')
    await other.keyboard.press('Enter')
    await saved(other)
    await devTools.send('Debugger.resume')
    await devTools.send('Debugger.disable')
    await expect(alert(page).filter({ hasText: 'Another tab took this piece over' })).toBeVisible()
    await other.getByRole('button', { name: 'Bring it back as a take' }).click()
    await goTo(other, 'Record')
    await expect(other.getByText(/events as played · on 6 tracks/)).toBeVisible()
    await saved(other)
    await other.reload()
    await expect(other.getByRole('heading', { name: 'Gone on with' })).toBeVisible()
    await goTo(other, 'Record')
    await expect(other.getByText(/events as played · on 6 tracks/)).toBeVisible()
  },
)

test('sound that the browser pauses is said, and starts again at a press', async ({ page }) => {
  await page.addInitScript(() => {
    const Context = globalThis.AudioContext
    globalThis.AudioContext = class extends Context {
      constructor(options?: AudioContextOptions) {
        super(options)
        Object.assign(globalThis, { lastContext: this })
      }
    }
  })
  await newPiece(page)
  // The instrument is fetched when the sound has started.
  await Promise.all([page.waitForResponse(/\/instruments\//), page.keyboard.press('a')])
  await expect.poll(() => audioState(page)).toBe('running')
  await page.evaluate(() => (globalThis as PageWithAudio).lastContext!.suspend())
  await expect(alert(page)).toContainText('The browser has paused the sound')
  await page.getByRole('button', { name: 'Start the sound again' }).click()
  await expect(alert(page)).toHaveCount(0)
  await expect.poll(() => audioState(page)).toBe('running')
  // A key that is played starts it too, and is kept.
  await page.evaluate(() => (globalThis as PageWithAudio).lastContext!.suspend())
  await expect(alert(page)).toContainText('The browser has paused the sound')
  await page.keyboard.press('s')
  await expect(alert(page)).toHaveCount(0)
  await expect(page.getByText('Keep 2 notes')).toBeVisible()
})
