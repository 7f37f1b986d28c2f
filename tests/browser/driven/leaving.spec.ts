import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { generator } from '../effectsPlaces'
import { expect, type Page, test, testByItself } from '../fixtures'
import { alert, browserWith, goTo, newPiece, newPieceFromShelf, reaches, saved, savedFile } from '../helpers'

/** Records with the computer keyboard until three notes are played, and goes on recording. */
async function recordThreeNotes(page: Page): Promise<void> {
  await newPieceFromShelf(page)
  await goTo(page, 'Record')
  await page.getByRole('combobox', { name: 'count-in' }).selectOption('0')
  await page.getByRole('button', { name: 'Record everyone' }).click()
  await reaches(page, 1, 2)
  for (const key of ['KeyA', 'KeyS', 'KeyD']) {
    await page.keyboard.down(key)
    await page.waitForTimeout(60)
    await page.keyboard.up(key)
  }
}

async function expectTheTake(page: Page): Promise<void> {
  await page.getByRole('button', { name: 'Open New piece' }).click()
  await goTo(page, 'Record')
  await expect(page.getByText(/6 events as played · on 1 track/)).toBeVisible()
  await goTo(page, 'Tracks')
  await expect(page.getByRole('application', { name: /Notes of Your keys\. 3 notes/ })).toBeVisible()
}

test.describe('leaving while recording keeps the take', () => {
  test('by the way to the shelf', async ({ page }) => {
    await recordThreeNotes(page)
    await page.getByRole('link', { name: 'Shelf' }).click()
    await expectTheTake(page)
  })

  test('by the browser’s Back', async ({ page }) => {
    await recordThreeNotes(page)
    await page.goBack()
    await expectTheTake(page)
  })

  test('by going there and coming back at once, again and again', async ({ page }) => {
    await recordThreeNotes(page)
    for (let time = 0; time < 3; time++) {
      // While the browser changes from page to page it has no history to go by, for a moment.
      await expect(() => page.goBack()).toPass()
      await expect(() => page.goForward()).toPass()
    }
    // Pressed while the page before is still on its way, Forward may lead nowhere; then the shelf is where one is.
    const shelved = page.getByRole('button', { name: 'Open New piece' })
    const steps = page.getByRole('navigation', { name: 'Steps of the work' })
    await expect(shelved.or(steps)).toBeVisible()
    if (await shelved.isVisible()) await shelved.click()
    // Where the page went before its take was handed over, the take is brought back from what was stored while it was played.
    await goTo(page, 'Record')
    const taken = page.getByText(/6 events as played · on 1 track/)
    const bringBack = page.getByRole('button', { name: 'Bring it back as a take' })
    await expect(taken.or(bringBack)).toBeVisible()
    if (await bringBack.isVisible()) await bringBack.click()
    await expect(taken).toBeVisible()
    // It is this tab that may change the project, and no other.
    await expect(page.getByText('open in another tab')).toHaveCount(0)
  })
})

test('a tab that is taken over ends what it records, and the take is in the project', async ({
  page,
  context,
}) => {
  await recordThreeNotes(page)
  const other = await context.newPage()
  await other.goto(page.url())
  await other.getByRole('button', { name: 'Take it over here' }).click()
  await expect(other.getByText('open in another tab')).toHaveCount(0)
  await goTo(other, 'Record')
  await expect(other.getByText(/6 events as played · on 1 track/)).toBeVisible()
  await expect(page.getByText('open in another tab')).toBeVisible()
})

