import type { Page } from '@playwright/test'
import { strToU8 } from 'fflate'
import { expect, test } from '../fixtures'
import { bringIn, goTo, openDemo } from '../helpers'
import { sentTo, withMidiPorts } from '../midiPorts'

const note = (step: string, octave: number, staff: number, voice: number, rest = '') =>
  `<note>${rest}<pitch><step>${step}</step><octave>${octave}</octave></pitch><duration>1</duration><voice>${voice}</voice><type>quarter</type><staff>${staff}</staff></note>`
const back = '<backup><duration>4</duration></backup>'
/** A keyboard part whose hands meet in the middle: a fixed split would put some notes on the other staff. */
const keyboard = `<score-partwise version="4.0"><work><work-title>Two Quays</work-title></work><part-list><score-part id="P1"><part-name>Piano</part-name></score-part></part-list><part id="P1"><measure number="1"><attributes><divisions>1</divisions><key><fifths>0</fifths></key><time><beats>4</beats><beat-type>4</beat-type></time><staves>2</staves><clef number="1"><sign>G</sign><line>2</line></clef><clef number="2"><sign>F</sign><line>4</line></clef></attributes><sound tempo="240"/>${note('C', 4, 1, 1)}${note('A', 3, 1, 1)}${note('C', 5, 1, 1)}${back}${note('E', 3, 2, 5)}${note('D', 4, 2, 5)}${note('F', 4, 2, 5)}${note('G', 3, 2, 5)}${note('B', 3, 2, 5, '<chord/>')}</measure></part></score-partwise>`

const eighth = (step: string, octave: number, staff: string, voice: number) =>
  `<note><pitch><step>${step}</step><octave>${octave}</octave></pitch><duration>1</duration><voice>${voice}</voice><type>eighth</type>${staff}</note>`
const scale = (octave: number, staff: string, voice: number) =>
  [...'CDEFGABG'].map((step) => eighth(step, octave, staff, voice)).join('')
const attributes = (staves: string) =>
  `<attributes><divisions>2</divisions><key><fifths>0</fifths></key><time><beats>4</beats><beat-type>4</beat-type></time>${staves}</attributes>`
const bars = (count: number, staves: string, inside: string) =>
  Array.from(
    { length: count },
    (_, index) =>
      `<measure number="${index + 1}">${index === 0 ? `${attributes(staves)}<sound tempo="180"/>` : ''}${inside}</measure>`,
  ).join('')
const treble = '<clef><sign>G</sign><line>2</line></clef>'
const grand =
  '<staves>2</staves><clef number="1"><sign>G</sign><line>2</line></clef><clef number="2"><sign>F</sign><line>4</line></clef>'
const hands = `${scale(5, '<staff>1</staff>', 1)}<backup><duration>8</duration></backup>${scale(3, '<staff>2</staff>', 5)}`
/** Eight bars for three, in ten seconds: a flute, a piano, a bell. */
const eightBars = `<score-partwise version="4.0"><work><work-title>Eight Bars</work-title></work><part-list>${['Flute', 'Piano', 'Bell'].map((name, index) => `<score-part id="P${index + 1}"><part-name>${name}</part-name></score-part>`).join('')}</part-list><part id="P1">${bars(8, treble, scale(5, '', 1))}</part><part id="P2">${bars(8, grand, hands)}</part><part id="P3">${bars(8, treble, scale(6, '', 1))}</part></score-partwise>`

async function receiver(page: Page): Promise<Page> {
  const opened = await page.context().newPage()
  await opened.goto('/programs/receiver?cable=Quayside')
  await expect(opened.getByLabel('cable', { exact: true })).toHaveValue('Quayside')
  await expect(opened.getByTestId('receiver-state')).toHaveText('waiting for the clock')
  await page.bringToFront()
  return opened
}

async function openKeyboard(page: Page) {
  await bringIn(page, { name: 'quays.musicxml', bytes: strToU8(keyboard) })
  await expect(page.getByText('8 notes')).toBeVisible()
  await goTo(page, 'Deliver')
  return bench(page)
}

