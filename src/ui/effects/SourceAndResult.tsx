import { useEffect, useMemo, useRef, useState } from 'react'
import type { Note } from '@/core/event/note'
import { contextOf } from '@/core/project/context'
import { useSize } from '../controls/useSize'
import { type Thread, threadOf } from '../theme/threads'
import { drawBars, drawPlayhead, paperColours, prepareCanvas } from '../tracks/canvas'
import { drawLane } from '../tracks/drawLane'
import { shapesOf } from '../tracks/noteShapes'
import { scrolled, type TimeView, ticksAtX, xOf, zoomAround } from '../tracks/timeView'
import { drawWhileMoving } from '../workspace/frames'
import { useProject, useSession } from '../workspace/sessionContext'

const laneHeight = 108
const gapHeight = 70
const rulerHeight = 22

/** Source above, result below, and a line from each result note to the note it came from. */
export function SourceAndResult({
  source,
  result,
  sourceThread,
  resultThread,
  resultTitle,
  isResultAlone = false,
}: {
  source: readonly Note[]
  result: readonly Note[]
  sourceThread: Thread
  resultThread: Thread
  resultTitle: string
  /** Nothing goes in: only what comes out is shown. */
  isResultAlone?: boolean
}) {
  const session = useSession()
  const project = useProject()
  const { meterMap } = contextOf(project)
  const host = useRef<HTMLDivElement>(null)
  const canvas = useRef<HTMLCanvasElement>(null)
  const { width } = useSize(host)
  const [view, setView] = useState<TimeView>({ startTicks: 0, pixelsPerQuarter: 52 })
  const sourceHeight = isResultAlone ? 0 : laneHeight + gapHeight
  const height = rulerHeight + laneHeight + sourceHeight

  useEffect(() => {
    const element = host.current
    if (!element) return
    const onWheel = (event: WheelEvent) => {
      event.preventDefault()
      const x = event.clientX - element.getBoundingClientRect().left
      setView((old) =>
        event.ctrlKey || event.metaKey
          ? zoomAround(old, x, Math.exp(-event.deltaY / 300))
          : scrolled(old, event.deltaX || event.deltaY),
      )
    }
    element.addEventListener('wheel', onWheel, { passive: false })
    return () => element.removeEventListener('wheel', onWheel)
  }, [])

  // Streams of a generator are told apart; what an effect made of one track stays together.
  const parts = useMemo(() => (isResultAlone ? byChannel(result) : [result]), [isResultAlone, result])

  useEffect(() => {
    let shownTicks = -1
    return drawWhileMoving(session, () => {
      const element = canvas.current
      const ticks = session.positionTicks()
      if (element && width > 0 && ticks !== shownTicks) {
        shownTicks = ticks
        const context = prepareCanvas(element, width, height)
        drawBars(context, view, meterMap, width, height, rulerHeight)
        const upper = { top: rulerHeight, height: laneHeight, width }
        const lower = { top: rulerHeight + sourceHeight, height: laneHeight, width }
        if (!isResultAlone) {
          drawLineage(context, source, result, view, upper.top + laneHeight, lower.top, width, resultThread)
          drawLane(context, shapesOf(source), view, upper, sourceThread, false)
        }
        for (const [index, part] of parts.entries()) {
          const partHeight = lower.height / parts.length
          const place = { top: lower.top + index * partHeight, height: partHeight, width }
          drawLane(
            context,
            shapesOf(part),
            view,
            place,
            isResultAlone ? threadOf(index) : resultThread,
            false,
          )
        }
        drawPlayhead(context, view, ticks, height)
      }
    }).end
  }, [
    session,
    source,
    result,
    sourceThread,
    resultThread,
    view,
    width,
    height,
    sourceHeight,
    isResultAlone,
    parts,
    meterMap,
  ])

  return (
    <section
      aria-label={`Source with ${source.length} notes and result with ${result.length} notes`}
      className="mt-4"
    >
      <div className="mb-1 flex justify-between text-[13px] text-soft">
        <span>
          {!isResultAlone && (
            <>
              <strong className="text-ink">what goes in</strong> · {source.length} notes
            </>
          )}
        </span>
        <span data-testid="result-count">
          <strong className="text-ink">{resultTitle}</strong> · {result.length} notes
        </span>
      </div>
      <div ref={host} className="overflow-hidden rounded-lg border border-rule bg-sheet">
        <canvas ref={canvas} className="block" aria-hidden />
      </div>
    </section>
  )
}

function byChannel(notes: readonly Note[]): (readonly Note[])[] {
  const parts = new Map<number, Note[]>()
  for (const note of notes) {
    const part = parts.get(note.channel)
    if (part) part.push(note)
    else parts.set(note.channel, [note])
  }
  return parts.size === 0 ? [notes] : [...parts.entries()].sort(([a], [b]) => a - b).map(([, part]) => part)
}

const sourcePositions = new WeakMap<readonly Note[], Map<number, number>>()

function drawLineage(
  context: CanvasRenderingContext2D,
  source: readonly Note[],
  result: readonly Note[],
  view: TimeView,
  fromY: number,
  toY: number,
  width: number,
  thread: Thread,
): void {
  let positions = sourcePositions.get(source)
  if (!positions) {
    positions = new Map(source.map((note) => [note.id, note.onsetTicks]))
    sourcePositions.set(source, positions)
  }
  const endTicks = ticksAtX(view, width)
  context.strokeStyle = thread.colour
  context.lineWidth = 0.8
  context.globalAlpha = 0.55
  context.beginPath()
  for (const note of result) {
    if (note.onsetTicks > endTicks) break
    if (note.onsetTicks < view.startTicks || note.origin.kind !== 'printed') continue
    const from = positions.get(note.origin.fromNoteId)
    if (from === undefined) continue
    const [x1, x2] = [xOf(view, from), xOf(view, note.onsetTicks)]
    context.moveTo(x1, fromY)
    context.bezierCurveTo(x1, fromY + (toY - fromY) * 0.6, x2, fromY + (toY - fromY) * 0.4, x2, toY)
  }
  context.stroke()
  context.globalAlpha = 1
  context.strokeStyle = paperColours.rule
}