test.describe('steady typing', () => {
  const letters = 'A4 1/8 B4 C5 D5 E5 F5 G5 A5 B5 C6 '.repeat(6)

  /** Types without a pause; what was typed up to the last two seconds must be stored. */
  async function typeSteadily(page: Page): Promise<string> {
    await newPiece(page)
    await generator(page, 'Typed music')
    const typed = page.getByRole('textbox', { name: 'Typed music' })
    await typed.fill('')
    await typed.focus()
    await page.keyboard.type(letters, { delay: 25 })
    return page.url()
  }

  const storedText = (page: Page) =>
    page.getByRole('textbox', { name: 'Typed music' }).evaluate((element) => element.textContent ?? '')

  async function openAgain(page: Page, address: string): Promise<string> {
    await page.goto(address)
    await goTo(page, 'Effects')
    await page
      .getByRole('navigation')
      .getByRole('button', { name: /^Typed/ })
      .first()
      .click()
    await expect(page.getByRole('textbox', { name: 'Typed music' })).toBeVisible()
    return storedText(page)
  }

  test('and a browser that is killed: at most two seconds of it are lost', async ({ baseURL }) => {
    const profile = mkdtempSync(join(tmpdir(), 'unbroken-profile-'))
    const launch = () => browserWith(profile, baseURL)
    try {
      const first = await launch()
      const address = await typeSteadily(await first.newPage())
      execFileSync('pkill', ['-9', '-f', profile])
      await first.close().catch(() => undefined)
      const second = await launch()
      const text = await openAgain(await second.newPage(), address)
      expect(letters.startsWith(text)).toBe(true)
      // Two seconds at one letter each 25 ms, and the machine types no faster.
      expect(letters.length - text.length).toBeLessThanOrEqual(80)
      await second.close()
    } finally {
      rmSync(profile, { recursive: true, force: true })
    }
  })

  test('and a tab that is closed: nothing of it is lost', async ({ page, context }) => {
    const address = await typeSteadily(page)
    await page.close({ runBeforeUnload: true })
    expect(await openAgain(await context.newPage(), address)).toBe(letters)
  })
})

test('a tab that is closed while storage is full: the piece opens with what was typed last, and stores it when there is room', async ({
  page,
  context,
}) => {
  /** From here on nothing can be stored by a page, until `room`. */
  const fill = () => {
    const { put } = IDBObjectStore.prototype
    IDBObjectStore.prototype.put = () => {
      throw new DOMException('full', 'QuotaExceededError')
    }
    Object.assign(globalThis, {
      room() {
        IDBObjectStore.prototype.put = put
      },
    })
  }
  const isFull = (of: Page) => alert(of).filter({ hasText: 'storage is full' })
  await newPiece(page)
  await generator(page, 'Typed music')
  const typed = (of: Page) => of.getByRole('textbox', { name: 'Typed music' })
  await typed(page).fill('A4 1/8')
  await saved(page)
  await page.evaluate(fill)
  await typed(page).press('End')
  await page.keyboard.type(' B4 C5')
  await expect(isFull(page)).toBeVisible()
  page.on('dialog', (question) => void question.accept())
  await page.close({ runBeforeUnload: true })

  const again = await context.newPage()
  await again.addInitScript(fill)
  await again.goto('/')
  await again.getByRole('button', { name: 'Open New piece' }).click()
  await goTo(again, 'Effects')
  await again
    .getByRole('navigation')
    .getByRole('button', { name: /^Typed/ })
    .click()
  await expect(typed(again)).toHaveText('A4 1/8 B4 C5')
  await expect(isFull(again)).toBeVisible()
  await again.evaluate(() => (globalThis as unknown as { room(): void }).room())
  await saved(again)
  await expect(isFull(again)).toHaveCount(0)
  await again.reload()
  await goTo(again, 'Effects')
  await again
    .getByRole('navigation')
    .getByRole('button', { name: /^Typed/ })
    .click()
  await expect(typed(again)).toHaveText('A4 1/8 B4 C5')
})

testByItself(
  'without a network files are written and checked, and the project is saved to a file',
  async ({ page, context }) => {
    await page.goto('/')
    await page.getByRole('button', { name: /Open the demo/ }).click()
    await goTo(page, 'Deliver')
    await saved(page)
    // What the page needs is there two seconds after it was opened.
    await page.waitForTimeout(2500)
    await context.setOffline(true)
    await page.getByRole('button', { name: 'Write and check the files' }).click()
    await expect(page.getByText(/notes read back/).first()).toBeVisible({ timeout: 60_000 })
    const { bytes } = await savedFile(page, page.getByRole('button', { name: 'Save the project to a file' }))
    expect([...bytes.slice(0, 2)]).toEqual([0x50, 0x4b])
  },
)

