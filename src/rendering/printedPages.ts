import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import type { ScoreHeadings } from '@/core/notation/headings'
import type { Score } from '@/core/notation/score'
import { defaultPageSetup, type PaperName } from '@/core/pages/pageSetup'
import { loadVerovio } from '@/engine/engraver/verovio'
import { pageSvg } from '@/engine/print/pageSvg'
import { pictureStyle } from '@/engine/print/pictureStyle'
import { partOf, printBook } from '@/engine/print/printBook'
import { writePdf } from '@/engine/print/writePdf'
import { inProject } from './projectFolder'

const resolve = (file: string) => createRequire(inProject('package.json')).resolve(file)
const sheetFont = (name: string) =>
  new Uint8Array(readFileSync(resolve(`@fontsource/source-serif-4/files/source-serif-4-${name}.woff`)))
const scripts = ['latin', 'latin-ext', 'cyrillic', 'greek']

/** Pages of a score as pictures, with the fonts of their words inside. */
export async function pagePictures(score: Score, headings: ScoreHeadings): Promise<string[]> {
  const book = await printBook(await loadVerovio(), score, headings, defaultPageSetup, false)
  return Promise.all(
    book.pages.map(async (page) => {
      const svg = pageSvg(book, page)
      const style = await pictureStyle(svg, async ({ pathname }) => readFont(pathname))
      return svg.replace(/^(<svg[^>]*>)/, (tag) => `${tag}${style}`)
    }),
  )
}

/** A font by its address in the program, which ends with its package and file. */
function readFont(pathname: string): Uint8Array {
  const [, name] = /(@fontsource.*)$/s.exec(decodeURIComponent(pathname)) ?? []
  return new Uint8Array(readFileSync(resolve(name!)))
}

/** Pages of a score and, where they are wanted, of its parts, as a PDF; the pages of each book. */
export async function printedPdf(
  score: Score,
  headings: ScoreHeadings,
  paper: PaperName,
  withParts: boolean,
): Promise<{ pdf: Uint8Array; missingLetters: string; books: { name: string; pages: number }[] }> {
  const verovio = await loadVerovio()
  const setup = { ...defaultPageSetup, paper }
  const books = [await printBook(verovio, score, headings, setup, false)]
  if (withParts)
    for (const index of score.parts.keys()) {
      const part = partOf(score, headings, index, setup.writesCues)
      books.push(await printBook(verovio, part.score, part.headings, setup, true))
    }
  const { pdf, missingLetters } = await writePdf(books, headings.title, headings.composer, fonts())
  return { pdf, missingLetters, books: books.map(({ name, pages }) => ({ name, pages: pages.length })) }
}

/** Each part of a score as a PDF of its own, for whoever plays it. */
export async function* printedParts(
  score: Score,
  headings: ScoreHeadings,
  paper: PaperName,
): AsyncGenerator<{ readonly name: string; readonly pages: number; readonly pdf: Uint8Array }> {
  const verovio = await loadVerovio()
  const setup = { ...defaultPageSetup, paper }
  for (const index of score.parts.keys()) {
    const part = partOf(score, headings, index, setup.writesCues)
    const book = await printBook(verovio, part.score, part.headings, setup, true)
    const { pdf } = await writePdf([book], `${headings.title}, ${book.name}`, headings.composer, fonts())
    yield { name: book.name, pages: book.pages.length, pdf }
  }
}

function fonts() {
  const music = new Uint8Array(
    readFileSync(resolve('@fontsource/noto-music/files/noto-music-music-400-normal.woff')),
  )
  const face = (style: string) => [...scripts.map((script) => sheetFont(`${script}-${style}`)), music]
  return { regular: face('400-normal'), bold: face('700-normal'), italic: face('400-italic') }
}
