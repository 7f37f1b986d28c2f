import { Download, Printer } from 'lucide-react'
import { useState } from 'react'
import { useStore } from 'zustand'
import type { Project } from '@/core/project/schema'
import { safeFileName } from '@/core/separation/splitFile'
import { Button } from '../controls/Button'
import { ColumnHeading } from '../controls/Choice'
import { download } from '../controls/download'
import { Tick } from '../controls/Tick'
import { useSession } from '../workspace/sessionContext'
import { PageSettings } from './PageSettings'
import { PrintedPages } from './PrintedPages'
import { WorkRemarks } from './WorkRemarks'

/** The score and its parts on paper: laid out, looked at, saved as one PDF or printed. */
export function PrintBench({ project, partNames }: { project: Project; partNames: readonly string[] }) {
  const session = useSession()
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set())
  const { printed, linesDone, problem } = useStore(session.printing.state)
  const books = [
    { id: 'score', name: 'Score', part: null },
    ...partNames.map((name, part) => ({ id: `part ${part}`, name, part })),
  ]
  const wanted = books.filter(({ id }) => !left.has(id))
  const isOutOfDate = printed !== null && printed.project !== project
  const pageCount = printed?.books.reduce((sum, { pages }) => sum + pages.length, 0) ?? 0
  return (
    <section aria-label="On paper" className="mt-8 border-t border-rule pt-4">
      <ColumnHeading>On paper</ColumnHeading>
      <PageSettings project={project} />
      <div className="mt-3 flex flex-wrap gap-x-4 gap-y-1">
        {books.map(({ id, name }) => (
          <Tick
            key={id}
            isOn={!left.has(id)}
            onChange={(isOn) => {
              const next = new Set(left)
              if (isOn) next.delete(id)
              else next.add(id)
              setLeft(next)
            }}
          >
            <span className="max-w-40 truncate">{name}</span>
          </Tick>
        ))}
      </div>
      <div className="mt-3 flex flex-wrap items-center gap-4">
        <Button
          look="main"
          disabled={linesDone !== null || wanted.length === 0 || partNames.length === 0}
          onClick={() =>
            void session.printing.print(
              project,
              wanted.map(({ part }) => part),
            )
          }
        >
          {printed ? 'Lay the pages out again' : 'Lay the pages out'}
        </Button>
        {linesDone !== null && (
          <Button look="quiet" onClick={session.printing.stop}>
            Stop
          </Button>
        )}
        <span role="status" className="text-soft">
          {linesDone === null
            ? ''
            : `${linesDone.toLocaleString('en')} ${linesDone === 1 ? 'line' : 'lines'} of music engraved…`}
        </span>
      </div>
      <WorkRemarks
        problem={problem}
        failed="The pages were not laid out"
        outOfDate={isOutOfDate ? 'these pages were laid out' : null}
      />
      {printed && (
        <>
          <div className="mt-4 flex flex-wrap items-center gap-3">
            <Button
              onClick={() =>
                download(`${safeFileName(printed.project.name)}.pdf`, printed.pdf, 'application/pdf')
              }
            >
              <Download size={14} aria-hidden /> Save as PDF
            </Button>
            <Button onClick={() => window.print()}>
              <Printer size={14} aria-hidden /> Print
            </Button>
            <span className="text-[13px] text-soft">
              {pageCount} {pageCount === 1 ? 'page' : 'pages'},{' '}
              {Math.max(1, Math.round(printed.pdf.length / 1024)).toLocaleString('en')} kB:{' '}
              {printed.books.map(({ name, pages }) => `${name} ${pages.length}`).join(', ')}
            </span>
          </div>
          {printed.books
            .filter(({ isStaffSmaller }) => isStaffSmaller)
            .map(({ name, staffMm }) => (
              <p key={name} className="mt-3 border-l-4 border-weld bg-sheet px-4 py-2">
                {name}: the staves are {staffMm.toFixed(1)} mm high, so that all of a line finds room on a
                page.
              </p>
            ))}
          {printed.missingLetters !== '' && (
            <p role="alert" className="mt-3 border-l-4 border-weld bg-sheet px-4 py-2">
              In the PDF the places of these letters are empty, since no font here has them:{' '}
              {printed.missingLetters}
            </p>
          )}
          <PrintedPages printed={printed} />
        </>
      )}
    </section>
  )
}
