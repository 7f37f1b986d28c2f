import { newSlot } from '../src/core/effects/catalogue'
import { chance } from '../src/core/effects/chance'
import { printChain } from '../src/core/effects/print'
import type { Note } from '../src/core/event/note'
import { readLists } from '../src/core/generators/typed/lists'
import { MeterMap } from '../src/core/time/meterMap'
import { TempoMap } from '../src/core/time/tempoMap'
import { Engine } from '../src/engine/transport/engine'
import { emptySetup } from '../src/engine/transport/engineNow'
import { engineTrack } from '../src/engine/transport/engineTrack.testing'
import { address, openPage, withBrowser } from './browser'
import { atMost, type Figure, median, percentile, workAtMost } from './figure'

/** Five effects with chance among them; three notes come out of one that goes in, more or less. */
const chain = [
  newSlot('chordInKey', 'a', { tonic: 'D', scale: 'dorian', steps: [2, 4] }),
  newSlot('probability', 'b', { share: 80 }, 5),
  newSlot('repeat', 'c', { count: 1, spacing: '1/16' }),
  newSlot('humanise', 'd', {}, 6),
  newSlot('fold', 'e', { lowest: 40, highest: 90 }),
]

const tempoMap = new TempoMap([{ tick: 0, tempoBpm: 120 }])
const context = { tempoMap, meterMap: new MeterMap([{ tick: 0, numerator: 4, denominator: 4 }]) }

/** Ten minutes of one track at 120 bpm. */
function tenMinutes(seed: number): Note[] {
  const quarters = 1200
  const count = 2600
  return Array.from(
    { length: count },
    (_, index): Note => ({
      id: index + 1,
      onsetTicks: Math.round((index / count) * quarters * 10_080),
      durationTicks: 3000,
      key: 40 + Math.floor(chance(seed, index) * 40),
      velocity: 80,
      releaseVelocity: 64,
      channel: 1,
      origin: { kind: 'drawn' },
    }),
  )
}

export function effectFigures(): Figure[] {
  const tracks = Array.from({ length: 16 }, (_, index) => tenMinutes(index))
  let out = 0
  const times = Array.from({ length: 5 }, () => {
    const startMs = performance.now()
    out = 0
    for (const notes of tracks)
      out += printChain(notes, { slots: chain, changes: [] }, context, 1).notes.length
    return performance.now() - startMs
  })
  return [
    workAtMost(
      `print 16 tracks × 10 minutes through a five-effect chain (${out.toLocaleString('en')} notes out)`,
      median(times),
      'ms',
      1000,
    ),
    liveChain(),
  ]
}

/** What a chain adds between an event and its synthesiser command, with 16 streams of 250 events a second each. */
function liveChain(): Figure {
  const delays = (isOn: boolean) => {
    let nowMs = 1_000_000
    let isSounding = false
    const engine = new Engine({
      nowMs: () => nowMs,
      toSynth: (message) => {
        if (message.type === 'commands') isSounding = true
      },
      toWindow: () => undefined,
      toPorts: () => undefined,
      journal: { begin: async () => undefined, append: async () => nowMs, finish: async () => undefined },
    })
    engine.receive({ type: 'clock', sample: { contextSeconds: 0, epochMs: nowMs } })
    const tracks = Array.from({ length: 16 }, (_, index) => {
      const slots = isOn ? chain : []
      return engineTrack(`t${index}`, index + 1, { slots })
    })
    engine.receive({ type: 'setup', setup: { ...emptySetup, tracks, tempos: [{ tick: 0, tempoBpm: 120 }] } })
    const took: number[] = []
    for (let index = 0; index < 40_000; index++) {
      nowMs += 0.25
      if (index % 20 === 0) engine.tick()
      const channel = index % 16
      const key = 40 + ((index >> 5) % 40)
      const isDown = (index >> 4) % 2 === 0
      const startMs = performance.now()
      isSounding = false
      const status = (isDown ? 0x90 : 0x80) | channel
      engine.receive({
        type: 'input',
        events: [{ portId: 'A', timeMs: nowMs, status, data1: key, data2: 80 }],
      })
      if (isDown && isSounding && index > 4000) took.push(performance.now() - startMs)
    }
    return took
  }
  const plain = delays(false)
  const through = delays(true)
  return atMost(
    `added delay of a live five-effect chain, 4,000 events a second, 99th percentile (without: ${percentile(plain, 0.99).toFixed(3)} ms)`,
    percentile(through, 0.99) - percentile(plain, 0.5),
    'ms',
    1,
  )
}

/** From 20,000 typed notes in the project to their count and their picture on the page. */
export async function typedNotes(): Promise<Figure[]> {
  const names = ['C4', 'E4', 'G4', 'B4', 'D5', 'F#4', 'A4']
  const part = (number: number) =>
    `part Voice ${number}, channel ${(number % 9) + 1}\n${Array.from(
      { length: 1540 },
      (_, index) => `${names[(index * number) % 7]} 1/${index % 3 === 0 ? 8 : 16}`,
    )
      .join(' ')
      .replaceAll(/((?:\S+ \S+ ){16})/g, '$1\n')}`
  const text = Array.from({ length: 13 }, (_, index) => part(index + 1)).join('\n\n')
  const count = readLists(text).parts.reduce((sum, each) => sum + each.notes.length, 0)
  const tookMs = await withBrowser([], async (browser) => {
    const page = await openPage(browser)
    await page.goto(address)
    await page.getByRole('button', { name: /^New piece/, disabled: false }).click()
    await page.waitForFunction(() => 'unbrokenSession' in globalThis)
    await page
      .getByRole('navigation', { name: 'Steps of the work' })
      .getByRole('button', { name: /^Effects/ })
      .click()
    await page.getByRole('button', { name: 'New generator' }).click()
    await page.getByRole('menuitem', { name: /^Typed/ }).click()
    await page.waitForTimeout(1000)
    const times: number[] = []
    for (let run = 0; run < 5; run++) {
      times.push(
        await page.evaluate(
          async ([typed, wanted]) => {
            const editor = document.querySelector<HTMLElement>('.cm-content')!
            const shown = () => document.querySelector('[data-testid="typed-count"]')?.textContent ?? ''
            const frame = () => new Promise((resolve) => requestAnimationFrame(resolve))
            /** Puts a text in the place of all that is there, as somebody does who pastes it. */
            const paste = (next: string) => {
              editor.focus()
              document.getSelection()!.selectAllChildren(editor)
              const data = new DataTransfer()
              data.setData('text/plain', next)
              editor.dispatchEvent(
                new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }),
              )
            }
            paste('C4 1/4')
            while (!shown().includes('1 note')) await frame()
            await new Promise((resolve) => setTimeout(resolve, 600))
            const startMs = performance.now()
            paste(typed)
            while (!shown().includes(wanted)) await frame()
            await frame()
            return performance.now() - startMs
          },
          [text, `${count.toLocaleString('en')} notes`] as const,
        ),
      )
    }
    return median(times)
  })
  return [
    workAtMost(
      `${count.toLocaleString('en')} typed notes in 13 parts: from the paste into the editor to their number on the screen, with the 250 ms it waits for more`,
      tookMs,
      'ms',
      600,
      'drawing',
    ),
  ]
}
