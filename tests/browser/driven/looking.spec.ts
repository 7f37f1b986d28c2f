import type { Page } from '@playwright/test'
import { expect, test } from '../fixtures'
import { goTo, openDemo, reaches, savedFile } from '../helpers'

const sheet = (page: Page) => page.getByRole('region', { name: 'Page', exact: true })
const heads = (page: Page) => page.getByTestId('page').locator('g.note')

async function openDemoPage(page: Page): Promise<void> {
  await openDemo(page)
  await goTo(page, 'Score')
  await expect(heads(page).first()).toBeVisible()
}

/** Height of a staff on the screen. */
const staffHeight = (page: Page) =>
  page
    .locator('[data-system="0"] g.staff')
    .first()
    .evaluate((staff) => staff.querySelector('path')!.getBoundingClientRect().height)

test('the page is looked at larger, smaller, and as one endless line, and so it stays', async ({ page }) => {
  await openDemoPage(page)
  const usual = await staffHeight(page)
  await page.getByRole('button', { name: 'Larger' }).click()
  await page.getByRole('button', { name: 'Larger' }).click()
  await page.getByRole('button', { name: 'Larger' }).click()
  await expect(page.getByLabel('Size')).toHaveValue('150')
  await expect.poll(() => staffHeight(page)).toBeCloseTo(usual * 1.5, 0)
  // The wheel with Ctrl makes the page smaller, not the program.
  await sheet(page).hover()
  await page.keyboard.down('Control')
  await page.mouse.wheel(0, 100)
  await page.keyboard.up('Control')
  await expect(page.getByLabel('Size')).toHaveValue('130')
  await page.getByLabel('Size').selectOption('100')
  await page.getByLabel('Drawn as').selectOption('endless')
  await expect(page.locator('[data-system]')).toHaveCount(1)
  // Every note, and one that is tied over a bar line twice.
  await expect(heads(page)).toHaveCount(256)
  // All staves stand on one level, and what is chosen is brought into sight.
  await sheet(page).focus()
  for (let note = 0; note < 40; note++) await page.keyboard.press('ArrowRight')
  await expect
    .poll(() =>
      page.evaluate(() => {
        const chosen = document.querySelector('g.note.is-selected')?.getBoundingClientRect()
        const host = document.querySelector('section[aria-label="Page"]')!
        const box = host.getBoundingClientRect()
        return (
          host.scrollLeft > 0 && chosen !== undefined && chosen.left > box.left && chosen.right < box.right
        )
      }),
    )
    .toBe(true)
  await page.reload()
  await goTo(page, 'Score')
  await expect(page.getByLabel('Drawn as')).toHaveValue('endless')
  await page.getByLabel('Drawn as').selectOption('lines')
  await expect(page.locator('[data-system]')).not.toHaveCount(1)
})

test('recorded at another speed onto music as a new voice: nothing is overwritten, and it can be laid otherwise', async ({
  page,
}) => {
  await openDemoPage(page)
  await goTo(page, 'Record')
  await page.getByLabel('onto music').selectOption('voice')
  await page.getByLabel('Speed in percent of the tempo').selectOption('150')
  await goTo(page, 'Score')
  await page.keyboard.press('Shift+R')
  // While it is played, what is there and what is new stand side by side.
  const live = page.getByRole('region', { name: 'Being played' })
  await expect(live.locator('g.note.is-new').nth(5)).toBeAttached({ timeout: 20_000 })
  await expect(live.locator('g.note:not(.is-new)').nth(5)).toBeAttached()
  await reaches(page, 3)
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  const asked = page.getByRole('status').filter({ hasText: 'was recorded onto music' })
  await expect(asked).toBeVisible()
  const lies = asked.getByRole('combobox')
  await expect(lies).toHaveValue('voice')
  // Two bars of the demo are played in two bars, however fast.
  const written = async () =>
    Number(/(\d+) written/.exec((await page.getByLabel('About the note').textContent()) ?? '')?.[1])
  await expect.poll(written).toBeGreaterThan(255)
  const together = await written()
  await lies.selectOption('staff')
  await expect(page.getByRole('checkbox', { name: 'Orla’s flute', exact: true })).toBeVisible()
  await expect(page.getByRole('checkbox', { name: /^Orla’s flute Take/ })).toBeVisible()
  await expect.poll(written).toBe(together)
  await lies.selectOption('layered')
  await expect(page.getByRole('checkbox', { name: /^Orla’s flute Take/ })).toHaveCount(0)
  await lies.selectOption('fresh')
  await expect.poll(written).toBeLessThan(together)
  await page.getByRole('button', { name: 'Good' }).click()
  await expect(asked).toHaveCount(0)
})

test('a press while the page still moves is meant for the note beneath', async ({ page }) => {
  await openDemoPage(page)
  const head = page.locator('[data-system="1"] g.note').first()
  await head.scrollIntoViewIfNeeded()
  await expect(page.getByTestId('place-says')).toHaveCount(0)
  await sheet(page).evaluate((host) => {
    host.scrollTop += 40
    return new Promise<void>((resolve) => host.addEventListener('scroll', () => resolve(), { once: true }))
  })
  const box = (await head.locator('path').first().boundingBox())!
  await page.mouse.click(box.x + box.width / 2, box.y + box.height / 2)
  await expect(page.getByTestId('place-says')).toContainText('bar 5')
})

test('bars of the page become pictures, with their words', async ({ page }) => {
  await openDemoPage(page)
  await heads(page).nth(3).click({ force: true })
  await page.getByLabel('These bars', { exact: true }).selectOption('all')
  const asPicture = page.getByRole('group', { name: 'As a picture' })
  const svg = await savedFile(page, asPicture.getByRole('button', { name: 'SVG' }))
  expect(svg.name).toBe('Lamps on the Ebb, bar 1.svg')
  const drawing = new TextDecoder().decode(svg.bytes)
  expect(drawing).toContain('Orla’s flute')
  expect(drawing).toContain('data:font/woff;base64,')
  expect(drawing).not.toContain('<image')
  const png = await savedFile(page, asPicture.getByRole('button', { name: 'PNG' }))
  const bytes = Buffer.from(png.bytes)
  // PNG specification, third edition, 5.2 and 11.2.1: the signature, then width and height.
  expect(bytes.subarray(0, 8).toString('latin1')).toBe('\x89PNG\r\n\x1a\n')
  const [width] = /^<svg width="([\d.]+)px"/.exec(drawing)!.slice(1).map(Number)
  expect(bytes.readUInt32BE(16)).toBeGreaterThan(width! * 2)
})
