import { expect, type Page, test } from '../fixtures'
import { alert, goTo, newPiece, reaches } from '../helpers'
import { play, playInOneTurn, refuseOn, sentTo, withMidiPorts } from '../midiPorts'

const hundred = Array.from({ length: 100 }, (_, index) => [
  [0x90, 24 + (index % 80), 90],
  [0x80, 24 + (index % 80), 64],
]).flat()

async function recordWithPort(page: Page): Promise<void> {
  await withMidiPorts(page, [{ id: 'keys', name: 'Grey keyboard' }])
  await newPiece(page)
  await play(page, 'keys', [0x90, 60, 80], [0x80, 60, 64])
  await goTo(page, 'Record')
  await page.getByRole('combobox', { name: 'count-in' }).selectOption('0')
  await page.getByRole('button', { name: 'Record everyone' }).click()
  await reaches(page, 1, 2)
}

test('a hundred notes played just before Stop on a busy page are in the take', async ({ page }) => {
  await recordWithPort(page)
  await playInOneTurn(page, 'keys', hundred, { pressTitled: 'Stop (space)' })
  await expect(page.getByTestId('take-account')).toContainText('100 notes heard, 100 on tracks.')
  await expect(page.getByText(/200 events as played · on 1 track/)).toBeVisible()
})

test('the last notes of a port that vanishes come before its loss, and none of them hangs', async ({
  page,
}) => {
  await recordWithPort(page)
  await playInOneTurn(
    page,
    'keys',
    [
      [0xb0, 64, 127],
      [0x90, 60, 80],
      [0x90, 64, 80],
    ],
    { unplug: 'keys' },
  )
  await page.waitForTimeout(400)
  await page.keyboard.press('Shift+R')
  // Two notes and the pedal, each with its end: none was ended by Stop.
  await expect(page.getByTestId('take-account')).toContainText('2 notes heard, 2 on tracks.')
  await expect(page.getByText(/6 events as played · on 1 track/)).toBeVisible()
})

test('a port that refuses what is sent to it is said once, and the port after it gets its notes', async ({
  page,
}) => {
  await withMidiPorts(page, [
    { id: 'organ', name: 'Old organ' },
    { id: 'bells', name: 'New bells' },
  ])
  await newPiece(page)
  // The computer keyboard sounds on two tracks, each sent to another port.
  await page.getByRole('button', { name: 'Seat six players' }).click()
  for (const [name, port] of [
    ['Your keys', 'organ'],
    ['Orla’s flute', 'bells'],
  ] as const) {
    const track = page
      .locator('[data-track]')
      .filter({ has: page.getByRole('button', { name: `Track: ${name}. Rename` }) })
    await track.getByLabel('hears').selectOption('computer-keyboard')
    await page.getByRole('button', { name: `Ways of ${name}` }).click()
    await page.getByLabel('also sends to').selectOption(port)
    await page.keyboard.press('Escape')
  }
  await refuseOn(page, 'organ')
  await page.keyboard.press('KeyA')
  await expect(alert(page)).toContainText('Old organ does not take what is sent to it (the device is gone)')
  await expect
    .poll(async () => (await sentTo(page, 'bells')).map(({ bytes }) => bytes[0]! & 0xf0))
    .toEqual([0x90, 0x80])
})

test('bytes that are no MIDI are left out and said; what a port sends besides is stored and opens again', async ({
  page,
}) => {
  const long = 'x'.repeat(400)
  await withMidiPorts(page, [{ id: long, name: 'N'.repeat(240) }])
  await newPiece(page)
  await play(page, long, [0x90, 0xc8, 0x64])
  await expect(alert(page)).toContainText('data byte 200; data bytes go up to 127')
  await play(page, long, [0x90, 62, 80], [0x80, 62, 64])
  await page.getByRole('button', { name: 'Keep as a take: 1 note heard' }).click()
  await expect(page.getByRole('button', { name: /^Undo: .*take/i })).toBeVisible()
  await expect(page.getByTestId('save-state')).toHaveText(' · saved')
  await page.reload()
  await goTo(page, 'Record')
  await expect(page.getByText(/2 events as played · on 1 track/)).toBeVisible()
})
