import { readFileSync } from 'node:fs'
import { type BrowserContext, chromium, expect, type Locator, type Page } from '@playwright/test'
import { launchOptions } from '../chromium.mjs'
import { beginWith } from './beginnings'

export type StepTitle = 'Players' | 'Record' | 'Effects' | 'Tracks' | 'Score' | 'Deliver'

export async function goTo(page: Page, step: StepTitle): Promise<void> {
  await page
    .getByRole('navigation', { name: 'Steps of the work' })
    .getByRole('button', { name: new RegExp(`^${step}`) })
    .click()
}

/** Opens a fresh demo and waits until it is ready. */
export async function openDemo(page: Page): Promise<void> {
  await beginWith(page, 'demo', async () => {
    await page.goto('/')
    await page.getByRole('button', { name: /Open the demo/ }).click()
    await expect(whoPlays(page)).toBeVisible()
    await saved(page)
  })
  await expect(whoPlays(page)).toBeVisible()
}

const whoPlays = (page: Page) => page.getByRole('region', { name: 'Who plays' })

/** Waits until the music that runs has come to a place, or beyond it. */
export async function reaches(page: Page, bar: number, beat = 1): Promise<void> {
  await page.waitForFunction(
    ([bar, beat]) => {
      const words = document.querySelector('[data-testid=position]')?.textContent
      const [atBar, atBeat] = words?.split(' · ').map(Number) ?? []
      return atBar! > bar! || (atBar === bar && atBeat! >= beat!)
    },
    [bar, beat],
    // Frames stop in a tab that nobody sees.
    { polling: 20, timeout: 60_000 },
  )
}

/** Begins a new piece, with only the computer keyboard. */
export async function newPiece(page: Page): Promise<void> {
  await beginWith(page, 'newPiece', async () => {
    await newPieceFromShelf(page)
    await saved(page)
  })
  await expect(whoPlays(page)).toBeVisible()
}

/** The same by the shelf, which Back leads to then. */
export async function newPieceFromShelf(page: Page): Promise<void> {
  await page.goto('/')
  await page.getByRole('button', { name: /^New piece Starts/ }).click()
  await expect(whoPlays(page)).toBeVisible()
}

/** Brings in a file through the home view's file field. */
export async function bringIn(page: Page, file: { name: string; bytes: Uint8Array }): Promise<void> {
  await page.goto('/')
  await expect(page.getByRole('heading', { name: 'On the shelf' })).toBeVisible()
  await page
    .getByLabel('File to bring in')
    .setInputFiles({ name: file.name, mimeType: 'application/octet-stream', buffer: Buffer.from(file.bytes) })
}

/** Chooses a track in the tracks view, scrolling its lane into sight; from the top again where the page was slower than that. */
export async function chooseTrack(page: Page, name: string): Promise<void> {
  const lanes = page.getByRole('region', { name: 'Tracks', exact: true })
  const lane = page.locator('[data-lane]').filter({ hasText: name })
  await expect(async () => {
    const lowest = await lanes.evaluate((element) => element.scrollHeight - element.clientHeight)
    for (let top = 0; top <= lowest + 119 && (await lane.count()) === 0; top += 120) {
      await lanes.evaluate((element, y) => {
        element.scrollTop = y
        // What is in sight is drawn in a frame after the one that scrolls.
        return new Promise((drawn) => requestAnimationFrame(() => requestAnimationFrame(drawn)))
      }, top)
    }
    await lane.getByRole('button', { name: `Show ${name} below` }).press('Enter', { timeout: 2000 })
  }).toPass({ timeout: 60_000 })
}

/** What the program says has gone wrong; the framework's own reader of titles is no alert of ours. */
export function alert(page: Page): Locator {
  return page.locator('[role="alert"]:not(#__next-route-announcer__)').filter({ hasText: /./ })
}

/** Presses a button that saves a file, and gives back what was saved. */
export async function savedFile(page: Page, button: Locator): Promise<{ name: string; bytes: Uint8Array }> {
  const [saved] = await Promise.all([page.waitForEvent('download'), button.click()])
  return { name: saved.suggestedFilename(), bytes: readFileSync((await saved.path())!) }
}

/** Waits until the last change is in the browser's storage. */
export async function saved(page: Page): Promise<void> {
  await expect(page.getByTestId('save-state')).toHaveText(' · saved')
}

/** Every file that is offered was read back, and its proof is beside it. */
export async function expectEveryFileProved(page: Page): Promise<void> {
  const files = await page.locator('[data-file]').count()
  expect(files).toBeGreaterThan(2)
  await expect(page.locator('[data-file]').getByLabel('proved', { exact: true })).toHaveCount(files)
  for (const words of await page.getByText(/notes read back the same/).allTextContents()) {
    const [found, expected] = words.match(/[\d,]+/g)!
    expect({ words, found }).toEqual({ words, found: expected })
  }
}

/** The MusicXML of the piece, written and proved. */
export async function deliveredMusicXml(page: Page): Promise<string> {
  await goTo(page, 'Deliver')
  await page.getByRole('button', { name: 'Write and check the files' }).click()
  await expect(page.locator('[data-file$=".musicxml"]')).toBeVisible({ timeout: 60_000 })
  await expectEveryFileProved(page)
  const xml = await savedFile(page, page.getByRole('button', { name: /^Save .*\.musicxml$/ }).first())
  return new TextDecoder().decode(xml.bytes)
}

/** From here on nothing more can be stored by the page's workers, or everything again. */
export async function fillStorage(page: Page, isFull: boolean): Promise<void> {
  await Promise.all(
    page.workers().map((worker) =>
      worker.evaluate((full) => {
        const store = IDBObjectStore.prototype as IDBObjectStore & { room?: IDBObjectStore['put'] }
        store.room ??= store.put
        store.put = full
          ? () => {
              throw new DOMException('full', 'QuotaExceededError')
            }
          : store.room
      }, isFull),
    ),
  )
}

/** A browser of its own that finds again what an earlier one has stored: for tests that kill it. */
export function browserWith(profile: string, baseURL: string | undefined): Promise<BrowserContext> {
  return chromium.launchPersistentContext(profile, {
    ...launchOptions,
    viewport: { width: 1280, height: 800 },
    baseURL,
  })
}
