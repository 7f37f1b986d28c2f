import type { Page } from '@playwright/test'
import { strToU8 } from 'fflate'
import { expect, test } from './fixtures'
import { bringIn, goTo, openDemo } from './helpers'

const note = (step: string, octave: number, staff: number, voice: number, rest = '') =>
  `<note>${rest}<pitch><step>${step}</step><octave>${octave}</octave></pitch><duration>1</duration><voice>${voice}</voice><type>quarter</type><staff>${staff}</staff></note>`
const back = '<backup><duration>4</duration></backup>'
/** A keyboard part whose hands meet in the middle: a fixed split would put some notes on the other staff. */
const keyboard = `<score-partwise version="4.0"><work><work-title>Two Quays</work-title></work><part-list><score-part id="P1"><part-name>Piano</part-name></score-part></part-list><part id="P1"><measure number="1"><attributes><divisions>1</divisions><key><fifths>0</fifths></key><time><beats>4</beats><beat-type>4</beat-type></time><staves>2</staves><clef number="1"><sign>G</sign><line>2</line></clef><clef number="2"><sign>F</sign><line>4</line></clef></attributes><sound tempo="240"/>${note('C', 4, 1, 1)}${note('A', 3, 1, 1)}${note('C', 5, 1, 1)}${back}${note('E', 3, 2, 5)}${note('D', 4, 2, 5)}${note('F', 4, 2, 5)}${note('G', 3, 2, 5)}${note('B', 3, 2, 5, '<chord/>')}</measure></part></score-partwise>`

async function receiver(page: Page): Promise<Page> {
  const opened = await page.context().newPage()
  await opened.goto('/programs/receiver?cable=Quayside')
  await expect(opened.getByLabel('cable', { exact: true })).toHaveValue('Quayside')
  await page.bringToFront()
  return opened
}

/** Channels with the notes that arrived on each. */
const arrived = (program: Page) =>
  program
    .getByRole('row')
    .evaluateAll((rows) =>
      rows
        .slice(1)
        .map((row) => [...row.querySelectorAll('td')].slice(0, 2).map((cell) => Number(cell.textContent))),
    )

test('a keyboard part arrives with its staves on two channels, as the page has them, or on one', async ({
  page,
}) => {
  const program = await receiver(page)
  await bringIn(page, { name: 'quays.musicxml', bytes: strToU8(keyboard) })
  await expect(page.getByText('8 notes')).toBeVisible()
  await goTo(page, 'Deliver')
  const live = page.getByRole('region', { name: 'Live into notation software' })
  await expect(live.getByRole('button', { name: 'Send them' })).toBeEnabled()
  await live.getByLabel('Sends').selectOption('written')
  await live.getByRole('button', { name: 'Send them' }).click()
  await expect(program.getByTestId('receiver-total')).toContainText(
    '8 notes arrived on 2 channels; none sounds now',
  )
  expect(await arrived(program)).toEqual([
    [1, 3],
    [2, 5],
  ])
  await expect(live.getByRole('button', { name: 'Send them' })).toBeEnabled()

  await program.getByRole('button', { name: 'Begin anew' }).click()
  await live.getByText('two staves on two channels').click()
  await live.getByRole('button', { name: 'Send them' }).click()
  await expect(program.getByTestId('receiver-total')).toContainText(
    '8 notes arrived on 1 channel; none sounds now',
  )
  expect(await arrived(program)).toEqual([[1, 8]])

  // Afterwards the piece is heard here as before, and nothing goes out.
  await program.getByRole('button', { name: 'Begin anew' }).click()
  await expect(live.getByRole('button', { name: 'Send them' })).toBeEnabled()
  await page.getByRole('button', { name: 'Play', exact: true }).click()
  await page.waitForTimeout(1500)
  await expect(program.getByTestId('receiver-total')).toContainText('Nothing has arrived yet')
})

test('stopped in the middle, nothing goes on sounding there, and the next press begins anew', async ({
  page,
}) => {
  const program = await receiver(page)
  await openDemo(page)
  await goTo(page, 'Deliver')
  const live = page.getByRole('region', { name: 'Live into notation software' })
  await live.getByRole('group', { name: 'Parts that are sent' }).getByText('Sefa’s harp').click()
  await live.getByText('clock, start and stop').click()
  await live.getByRole('button', { name: 'Send them' }).click()
  await expect(live.getByRole('status')).toHaveText('Sending… Stop ends it.')
  await expect(program.getByTestId('receiver-clock')).toContainText(/clock runs at 9[12]\.\d/, {
    timeout: 15_000,
  })
  // Flute, and both staves of the piano; the harp is left out.
  await expect(program.getByTestId('receiver-total')).toContainText('on 3 channels', { timeout: 20_000 })
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  await expect(program.getByTestId('receiver-total')).toContainText('none sounds now')
  await expect(program.getByTestId('receiver-clock')).toContainText('clock stopped')
  await program.getByRole('button', { name: 'Begin anew' }).click()
  await live.getByRole('button', { name: 'Send them' }).click()
  await expect(program.getByTestId('receiver-total')).toContainText(/\d+ notes arrived/)
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  await expect(program.getByTestId('receiver-total')).toContainText('none sounds now')
})

test('a page that is reloaded while it sends lets go of its notes first', async ({ page }) => {
  const program = await receiver(page)
  await openDemo(page)
  await goTo(page, 'Deliver')
  await page
    .getByRole('region', { name: 'Live into notation software' })
    .getByRole('button', { name: 'Send them' })
    .click()
  await expect(program.getByTestId('receiver-total')).toContainText(/\d sounds? now/, { timeout: 15_000 })
  await page.reload()
  await expect(program.getByTestId('receiver-total')).toContainText('none sounds now')
})
