import { type Remote, wrap } from 'comlink'
import { type RefObject, useEffect, useRef, useState } from 'react'
import type { ReceiverApi, ReceiverLine, ReceiverPicture } from '@/engine/standIns/receiver.worker'
import type { ReceiverPageApi } from '@/engine/standIns/receiverPage.worker'
import { Button } from '../controls/Button'
import { download } from '../controls/download'
import { Drawing } from '../score/Drawing'

const lineWidthPx = 980

/** What the receiver has written, a line for every few bars; drawn anew where something was added. */
export function ReceiverPages({
  receiver,
  picture,
}: {
  receiver: RefObject<Remote<ReceiverApi> | null>
  picture: ReceiverPicture
}) {
  const page = useRef<Remote<ReceiverPageApi> | null>(null)
  const [drawn, setDrawn] = useState<ReadonlyMap<number, { readonly content: number; readonly svg: string }>>(
    new Map(),
  )
  const [problem, setProblem] = useState<string | null>(null)
  const isDrawing = useRef(false)
  const say = (error: unknown) => setProblem(error instanceof Error ? error.message : String(error))

  useEffect(() => {
    const worker = new Worker(new URL('../../engine/standIns/receiverPage.worker.ts', import.meta.url), {
      type: 'module',
    })
    page.current = wrap<ReceiverPageApi>(worker)
    return () => worker.terminate()
  }, [])

  // What is being written comes first: of lines that differ, the last.
  const due = picture.lines.findLast(({ from, content }) => drawn.get(from)?.content !== content)
  useEffect(() => {
    if (!due || isDrawing.current || !page.current || !receiver.current) return
    isDrawing.current = true
    const draw = async ({ from, to, content }: ReceiverLine) => {
      const music = await receiver.current!.music(from, to)
      const svg = await page.current!.draw(music, { from, to }, lineWidthPx)
      setDrawn((before) => new Map(before).set(from, { content, svg }))
    }
    void draw(due)
      .catch(say)
      .finally(() => {
        isDrawing.current = false
      })
  })

  const save = async () => {
    if (!page.current || !receiver.current) return
    const last = picture.lines.at(-1)
    if (!last) return
    const text = await page.current.file(await receiver.current.music(0, last.to))
    download('Received.musicxml', new Blob([text]), 'application/vnd.recordare.musicxml+xml')
  }
  if (picture.lines.length === 0)
    return (
      <p className="mt-4 rounded-md border border-rule border-dashed bg-white px-6 py-10 text-center text-soft">
        Nothing is written yet{leftOutWords(picture)}.
      </p>
    )
  return (
    <section aria-label="What was written" className="mt-4">
      <div className="mb-2 flex items-baseline gap-4">
        <span data-testid="receiver-written" className="text-soft">
          {picture.noteCount} {picture.noteCount === 1 ? 'note' : 'notes'} written on {picture.parts.length}{' '}
          {picture.parts.length === 1 ? 'part' : 'parts'}
          {leftOutWords(picture)}
        </span>
        <Button look="quiet" className="ml-auto" onClick={() => void save().catch(say)}>
          Save as MusicXML
        </Button>
      </div>
      {problem && (
        <p role="alert" className="text-live">
          {problem}
        </p>
      )}
      <div className="overflow-x-auto rounded-md border border-rule bg-white px-4 py-4">
        {picture.lines.map(({ from, to }) => (
          <Drawing
            key={from}
            svg={drawn.get(from)?.svg ?? ''}
            aria-label={`Bars ${from + 1} to ${to}, as they were written`}
            data-testid="receiver-line"
          />
        ))}
      </div>
    </section>
  )
}

function leftOutWords({ leftOut }: ReceiverPicture): string {
  const { 'written already': again, ...others } = leftOut
  const words = Object.entries(others).flatMap(([why, count]) => (count > 0 ? [`${count} ${why}`] : []))
  const notWritten = words.length === 0 ? '' : `; not written: ${words.join(', ')}`
  return again === 0 ? notWritten : `${notWritten}; ${again} stood there already`
}
