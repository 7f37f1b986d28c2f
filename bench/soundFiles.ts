import { type BenchWindow, bringIn, openPage, withBrowser } from './browser'
import { type Figure, workAtLeast } from './figure'
import { performedPiece } from './pieces'

/** Five minutes at 100 quarters a minute. */
const bars = 125

/** Five minutes of eight parts as WAV: from the press to the file, thread and instruments loaded for the first time. */
export async function soundFiles(): Promise<Figure[]> {
  const piece = performedPiece(8, bars)
  return withBrowser([], async (browser) => {
    const page = await openPage(browser)
    await bringIn(page, piece.bytes, 'Deliver')
    const sound = page.getByRole('region', { name: 'As sound' })
    await sound.getByLabel('each track too').uncheck()
    const start = performance.now()
    await sound.getByRole('button', { name: 'Render the sound' }).click()
    await sound.locator('[data-sound]').first().waitFor({ timeout: 280_000 })
    const tookSeconds = (performance.now() - start) / 1000
    const seconds = await page.evaluate(
      () => (globalThis as BenchWindow).unbrokenSession.soundFiles.state.getState().rendered!.seconds,
    )
    return [
      workAtLeast(
        `WAV of a piece of ${Math.round(seconds)} s with eight parts (${piece.notes} notes), from the press to the file: times real time`,
        seconds / tookSeconds,
        '×',
        10,
      ),
    ]
  })
}
