import { writeMidiFile } from '../src/core/midi/standardMidiFile/write'
import { bringIn, openPage, withBrowser } from './browser'
import { type Figure, median, workAtMost } from './figure'
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
    await page.evaluate(watchDrawing)
    const undo = page.locator('button[aria-label^="Undo"], button[aria-label^="Nothing to undo"]')
    const figures: { name: string; editMs: number; undoMs: number }[] = []
    for (const name of await edit.locator('li > button').allTextContents()) {
      const opener = edit.getByRole('button', { name, exact: true }).first()
      if ((await opener.getAttribute('aria-expanded')) !== 'true') await opener.click()
      await page.waitForTimeout(500)
      const button = edit.locator('li > div button').last()
      if (await button.isDisabled()) continue
      const before = await undo.getAttribute('aria-label')
      const editMs = await button.evaluate(pressUntilDrawn)
      await page.waitForTimeout(700)
      // With its first settings an operation may have nothing to change.
      if ((await undo.getAttribute('aria-label')) === before) continue
      figures.push({ name, editMs, undoMs: await undo.evaluate(pressUntilDrawn) })
      await page.waitForTimeout(700)
      const words = (await page.getByTestId('selection').textContent())!
      if (!words.startsWith('100000')) await edit.getByRole('button', { name: 'Select', exact: true }).click()
    }
    const slowest = figures.reduce((worst, each) => (each.editMs > worst.editMs ? each : worst))
    const slowestUndo = figures.reduce((worst, each) => (each.undoMs > worst.undoMs ? each : worst))
    const middle = (times: number[]) => median(times).toFixed(0)
    const separated = await separate()
    return [
      ...separated,
      workAtMost(
        `an edit of 100,000 selected notes, from the press to drawn (worst of ${figures.length} operations: ${slowest.name}; median ${middle(figures.map(({ editMs }) => editMs))} ms)`,
        slowest.editMs,
        'ms',
        150,
      ),
      workAtMost(
        `undo of it, from the press to drawn (worst of ${figures.length}: ${slowestUndo.name}; median ${middle(figures.map(({ undoMs }) => undoMs))} ms)`,
        slowestUndo.undoMs,
        'ms',
        100,
      ),
    ]
  })
}

type DrawingWindow = typeof globalThis & { drawnAtMs: number }

/** Notes when a canvas was drawn on last: the work of a frame ends with it. */
function watchDrawing(): void {
  const window = globalThis as DrawingWindow
  window.drawnAtMs = 0
  const prototype = CanvasRenderingContext2D.prototype as unknown as Record<
    string,
    (...all: unknown[]) => void
  >
  for (const name of ['drawImage', 'fillRect', 'stroke']) {
    const draw = prototype[name]!
    prototype[name] = function (this: unknown, ...all: unknown[]) {
      draw.apply(this, all)
      window.drawnAtMs = performance.now()
    }
  }
}

/** From a press to the frame that shows the last of what was drawn for it; several canvases are, one after the other. */
async function pressUntilDrawn(element: HTMLElement | SVGElement): Promise<number> {
  const window = globalThis as DrawingWindow
  const frame = () => new Promise<number>((resolve) => requestAnimationFrame(resolve))
  const start = performance.now()
  ;(element as HTMLElement).click()
  while (window.drawnAtMs < start && performance.now() < start + 3000) await frame()
  let shown = await frame()
  for (let calm = 0; calm < 3; ) {
    const before = window.drawnAtMs
    const now = await frame()
    if (window.drawnAtMs === before) calm++
    else [shown, calm] = [now, 0]
  }
  return shown - start
}

/** Taking apart by voice as it is seen, in a page that did not do it before: from the press to the parts, in the thread that computes. */
async function separate(): Promise<Figure[]> {
  const file = repeatedLinesFile(10_000)
  const times: number[] = []
  for (let run = 0; run < 4; run++)
    await withBrowser([], async (browser) => {
      const page = await openPage(browser)
      await bringIn(page, file, 'tracks')
      await page.waitForTimeout(3000)
      times.push(
        await page.getByRole('button', { name: 'Take apart', exact: true }).evaluate(async (button) => {
          const start = performance.now()
          ;(button as HTMLElement).click()
          const bench = () => document.querySelector('aside[aria-label="Take apart"]')
          while (!bench()?.textContent?.includes('voice 4'))
            await new Promise((resolve) => setTimeout(resolve, 2))
          return performance.now() - start
        }),
      )
    })
  return [
    workAtMost(
      `separate 10,000 notes by voice in a thread, from the press to the parts shown, the first time in a page (worst of ${times.length}; median ${median(times).toFixed(0)} ms)`,
      Math.max(...times),
      'ms',
      1000,
    ),
  ]
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