test('data that are cleared while a piece is open: it is stored again, and that is said', async ({
  page,
}) => {
  await page.goto('/')
  await page.getByRole('button', { name: /Open the demo/ }).click()
  await saved(page)
  await page.evaluate(async () => {
    for (const { name } of await indexedDB.databases())
      await new Promise((resolve) => {
        indexedDB.deleteDatabase(name!).onsuccess = resolve
      })
  })
  await page.getByRole('button', { name: /^Piece: / }).click()
  await page.getByLabel('Piece', { exact: true }).fill('After the flood')
  await page.keyboard.press('Enter')
  await expect(alert(page)).toContainText('data were cleared while the piece was open')
  await saved(page)
  await page.reload()
  await expect(page.getByRole('heading', { level: 1 })).toContainText('After the flood')
  await goTo(page, 'Tracks')
  await expect(page.getByRole('application', { name: /Notes of Orla’s flute\. [1-9]/ })).toBeVisible()
  await expect(page.getByRole('alert').filter({ hasText: /left out/ })).toHaveCount(0)
})

test('a piece that is open in another tab is not renamed or deleted under it', async ({ page, context }) => {
  await newPiece(page)
  await saved(page)
  const shelf = await context.newPage()
  await shelf.goto('/')
  await shelf.getByRole('button', { name: 'Delete New piece' }).click()
  await expect(shelf.getByRole('main').getByRole('alert')).toContainText('it is open in another tab')
  await shelf.getByRole('button', { name: 'Project name: New piece. Rename' }).click()
  await shelf.getByLabel('Project name').fill('Elsewhere')
  await shelf.getByLabel('Project name').press('Enter')
  await expect(shelf.getByRole('main').getByRole('alert')).toContainText('It could not be renamed')
  await expect(shelf.getByRole('button', { name: 'Open New piece' })).toBeVisible()
  await page.close()
  await shelf.getByRole('button', { name: 'Delete New piece' }).click()
  await expect(shelf.getByRole('button', { name: 'Open New piece' })).toHaveCount(0)
})

test('a damaged clip is left out and said, and can be had as a file later too', async ({ page }) => {
  await page.goto('/')
  await page.getByRole('button', { name: /Open the demo/ }).click()
  await saved(page)
  await page.getByRole('link', { name: 'Shelf' }).click()
  await expect(page.getByRole('heading', { name: 'On the shelf' })).toBeVisible()
  await page.evaluate(async () => {
    const db = await new Promise<IDBDatabase>((resolve) => {
      const request = indexedDB.open('unbroken-voice')
      request.onsuccess = () => resolve(request.result)
    })
    const clips = db.transaction('clips', 'readwrite').objectStore('clips')
    await new Promise<void>((resolve) => {
      clips.getAllKeys().onsuccess = ({ target }) => {
        clips.delete((target as IDBRequest<IDBValidKey[]>).result[0]!)
        resolve()
      }
    })
    db.close()
  })
  await page.getByRole('button', { name: 'Open Lamps on the Ebb' }).click()
  await expect(alert(page)).toContainText('A part of this piece was damaged')
  await alert(page).getByRole('button', { name: 'Close' }).click()
  await saved(page)
  await page.reload()
  await goTo(page, 'Deliver')
  const { bytes } = await savedFile(
    page,
    page.getByText('One damaged part was left out').getByRole('button', { name: 'Save it to a file' }),
  )
  expect(JSON.parse(new TextDecoder().decode(Uint8Array.from(bytes)))).toMatchObject([
    { path: expect.stringMatching(/^tracks\.\d+\.clips\./), reason: expect.stringMatching(/.+/) },
  ])
})
