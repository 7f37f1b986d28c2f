import { useEffect, useMemo, useState } from 'react'
import { createPortal, flushSync } from 'react-dom'
import { safeFileName } from '@/core/separation/splitFile'
import { pageSvg } from '@/engine/print/pageSvg'
import type { Printed } from '@/state/printing'
import { Button } from '../controls/Button'
import { type PictureFormat, savePicture } from '../controls/savePicture'
import { useSession } from '../workspace/sessionContext'

/** The pages as they will be printed: one large, turned by buttons or arrow keys; for the browser's own printing all of them. */
export function PrintedPages({ printed }: { printed: Printed }) {
  const pages = useMemo(
    () =>
      printed.books.flatMap((book) =>
        book.pages.map((page, index) => ({ book, page, name: `${book.name}, page ${index + 1}` })),
      ),
    [printed],
  )
  const [chosen, setChosen] = useState(0)
  const shown = Math.min(chosen, pages.length - 1)
  const { book, page, name } = pages[shown]!
  const svg = useMemo(() => pageSvg(book, page), [book, page])
  const [isPrinting, setPrinting] = useState(false)
  useEffect(() => {
    // So many drawings would make every other page slow: they are there while the browser prints, and it waits for nothing.
    const begin = () => flushSync(() => setPrinting(true))
    const end = () => setPrinting(false)
    addEventListener('beforeprint', begin)
    addEventListener('afterprint', end)
    return () => {
      removeEventListener('beforeprint', begin)
      removeEventListener('afterprint', end)
    }
  }, [])
  const session = useSession()
  const save = (format: PictureFormat) =>
    savePicture(svg, safeFileName(`${printed.project.name}, ${name}`), format).catch((error) =>
      session.notify(`The picture was not made: ${error instanceof Error ? error.message : error}`, true),
    )
  const turn = (by: number) => setChosen(Math.max(0, Math.min(pages.length - 1, shown + by)))
  return (
    <div className="mt-4">
      <div className="mb-2 flex flex-wrap items-center gap-3 text-[13px]">
        <Button disabled={shown === 0} onClick={() => turn(-1)}>
          Page before
        </Button>
        <Button disabled={shown === pages.length - 1} onClick={() => turn(1)}>
          Next page
        </Button>
        <span role="status">{name}</span>
        <span className="text-soft">this page as</span>
        {(['svg', 'png'] as const).map((format) => (
          <Button key={format} look="quiet" onClick={() => void save(format)}>
            {format.toUpperCase()}
          </Button>
        ))}
      </div>
      <div
        role="img"
        aria-label={name}
        data-testid="printed-page"
        className="engraved max-w-2xl border border-rule bg-white shadow-[0_1px_4px_rgba(80,60,20,0.12)] [&>svg]:h-auto [&>svg]:w-full"
        // biome-ignore lint/security/noDangerouslySetInnerHtml: a drawing of our own engraver, words in it are escaped
        dangerouslySetInnerHTML={{ __html: svg }}
      />
      {isPrinting && createPortal(<ForPrinter printed={printed} />, document.body)}
    </div>
  )
}

/** All pages, one to a sheet: seen by the printer only. */
function ForPrinter({ printed }: { printed: Printed }) {
  const { widthPt, heightPt } = printed.books[0]!
  const html = useMemo(
    () =>
      printed.books
        .flatMap((book) => book.pages.map((page) => `<div class="sheet">${pageSvg(book, page)}</div>`))
        .join(''),
    [printed],
  )
  return (
    <div id="for-printer" className="engraved" aria-hidden>
      <style>{`@page { size: ${widthPt}pt ${heightPt}pt; margin: 0 }`}</style>
      {/* biome-ignore lint/security/noDangerouslySetInnerHtml: drawings of our own engraver, words in them are escaped */}
      <div dangerouslySetInnerHTML={{ __html: html }} />
    </div>
  )
}
