import { useEffect, useRef } from 'react'
import { writtenTickOf } from '@/core/notation/repeats'
import type { EngravedLine, ScoreOutline } from '@/engine/engraver/engraver'
import type { PageForm } from '@/engine/engraver/pageLook'
import { drawWhileMoving } from '../workspace/frames'
import { useLive, useSession } from '../workspace/sessionContext'
import { bringIntoSight } from './intoSight'
import { systemAt, xInLine } from './placeOnPage'

/** The bar line at the end of a line of music takes this much. */
const endBarPx = 4
/** The playing position stands out over the staves by this much. */
const overStaffPx = 8

/** The playing position on the page, between the noteheads around it. */
export function ScorePlayhead({
  outline,
  lines,
  scroller,
  form,
}: {
  outline: ScoreOutline
  lines: React.RefObject<ReadonlyMap<number, EngravedLine>>
  scroller: React.RefObject<HTMLElement | null>
  form: PageForm
}) {
  const session = useSession()
  const isRunning = useLive((state) => state.transport.state !== 'stopped')
  const line = useRef<HTMLDivElement>(null)
  useEffect(() => {
    let lastReached = -1
    let shownTicks = -1
    let shownScroll = -1
    const { wake, end } = drawWhileMoving(session, () => {
      const element = line.current
      const host = scroller.current
      if (!element || !host) return
      const ticks = session.positionTicks()
      if (!isRunning && ticks === 0) {
        element.style.display = 'none'
        return
      }
      // Looking places up makes the browser lay out: only when something moved.
      const scroll = host.scrollTop + host.scrollLeft
      if (ticks === shownTicks && scroll === shownScroll) return
      shownTicks = ticks
      shownScroll = scroll
      const at = placeOnPage(outline, lines.current, host, ticks)
      element.style.display = at ? 'block' : 'none'
      if (!at) {
        shownTicks = -1
        return
      }
      element.style.transform = `translate(${at.x}px, ${at.top}px)`
      element.style.height = `${at.height}px`
      element.dataset.bar = String(at.bar + 1)
      // An endless line moves on bar by bar, lines of a page one by one.
      const reached = form === 'endless' ? at.bar : at.systemIndex
      if (isRunning && reached !== lastReached) {
        lastReached = reached
        const place = { systemIndex: at.systemIndex, ticks: writtenTickOf(outline.returns, ticks) }
        bringIntoSight(host, form, place, lines.current.get(at.systemIndex), true)
      }
    })
    const host = scroller.current
    host?.addEventListener('scroll', wake, { passive: true })
    // Lines that are drawn or change their height move what lies below them.
    const grown = new ResizeObserver(wake)
    for (const each of [host, host?.firstElementChild]) if (each) grown.observe(each)
    return () => {
      end()
      grown.disconnect()
      host?.removeEventListener('scroll', wake)
    }
  }, [session, outline, lines, scroller, isRunning, form])
  return (
    <div
      ref={line}
      data-testid="score-playhead"
      className="pointer-events-none fixed top-0 left-0 z-10 w-[2px] bg-live opacity-80"
      style={{ display: 'none' }}
      aria-hidden
    />
  )
}

/** Where what sounds at a position is written, in the window; null when its line is not drawn. */
function placeOnPage(
  outline: ScoreOutline,
  lines: ReadonlyMap<number, EngravedLine>,
  host: HTMLElement,
  soundingTicks: number,
) {
  const ticks = writtenTickOf(outline.returns, soundingTicks)
  const at = systemAt(outline, ticks)
  const line = at && lines.get(at.systemIndex)
  const drawing = at && host.querySelector(`[data-system="${at.systemIndex}"] .engraved`)
  if (!line || !drawing || line.staves.length === 0) return null
  const box = drawing.getBoundingClientRect()
  const hostBox = host.getBoundingClientRect()
  const lastMeasure = outline.measures[outline.systems[at.systemIndex]!.to - 1]!
  const end = { ticks: lastMeasure.startTicks + lastMeasure.lengthTicks, xPx: box.width - endBarPx }
  const x = box.left + xInLine(line, ticks, outline.measures[at.bar]!.startTicks, end)
  const top = Math.max(box.top + line.staves[0]!.topPx - overStaffPx, hostBox.top)
  const bottom = Math.min(box.top + line.staves.at(-1)!.bottomPx + overStaffPx, hostBox.bottom)
  return { ...at, x, top, height: Math.max(0, bottom - top) }
}
