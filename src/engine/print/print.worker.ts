import { expose } from 'comlink'
import type { Score } from '@/core/notation/score'
import { headingsOf, scoreOf } from '@/core/project/onPage'
import type { Project } from '@/core/project/schema'
import { loadVerovio } from '../engraver/verovio'
import { partOf, printBook } from './printBook'
import type { PrintedBook } from './printedPage'
import { loadFont, musicFont, wordFonts } from './wordFonts'
import { type PrintFonts, writePdf } from './writePdf'

/** Threads that engrave pages: each has the library and the score of a project. */
const verovio = loadVerovio()
let open: { readonly project: Project; readonly score: Score } | null = null

async function loadFonts(): Promise<PrintFonts> {
  const music = await loadFont(musicFont)
  const all = async (addresses: Readonly<Record<string, URL>>) => [
    ...(await Promise.all(Object.values(addresses).map(loadFont))),
    music,
  ]
  const [regular, bold, italic] = await Promise.all([
    all(wordFonts.regular),
    all(wordFonts.bold),
    all(wordFonts.italic),
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
