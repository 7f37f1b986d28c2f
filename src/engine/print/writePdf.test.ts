import { readFileSync } from 'node:fs'
import { createDemo } from '@/core/demo/harbourEvening'
import { verovioToolkit } from '@/core/formats/verovioReader.testing'
import { defaultPageSetup } from '@/core/pages/pageSetup'
import { headingsOf, scoreOf } from '@/core/project/onPage'
import { pageSvg } from './pageSvg'
import { lookIntoPdf } from './pdfReader.testing'
import { partOf, printBook } from './printBook'
import type { PrintedBook } from './printedPage'
import { type PrintFonts, writePdf } from './writePdf'

const demo = createDemo('demo', 0, 'computer-keyboard').project
const project = {
  ...demo,
  composer: 'Tove Å. Łęcka',
  arranger: 'Ivo & Sons',
  rights: '© the Lantern Press <2026>',
}
const font = (name: string) =>
  new Uint8Array(
    readFileSync(require.resolve(`@fontsource/source-serif-4/files/source-serif-4-${name}.woff`)),
  )
const music = new Uint8Array(
  readFileSync(require.resolve('@fontsource/noto-music/files/noto-music-music-400-normal.woff')),
)
const fonts: PrintFonts = {
  regular: [font('latin-400-normal'), font('latin-ext-400-normal'), music],
  bold: [font('latin-700-normal'), music],
  italic: [font('latin-400-italic'), music],
}

describe('the demo on paper', () => {
  let books: PrintedBook[]
  beforeAll(async () => {
    const toolkit = await verovioToolkit()
    const [score, headings] = [scoreOf(project), headingsOf(project)]
    books = [await printBook(toolkit, score, headings, { ...defaultPageSetup, linesToPage: 1 }, false)]
    for (const index of score.parts.keys()) {
      const part = partOf(score, headings, index)
      books.push(await printBook(toolkit, part.score, part.headings, defaultPageSetup, true))
    }
  }, 60_000)

  test('is read by another program: pages, size, words, all fonts embedded, nothing in pixels', async () => {
    const { pdf, missingLetters } = await writePdf(books, project.name, project.composer, fonts)
    expect(missingLetters).toBe('')
    const found = lookIntoPdf(pdf)
    expect(found).toMatchObject({
      pages: books.reduce((sum, { pages }) => sum + pages.length, 0),
      size: '595.276 x 841.89',
      title: 'Lamps on the Ebb',
      images: 0,
    })
    expect(found.fonts.length).toBeGreaterThan(2)
    expect(found.fonts.every(({ isEmbedded }) => isEmbedded)).toBe(true)
    expect(found.fonts.filter(({ isType3 }) => isType3)).toHaveLength(1)
    for (const words of [
      'Lamps on the Ebb',
      'Tove Å. Łęcka',
      'arr. Ivo & Sons',
      '© the Lantern Press <2026>',
      'Orla’s flute',
    ])
      expect(found.texts[0]).toContain(words)
    // The score has three lines, one to a page; pages behind the first have their number and the title.
    expect(books[0]!.pages.length).toBe(3)
    expect(found.texts[1]).toMatch(/2\s+Lamps on the Ebb/)
    for (const [index, name] of ['Orla’s flute', 'Benno’s piano', 'Sefa’s harp'].entries()) {
      const firstPage = books.slice(0, index + 1).reduce((sum, { pages }) => sum + pages.length, 0)
      expect(found.texts[firstPage]).toContain(name)
    }
  })

  test('a page by itself is a drawing with all its words and lines', () => {
    const [score] = books
    const svg = pageSvg(score!, score!.pages[0]!)
    expect(svg).toContain('© the Lantern Press &lt;2026&gt;')
    expect(svg.match(/class="staff"/g)!.length).toBeGreaterThan(3)
    expect(svg.match(/<svg/g)!.length).toBe(svg.match(/<\/svg>/g)!.length)
  })

  test('every line of music is on a page, within its margins', () => {
    for (const { pages, widthPt, heightPt } of books)
      for (const { lines } of pages)
        for (const { svg, xPt, yPt, scale } of lines) {
          const [, width, height] = /^<svg width="([\d.]+)px" height="([\d.]+)px"/.exec(svg)!
          expect(xPt + Number(width) * scale).toBeLessThanOrEqual(widthPt - xPt + 0.5)
          expect(yPt + Number(height) * scale).toBeLessThanOrEqual(heightPt)
        }
  })
})

describe('strange pieces on paper', () => {
  test('forty parts: staves are made smaller until a line finds room, and that is told', async () => {
    const [track] = demo.tracks.filter(({ isOnPage }) => isOnPage)
    const many = {
      ...demo,
      tracks: Array.from({ length: 40 }, (_, index) => ({
        ...track!,
        id: `t${index}`,
        name: `Part ${index}`,
      })),
    }
    const book = await printBook(
      await verovioToolkit(),
      scoreOf(many),
      headingsOf(many),
      defaultPageSetup,
      false,
    )
    expect(book.isStaffSmaller).toBe(true)
    for (const { lines } of book.pages)
      for (const { svg, yPt, scale } of lines) {
        const height = Number(/^<svg width="[\d.]+px" height="([\d.]+)px"/.exec(svg)![1])
        expect(yPt + height * scale).toBeLessThanOrEqual(book.heightPt)
      }
  }, 60_000)

  test('the longest title and letters that no font has: nothing leaves the page, and what is missing is told', async () => {
    const strange = { ...demo, name: `灯 ${'W'.repeat(197)}`, subtitle: 'a '.repeat(90).trim(), composer: '' }
    const book = await printBook(
      await verovioToolkit(),
      scoreOf(strange),
      headingsOf(strange),
      defaultPageSetup,
      false,
    )
    expect(book.pages[0]!.texts.length).toBeGreaterThan(6)
    const { pdf, missingLetters } = await writePdf([book], strange.name, '', fonts)
    expect(missingLetters).toBe('灯')
    expect(lookIntoPdf(pdf).pages).toBe(book.pages.length)
  }, 60_000)
})