async function eightBarsToSend(page: Page) {
  await bringIn(page, { name: 'eight bars.musicxml', bytes: strToU8(eightBars) })
  await expect(page.getByText('64 notes').first()).toBeVisible()
  await goTo(page, 'Deliver')
  return bench(page)
}

async function demoToSend(page: Page) {
  await openDemo(page)
  await goTo(page, 'Deliver')
  return bench(page)
}

async function bench(page: Page) {
  const live = page.getByRole('region', { name: 'Live into notation software' })
  await expect(live.getByRole('button', { name: 'Send them' })).toBeEnabled()
  return live
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

/** What a table says of each staff: its name, then sent, written, at its place, with its value, on one staff. */
const compared = (live: ReturnType<Page['getByRole']>) =>
  live
    .getByRole('row')
    .evaluateAll((rows) =>
      rows
        .map((row) => [...row.querySelectorAll('td')].map((cell) => cell.textContent))
        .filter((cells) => cells.length > 0),
    )

test('a keyboard part arrives with its staves on two channels, as the page has them, or on one', async ({
  page,
}) => {
  const program = await receiver(page)
  const live = await openKeyboard(page)
  await live.getByRole('button', { name: 'Send them' }).click()
  await expect(live.getByText('Receiver: 8 of 8 notes written, each as it is here.')).toBeVisible()
  expect(await arrived(program)).toEqual([
    [1, 3],
    [2, 5],
  ])
  expect(await compared(live)).toEqual([
    ['Piano, upper staff', '3', '3', '3', '3', '3'],
    ['Piano, lower staff', '5', '5', '5', '5', '5'],
  ])
  await expect(program.getByTestId('receiver-line')).toHaveCount(1)
  await expect(program.locator('.engraved g.note')).toHaveCount(8)

  // On one channel the receiver divides them where it always does: that is told, note by note.
  await program.getByRole('button', { name: 'Begin anew' }).click()
  await live.getByText('two staves on two channels').click()
  await live.getByRole('button', { name: 'Send them' }).click()
  await expect(program.getByTestId('receiver-total')).toContainText(
    '8 notes arrived on 1 channel; none sounds now',
  )
  await expect(live.getByText('1 · 2 · 00, A3, Piano, upper staff: on another staff')).toBeVisible()
  expect((await compared(live)).map((cells) => cells.at(-1))).toEqual(['2', '3'])

  // Afterwards the piece is heard here as before, and nothing goes out.
  await program.getByRole('button', { name: 'Begin anew' }).click()
  await page.getByRole('button', { name: 'Play', exact: true }).click()
  await page.waitForTimeout(1500)
  await expect(program.getByTestId('receiver-total')).toContainText('Nothing has arrived yet')
})

test('the demo arrives whole, on the right staves, with the right values, while the page is busy', async ({
  page,
}) => {
  const program = await receiver(page)
  const live = await demoToSend(page)
  await page.getByLabel('speed').selectOption('150')
  await page.evaluate(() => {
    setInterval(() => {
      const until = performance.now() + 90
      while (performance.now() < until);
    }, 120)
  })
  await live.getByRole('button', { name: 'Send them' }).click()
  await expect(live.getByText(/Receiver: (\d+) of \1 notes written, each as it is here\./)).toBeVisible({
    timeout: 90_000,
  })
  expect((await compared(live)).map(([name]) => name)).toEqual([
    'Orla’s flute',
    'Benno’s piano, upper staff',
    'Benno’s piano, lower staff',
    'Sefa’s harp',
  ])
  await expect(program.getByTestId('receiver-line')).toHaveCount(4)
})

test('parts go one after another by themselves, each written beside what is there; ended, the rest stays here', async ({
  page,
}) => {
  const program = await receiver(page)
  const live = await eightBarsToSend(page)
  await live.getByLabel('Parts go').selectOption('turns')
  await live.getByLabel('pause between').fill('1')
  await page.keyboard.press('Enter')
  await live.getByRole('button', { name: 'Send them' }).click()
  await expect(live.getByText('Sending Flute…')).toBeVisible()
  await expect(live.getByText('Sending Piano…')).toBeVisible({ timeout: 60_000 })
  const flute = live.getByRole('region', { name: 'What arrived of Flute' })
  await expect(flute.getByText(/Receiver: (\d+) of \1 notes written, each as it is here\./)).toBeVisible()
  await page.waitForTimeout(3000)
  await live.getByRole('button', { name: 'End it' }).click()
  await expect(live.getByText(/Piano, ended at \d+ · /)).toBeVisible()
  await expect(live.getByText(/Bell/).nth(1)).toHaveCount(0)
  await expect(live.getByRole('button', { name: 'Send them' })).toBeEnabled()
  await expect(program.getByTestId('receiver-total')).toContainText('none sounds now')
  // The flute is there still.
  const written = Number((await program.getByTestId('receiver-written').textContent())!.match(/\d+/)![0])
  expect(written).toBeGreaterThan(64)
})

test('a click counts in on its channel; a receiver with its own tempo and staves writes from its first note', async ({
  page,
}) => {
  const program = await receiver(page)
  await program.getByLabel('begins').selectOption('with the first note')
  await program.getByText('How it writes').click()
  await program.getByLabel('own tempo').fill('240')
  await program.getByLabel('own tempo').press('Enter')
  await program.getByLabel('click comes on').selectOption('16')
  await program.getByText('Staves', { exact: true }).click()
  await program.getByLabel('set up').selectOption('hand')
  await program.getByRole('button', { name: 'Add a keyboard' }).click()
  await program.getByLabel('Channel of Keyboard, lower').selectOption('2')
  await program.getByRole('button', { name: 'Record' }).dblclick()
  await expect(program.getByTestId('receiver-state')).toHaveText('waiting for the first note')
  await page.bringToFront()
  const live = await openKeyboard(page)
  await live.getByText('clock, start and stop').click()
  await live.getByLabel('Click', { exact: true }).selectOption('count-in')
  await live.getByRole('button', { name: 'Send them' }).click()
  await expect(live.getByText('Receiver: 8 of 8 notes written, each as it is here.')).toBeVisible()
  expect(await arrived(program)).toEqual([
    [1, 3],
    [2, 5],
    [16, 4],
  ])
  // A reload keeps how it was set up.
  await program.reload()
  await expect(program.getByLabel('begins')).toHaveValue('with the first note')
})

test('over a real port, what comes back on an input is compared with what was sent', async ({ page }) => {
  await withMidiPorts(page, [{ id: 'interface', name: 'Harbour interface' }])
  // A cable from its output to its input.
  await page.addInitScript(() => {
    type Ports = {
      midiPorts: { sent: { push(message: unknown): number }; send(id: string, bytes: number[]): void }
    }
    const { midiPorts } = globalThis as unknown as Ports
    const push = midiPorts.sent.push.bind(midiPorts.sent)
    midiPorts.sent.push = (message) => {
      const { bytes, timestamp } = message as { bytes: number[]; timestamp: number }
      setTimeout(() => midiPorts.send('interface', bytes), 6 + Math.max(0, timestamp - performance.now()))
      return push(message)
    }
  })
  const live = await openKeyboard(page)
  await live.getByLabel('To', { exact: true }).selectOption({ label: 'Harbour interface' })
  await live.getByLabel('Comes back on').selectOption({ label: 'Harbour interface' })
  await live.getByRole('button', { name: 'Send them' }).click()
  await expect(live.getByText(/8 of 8 notes came back, \d+\.\d ms later, within ±\d+\.\d ms\./)).toBeVisible()
  const ons = (await sentTo(page, 'interface')).filter(({ bytes }) => (bytes[0]! & 0xf0) === 0x90)
  expect(ons).toHaveLength(8)
  // Nobody was seated for what came back.
  await goTo(page, 'Players')
  await expect(page.getByText('Harbour interface, channel 1')).toHaveCount(0)
})

test('stopped in the middle, nothing goes on sounding there, and the next press begins anew', async ({
  page,
}) => {
  const program = await receiver(page)
  const live = await demoToSend(page)
  await live.getByRole('button', { name: 'Send them' }).click()
  await expect(program.getByTestId('receiver-clock')).toContainText(/clock runs at 9[12]\.\d/, {
    timeout: 15_000,
  })
  // Flute, harp, and piano on two.
  await expect(program.getByTestId('receiver-total')).toContainText('on 4 channels', { timeout: 20_000 })
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
  await (await demoToSend(page)).getByRole('button', { name: 'Send them' }).click()
  await expect(program.getByTestId('receiver-total')).toContainText(/\d sounds? now/, { timeout: 15_000 })
  await page.reload()
  await expect(program.getByTestId('receiver-total')).toContainText('none sounds now')
})

test('a piece that is left between two parts sends no more; the receiver takes thousands of notes and stays awake', async ({
  page,
}) => {
  const program = await receiver(page)
  const live = await eightBarsToSend(page)
  await live.getByText('Piano', { exact: true }).click()
  await live.getByLabel('Parts go').selectOption('turns')
  await live.getByLabel('pause between').fill('3')
  await page.keyboard.press('Enter')
  await live.getByRole('button', { name: 'Send them' }).dblclick()
  await expect(live.getByText('Pause before the next part…')).toBeVisible({ timeout: 60_000 })
  await page.getByRole('link', { name: 'Shelf' }).click()
  await expect(page.getByRole('button', { name: /Open the demo/ })).toBeVisible()
  const said = await program.getByTestId('receiver-total').textContent()
  expect(said).toContain('on 1 channel; none sounds now')
  await page.waitForTimeout(5000)
  expect(await program.getByTestId('receiver-total').textContent()).toBe(said)

  // Sixteen channels, 20,000 notes at once, with their clock: as from a file that somebody pours out.
  await program.getByRole('button', { name: 'Begin anew' }).click()
  await page.evaluate(() => {
    const cable = new BroadcastChannel('unbroken-cable Quayside')
    const began = performance.timeOrigin + performance.now()
    const events: { timeMs: number; bytes: number[] }[] = [{ timeMs: began, bytes: [0xfa] }]
    const beatCount = 20_000 / 16 / 4
    for (let clock = 0; clock <= beatCount * 24; clock++)
      events.push({ timeMs: began + clock * 20, bytes: [0xf8] })
    for (let step = 0; step < beatCount * 4; step++)
      for (let channel = 0; channel < 16; channel++) {
        const key = 40 + ((step * 7 + channel * 3) % 40)
        events.push({ timeMs: began + step * 120, bytes: [0x90 | channel, key, 80] })
        events.push({ timeMs: began + step * 120 + 110, bytes: [0x80 | channel, key, 64] })
      }
    events.push({ timeMs: began + beatCount * 480, bytes: [0xfc] })
    cable.postMessage({ type: 'events', events: events.sort((a, b) => a.timeMs - b.timeMs) })
    cable.close()
  })
  await expect(program.getByTestId('receiver-written')).toContainText(
    /^(19|20)\d{3} notes written on 16 parts/,
    {
      timeout: 60_000,
    },
  )
  await program.getByText('How it writes').click()
  await program.getByLabel('triplets').click()
  await expect(program.getByTestId('receiver-line')).toHaveCount(20)
  await expect(program.locator('.engraved svg').first()).toBeVisible({ timeout: 60_000 })
})

test('two pieces that send over one cable at once are both told that the comparison says nothing', async ({
  page,
}) => {
  await receiver(page)
  const mine = await eightBarsToSend(page)
  const other = await page.context().newPage()
  const theirs = await eightBarsToSend(other)
  for (const live of [theirs, mine]) await live.getByRole('button', { name: 'Send them' }).click()
  for (const live of [mine, theirs])
    await expect(live.getByText(/Another program sent notes over the same cable meanwhile/)).toBeVisible({
      timeout: 90_000,
    })
})
