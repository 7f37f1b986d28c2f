import { expect, type Page, test } from '../fixtures'
import { goTo, openDemo, reaches } from '../helpers'

/** Puts a MIDI system of the W3C shape into the page before it starts: one port, which the test plays. */
async function withMidiPort(page: Page): Promise<void> {
  await page.addInitScript(() => {
    class Port extends EventTarget {
      id = 'port-1'
      name = 'Grey keyboard'
      state = 'connected'
      play(bytes: number[]) {
        this.dispatchEvent(Object.assign(new Event('midimessage'), { data: Uint8Array.from(bytes) }))
      }
    }
    const port = new Port()
    const access = Object.assign(new EventTarget(), { inputs: new Map([[port.id, port]]) })
    Object.defineProperty(navigator, 'requestMIDIAccess', { value: async () => access })
    Object.assign(window, {
      playMidi: (bytes: number[]) => port.play(bytes),
      unplug: () => {
        port.state = 'disconnected'
        access.dispatchEvent(new Event('statechange'))
      },
    })
  })
}

const play = (page: Page, ...bytes: number[]) =>
  page.evaluate(
    (message) => (window as unknown as { playMidi: (bytes: number[]) => void }).playMidi(message),
    bytes,
  )

async function newPiece(page: Page): Promise<void> {
  await page.goto('/')
  await page.getByRole('button', { name: /^New piece Starts/ }).click()
  await expect(page.getByRole('region', { name: 'Who plays' })).toBeVisible()
}

test('a MIDI port takes its place at its first note, each channel its own track', async ({ page }) => {
  await withMidiPort(page)
  await newPiece(page)
  await expect(page.getByTestId('midi-state')).toContainText('Grey keyboard')
  await play(page, 0x90, 60, 80)
  await play(page, 0x80, 60, 64)
  await play(page, 0x94, 48, 80)
  await play(page, 0x84, 48, 64)
  const where = page.getByRole('region', { name: 'Where it goes' })
  await expect(where.getByRole('heading', { name: 'Grey keyboard, channel 1' })).toBeVisible()
  await expect(where.getByRole('heading', { name: 'Grey keyboard, channel 5' })).toBeVisible()

  await goTo(page, 'Record')
  await page.getByRole('combobox', { name: 'count-in' }).selectOption('0')
  await page.getByRole('button', { name: 'Record everyone' }).click()
  await reaches(page, 1, 2)
  for (let i = 0; i < 4; i++) {
    await play(page, 0x90, 64 + i, 90)
    await play(page, 0x94, 40 + i, 70)
    await page.waitForTimeout(120)
    await play(page, 0x80, 64 + i, 64)
    await play(page, 0x84, 40 + i, 64)
  }
  await play(page, 0x90, 72, 90)
  await page.evaluate(() => (window as unknown as { unplug: () => void }).unplug())
  await page.waitForTimeout(300)
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  // The key that was down when the port vanished was ended by the program, then and there.
  await expect(page.getByTestId('take-account')).toContainText('9 notes heard, 9 on tracks.')
})

test('without MIDI the page says so, and the rest works', async ({ page }) => {
  await page.addInitScript(() => Object.defineProperty(navigator, 'requestMIDIAccess', { value: undefined }))
  await newPiece(page)
  await expect(page.getByTestId('midi-state')).toContainText(
    'This browser has no MIDI. Everything else works',
  )
  await page.getByRole('button', { name: 'Seat six players' }).click()
  await expect(page.getByRole('region', { name: 'Where it goes' }).getByRole('listitem')).toHaveCount(7)
})

test('a refusal and a machine without a MIDI system are told apart', async ({ page }) => {
  await page.addInitScript(() =>
    Object.defineProperty(navigator, 'requestMIDIAccess', {
      value: () => Promise.reject(new DOMException('no', 'InvalidStateError')),
    }),
  )
  await newPiece(page)
  await expect(page.getByTestId('midi-state')).toContainText('no MIDI system on this machine')
})

test('wrong wiring is said in a sentence with its remedy', async ({ page }) => {
  await openDemo(page)
  await page.locator('[data-track]').first().getByLabel('hears').selectOption('nobody')
  const remarks = page.getByRole('list', { name: 'Remarks on the wiring' })
  await expect(remarks).toContainText('Orla’s flute reaches no track.')
  await remarks.getByRole('button', { name: 'Give Orla’s flute a track' }).click()
  await expect(page.getByText('Orla’s flute reaches no track.')).toHaveCount(0)
})

test('typing a name plays no notes', async ({ page }) => {
  await openDemo(page)
  await page.getByRole('button', { name: /^Piece: / }).click()
  await page.getByLabel('Piece', { exact: true }).fill('')
  await page.keyboard.type('asdf')
  await page.waitForTimeout(300)
  await expect(page.locator('[data-source="computer-keyboard"]')).not.toContainText(/^Your keys[A-G]/)
  await page.keyboard.press('Enter')
  await expect(page.getByRole('heading', { level: 1 })).toContainText('asdf')
})

test('a recording that was cut off is offered when the project is opened again', async ({ page }) => {
  await openDemo(page)
  await goTo(page, 'Record')
  await page.getByRole('button', { name: 'Record everyone' }).click()
  await reaches(page, 2)
  await page.reload()
  await expect(page.getByText('A recording was cut off')).toBeVisible()
  await page.getByRole('button', { name: 'Bring it back as a take' }).click()
  await goTo(page, 'Record')
  await expect(page.getByTestId('take-account')).toContainText(/Take 2: \d\d notes heard/)
})
