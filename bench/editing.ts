import { writeMidiFile } from '../src/core/midi/standardMidiFile/write'
import { bringIn, openPage, withBrowser } from './browser'
import { atMost, type Figure, median } from './figure'
import { denseFile, repeatedLines } from './pieces'

/** Every operation on 100,000 selected notes and its undo, from the press to what is drawn; and taking 10,000 notes apart. */
export async function editingFigures(): Promise<Figure[]> {
  return withBrowser([], async (browser) => {
    const page = await openPage(browser)
    await bringIn(page, denseFile(100_000), 'tracks')
    await page.waitForTimeout(4000)
    await page.getByRole('button', { name: 'Edit', exact: true }).click()
    const edit = page.getByRole('complementary', { name: 'Edit notes' })
    await edit.getByLabel('Select', { exact: true }).selectOption({ label: 'everything' })
    await edit.getByLabel('in all tracks').check()
    await edit.getByRole('button', { name: 'Select', exact: true }).click()
    await page.getByText('100000 notes selected').waitFor()
    const figures = await page.evaluate(async () => {
      // When a canvas was drawn on last: the work of a frame ends with it.
      let drawnAt = 0
      for (const name of ['drawImage', 'fillRect', 'stroke'] as const) {
        const draw = CanvasRenderingContext2D.prototype[name] as (...all: unknown[]) => void
        ;(CanvasRenderingContext2D.prototype as unknown as Record<string, unknown>)[name] = function (
          this: CanvasRenderingContext2D,
          ...all: unknown[]
        ) {
          draw.apply(this, all)
          drawnAt = performance.now()
        }
      }
      const frame = () => new Promise<number>((resolve) => requestAnimationFrame(resolve))
      const settle = async (ms: number) => {
        const until = performance.now() + ms
        while (performance.now() < until) await frame()
      }
      /** From a press to the frame that shows what was drawn. */
      const timed = async (press: () => void): Promise<number> => {
        const start = performance.now()
        press()
        while (drawnAt < start) await frame()
        let shown = await frame()
        // Several canvases are drawn, one after the other: until a frame in which none is.
        for (let calm = 0; calm < 3; ) {
          const before = drawnAt
          const now = await frame()
          if (drawnAt === before) calm++
          else [shown, calm] = [now, 0]
        }
        return shown - start
      }
      const bench = document.querySelector('aside[aria-label="Edit notes"]')!
      const undo = document.querySelector<HTMLElement>(
        'button[aria-label^="Undo"], button[aria-label^="Nothing to undo"]',
      )!
      const names = [...bench.querySelectorAll<HTMLElement>('li > button')].map(
        (button) => button.textContent!,
      )
      const edits: { name: string; editMs: number; undoMs: number }[] = []
      for (const name of names) {
        const opener = [...bench.querySelectorAll<HTMLElement>('li > button')].find(
          (button) => button.textContent === name,
        )!
        if (opener.getAttribute('aria-expanded') !== 'true') opener.click()
        await settle(500)
        const button = [...bench.querySelectorAll<HTMLButtonElement>('li > div button')].at(-1)!
        if (button.disabled) continue
        const before = undo.getAttribute('aria-label')
        const editMs = await timed(() => button.click())
        await settle(700)
        if (undo.getAttribute('aria-label') === before) continue
        const undoMs = await timed(() => undo.click())
        edits.push({ name, editMs, undoMs })
        await settle(700)
        // What takes notes away takes the selection with it.
        const selected = document.querySelector('[data-testid="selection"]')!.textContent!
        if (!selected.startsWith('100000')) {
          const select = [...bench.querySelectorAll<HTMLButtonElement>('button')].find(
            (each) => each.textContent === 'Select',
          )!
          select.click()
          await settle(400)
        }
      }
      return edits
    })
    const slowest = figures.reduce((worst, each) => (each.editMs > worst.editMs ? each : worst))
    const slowestUndo = figures.reduce((worst, each) => (each.undoMs > worst.undoMs ? each : worst))
    const middle = (times: number[]) => median(times).toFixed(0)
    const separated = await separate()
    return [
      ...separated,
      atMost(
        `an edit of 100,000 selected notes, from the press to drawn (worst of ${figures.length} operations: ${slowest.name}; median ${middle(figures.map(({ editMs }) => editMs))} ms)`,
        slowest.editMs,
        'ms',
        150,
      ),
      atMost(
        `undo of it, from the press to drawn (worst of ${figures.length}: ${slowestUndo.name}; median ${middle(figures.map(({ undoMs }) => undoMs))} ms)`,
        slowestUndo.undoMs,
        'ms',
        100,
      ),
    ]
  })
}

/** Taking apart by voice as it is seen: from the choice of the way to the parts, in the thread that computes. */
async function separate(): Promise<Figure[]> {
  return withBrowser([], async (browser) => {
    const page = await openPage(browser)
    await bringIn(page, repeatedLinesFile(10_000), 'tracks')
    await page.waitForTimeout(3000)
    await page.getByRole('button', { name: 'Take apart', exact: true }).click()
    const apart = page.getByRole('complementary', { name: 'Take apart' })
    const times: number[] = []
    for (let run = 0; run < 4; run++) {
      await apart.locator('select').first().selectOption('force')
      await apart.getByText('main strokes').waitFor()
      times.push(
        await page.evaluate(async () => {
          const choice = document.querySelector<HTMLSelectElement>('aside[aria-label="Take apart"] select')!
          const start = performance.now()
          Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, 'value')!.set!.call(choice, 'voice')
          choice.dispatchEvent(new Event('change', { bubbles: true }))
          while (!document.querySelector('aside[aria-label="Take apart"]')!.textContent!.includes('voice 4'))
            await new Promise((resolve) => setTimeout(resolve, 2))
          return performance.now() - start
        }),
      )
    }
    return [
      atMost(
        `separate 10,000 notes by voice in a thread, from the choice to the parts shown (worst of ${times.length}, the first included; median ${median(times).toFixed(0)} ms)`,
        Math.max(...times),
        'ms',
        1000,
      ),
    ]
  })
}

function repeatedLinesFile(count: number): Uint8Array {
  const events = repeatedLines(count).flatMap(({ onsetQuarters, endQuarters, key, velocity }) => [
    { tick: Math.round(onsetQuarters * 480), type: 'noteOn' as const, channel: 1, key, velocity },
    { tick: Math.round(endQuarters * 480) - 4, type: 'noteOff' as const, channel: 1, key, velocity: 64 },
  ])
  events.sort((a, b) => a.tick - b.tick)
  return writeMidiFile({
    format: 1,
    divisionTicksPerQuarter: 480,
    tracks: [{ events, endTick: events.at(-1)!.tick }],
  })
}
