import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

/** What an independent reader finds in a PDF (poppler: `pdfinfo`, `pdftotext`, `pdffonts`, `pdfimages`). */
export function lookIntoPdf(pdf: Uint8Array) {
  const folder = mkdtempSync(join(tmpdir(), 'pages-'))
  try {
    const file = join(folder, 'pages.pdf')
    writeFileSync(file, pdf)
    const read = (command: string, ...args: string[]) =>
      execFileSync(command, args, { encoding: 'utf8', maxBuffer: 50_000_000 })
    const info = read('pdfinfo', file)
    /** Lines of a table under its two lines of heading. */
    const rows = (table: string) => table.trim().split('\n').slice(2)
    return {
      pages: Number(/^Pages:\s+(\d+)/m.exec(info)?.[1]),
      size: /^Page size:\s+([\d.]+ x [\d.]+) pts/m.exec(info)?.[1],
      title: /^Title:\s+(.*)/m.exec(info)?.[1],
      /** Words of each page. */
      texts: read('pdftotext', '-layout', file, '-').split('\f').slice(0, -1),
      fonts: rows(read('pdffonts', file)).map((row) => ({
        name: row.split(/\s+/)[0]!,
        isType3: row.includes('Type 3'),
        isEmbedded: / yes (yes|no) +(yes|no) +\d+ +\d+$/.test(row),
      })),
      images: rows(read('pdfimages', '-list', file)).length,
    }
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}
