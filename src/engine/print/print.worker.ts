import { expose } from 'comlink'
import type { Score } from '@/core/notation/score'
import { headingsOf, scoreOf } from '@/core/project/onPage'
import type { Project } from '@/core/project/schema'
import { loadVerovio } from '../engraver/verovio'
import { partOf, printBook } from './printBook'
import type { PrintedBook } from './printedPage'
import { type PrintFonts, writePdf } from './writePdf'

/** Threads that engrave pages: each has the library and the score of a project. */
const verovio = loadVerovio()
let open: { readonly project: Project; readonly score: Score } | null = null

/** Fonts of words, as WOFF: the library that embeds them cannot take the newer form apart. */
const fontAddresses = {
  regular: [
    new URL('@fontsource/source-serif-4/files/source-serif-4-latin-400-normal.woff', import.meta.url),
    new URL('@fontsource/source-serif-4/files/source-serif-4-latin-ext-400-normal.woff', import.meta.url),
    new URL('@fontsource/source-serif-4/files/source-serif-4-cyrillic-400-normal.woff', import.meta.url),
    new URL('@fontsource/source-serif-4/files/source-serif-4-greek-400-normal.woff', import.meta.url),
  ],
  bold: [
    new URL('@fontsource/source-serif-4/files/source-serif-4-latin-700-normal.woff', import.meta.url),
    new URL('@fontsource/source-serif-4/files/source-serif-4-latin-ext-700-normal.woff', import.meta.url),
    new URL('@fontsource/source-serif-4/files/source-serif-4-cyrillic-700-normal.woff', import.meta.url),
    new URL('@fontsource/source-serif-4/files/source-serif-4-greek-700-normal.woff', import.meta.url),
  ],
  italic: [
    new URL('@fontsource/source-serif-4/files/source-serif-4-latin-400-italic.woff', import.meta.url),
    new URL('@fontsource/source-serif-4/files/source-serif-4-latin-ext-400-italic.woff', import.meta.url),
    new URL('@fontsource/source-serif-4/files/source-serif-4-cyrillic-400-italic.woff', import.meta.url),
    new URL('@fontsource/source-serif-4/files/source-serif-4-greek-400-italic.woff', import.meta.url),
  ],
}
const musicAddress = new URL('@fontsource/noto-music/files/noto-music-music-400-normal.woff', import.meta.url)

async function loadFonts(): Promise<PrintFonts> {
  const load = async (address: URL) => {
    const answer = await fetch(address)
    if (!answer.ok) throw new Error(`a font of the page could not be loaded (${answer.status})`)
    return new Uint8Array(await answer.arrayBuffer())
  }
  const music = await load(musicAddress)
  const all = async (addresses: readonly URL[]) => [...(await Promise.all(addresses.map(load))), music]
  const [regular, bold, italic] = await Promise.all([
    all(fontAddresses.regular),
    all(fontAddresses.bold),
    all(fontAddresses.italic),
  ])
  return { regular, bold, italic }
}

const api = {
  /** Takes over a project, and says how many parts its score has. */
  open(project: Project): number {
    open = { project, score: scoreOf(project) }
    return open.score.parts.length
  },

  /**
   * @param part index of a part; null for the score
   * @param afterLine is told after each line of music
   */
  async engrave(part: number | null, afterLine: () => void): Promise<PrintedBook> {
    const { project, score } = opened()
    const headings = headingsOf(project)
    const book = part === null ? { score, headings } : partOf(score, headings, part, project.page.writesCues)
    return printBook(await verovio, book.score, book.headings, project.page, part !== null, afterLine)
  },

  async pdf(books: readonly PrintedBook[]): ReturnType<typeof writePdf> {
    const { project } = opened()
    return writePdf(books, project.name, project.composer, await loadFonts())
  },
}

function opened() {
  if (!open) throw new Error('no project was opened to be printed')
  return open
}

export type PrintApi = typeof api
expose(api)
