import { bringIn, openPage, withBrowser } from './browser'
import { type Figure, workAtMost } from './figure'
import { performedPiece } from './pieces'

/** A score of 300 bars and its eight parts: from the press to the PDF, threads and fonts loaded for the first time. */
export async function printedPages(): Promise<Figure[]> {
  const piece = performedPiece(8, 300)
  return withBrowser([], async (browser) => {
    const page = await openPage(browser)
    await bringIn(page, piece.bytes, 'Deliver')
    const paper = page.getByRole('region', { name: 'On paper' })
    const start = performance.now()
    await paper.getByRole('button', { name: 'Lay the pages out' }).click()
    await paper.getByRole('button', { name: 'Save as PDF' }).waitFor({ timeout: 280_000 })
    const tookMs = performance.now() - start
    return [
      workAtMost(
        `PDF of a score and its eight parts, 300 bars (${piece.notes} notes), from the press to the pages`,
        tookMs / 1000,
        's',
        20,
        'engraving',
      ),
    ]
  })
}
