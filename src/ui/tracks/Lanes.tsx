import { memo, type ReactNode, useCallback, useEffect, useRef, useState } from 'react'
import { contextOf } from '@/core/project/context'
import { soundingNotes } from '@/core/project/create'
import type { Track } from '@/core/project/schema'
import { markBars } from '@/core/project/stretch'
import { useSize } from '../controls/useSize'
import { threadOf } from '../theme/threads'
import { drawWhileMoving } from '../workspace/frames'
import { useLive, useProject, useSession, useView } from '../workspace/sessionContext'
import { selectTrack } from '../workspace/viewStore'
import { drawBars, drawPlayhead, drawSections, drawStretch, paperColours, prepareCanvas } from './canvas'
import { drawLane, drawLiveNotes } from './drawLane'
import { handSplit } from './handSplit'
import { shapesOf } from './noteShapes'
import { scrolled, type TimeView, ticksAtX, xOf, zoomAround } from './timeView'
import { usePinch } from './usePinch'

const rulerHeight = 24
/** Less than this is a press, not a drag. */
const shortestDrag = 6

/**
 * All tracks along time, one lane each, with a heading at the left. Only the lanes in sight are drawn and only their
 * headings exist, so that hundreds of tracks and a hundred thousand notes scroll freely.
 */
export const Lanes = memo(function Lanes({
  tracks,
  view,
  onView,
  laneHeight,
  headingWidth,
  heading,
  label,
}: {
  tracks: readonly Track[]
  view: TimeView
  onView: (view: TimeView) => void
  laneHeight: number
  headingWidth: number
  heading: (track: Track) => ReactNode
  label: string
}) {
  const session = useSession()
  const project = useProject()
  const { meterMap } = contextOf(project)
  const { stretch, isLooping } = project.recording
  const selectedId = useView((state) => state.trackId)
  const _transport = useLive((state) => state.transport)
  const host = useRef<HTMLDivElement>(null)
  const canvas = useRef<HTMLCanvasElement>(null)
  const overlay = useRef<HTMLCanvasElement>(null)
  const size = useSize(host)
  const [scrollTop, setScrollTop] = useState(0)
  const pressedX = useRef<number | null>(null)

  const width = Math.max(0, size.width - headingWidth)
  const first = Math.max(0, Math.floor(scrollTop / laneHeight))
  const last = Math.min(tracks.length, Math.ceil((scrollTop + size.height - rulerHeight) / laneHeight))

  useEffect(() => {
    const element = canvas.current
    if (!element || width === 0) return
    const context = prepareCanvas(element, width, size.height)
    drawBars(context, view, meterMap, width, size.height, rulerHeight)
    const hasSolo = project.tracks.some((track) => track.isSolo)
    context.save()
    context.beginPath()
    context.rect(0, rulerHeight, width, size.height)
    context.clip()
    for (let index = first; index < last; index++) {
      const track = tracks[index]!
      const top = rulerHeight + index * laneHeight - scrollTop
      if (track.id === selectedId) {
        context.fillStyle = 'rgba(243,238,226,0.8)'
        context.fillRect(0, top, width, laneHeight)
      }
      context.fillStyle = paperColours.rule
      context.fillRect(0, top + laneHeight - 1, width, 1)
      const isDim = track.isMuted || (hasSolo && !track.isSolo)
      drawLane(
        context,
        shapesOf(soundingNotes(track)),
        view,
        { top, height: laneHeight, width },
        threadOf(track.thread),
        isDim,
        handSplit(track, project.scoreSettings.splitKey),
        track.instrument.kind !== 'drums',
      )
    }
    context.restore()
    drawSections(context, view, project.sections, width, rulerHeight)
    if (stretch) drawStretch(context, view, stretch, isLooping, size.height)
  }, [
    tracks,
    view,
    size,
    width,
    scrollTop,
    first,
    last,
    selectedId,
    laneHeight,
    meterMap,
    project.tracks,
    project.sections,
    project.scoreSettings.splitKey,
    stretch,
    isLooping,
  ])

  // The playing position and what is being recorded are drawn above the lanes, frame by frame.
  useEffect(() => {
    let shownTicks = -1
    return drawWhileMoving(session, () => {
      const element = overlay.current
      const ticks = session.positionTicks()
      const isRunning = session.live.getState().transport.state !== 'stopped'
      if (element && width > 0 && (isRunning || ticks !== shownTicks)) {
        shownTicks = ticks
        const context = prepareCanvas(element, width, size.height)
        const liveNotes = session.liveNotes()
        if (liveNotes.length > 0)
          for (let index = first; index < last; index++) {
            const track = tracks[index]!
            const lane = { top: rulerHeight + index * laneHeight - scrollTop, height: laneHeight }
            const own = liveNotes.filter((note) => note.trackId === track.id)
            if (own.length > 0) {
              context.fillStyle = 'rgba(255,253,248,0.82)'
              context.fillRect(0, lane.top, width, laneHeight - 1)
              drawLiveNotes(context, own, ticks, view, lane, threadOf(track.thread))
            }
          }
        drawPlayhead(context, view, ticks, size.height)
        if (isRunning && xOf(view, ticks) > width * 0.92)
          onView({
            ...view,
            startTicks: Math.max(0, ticks - (ticksAtX(view, width * 0.1) - view.startTicks)),
          })
      }
    }).end
  }, [session, tracks, view, width, size.height, scrollTop, first, last, laneHeight, onView])

  const onWheel = useCallback(
    (event: WheelEvent) => {
      const isZoom = event.ctrlKey || event.metaKey
      if (!isZoom && !event.shiftKey && Math.abs(event.deltaX) < Math.abs(event.deltaY)) return
      event.preventDefault()
      const box = canvas.current?.getBoundingClientRect()
      if (isZoom) onView(zoomAround(view, event.clientX - (box?.left ?? 0), Math.exp(-event.deltaY / 300)))
      else onView(scrolled(view, event.shiftKey ? event.deltaY || event.deltaX : event.deltaX))
    },
    [view, onView],
  )
  useEffect(() => {
    const element = host.current
    // React listens passively, which would let the page zoom as well.
    element?.addEventListener('wheel', onWheel, { passive: false })
    return () => element?.removeEventListener('wheel', onWheel)
  }, [onWheel])

  usePinch(host, headingWidth, view, onView)

  return (
    <section
      ref={host}
      aria-label={label}
      tabIndex={0}
      className="relative h-full touch-pan-y overflow-x-hidden overflow-y-auto"
      onScroll={(event) => setScrollTop(event.currentTarget.scrollTop)}
    >
      <div style={{ height: rulerHeight + tracks.length * laneHeight }} className="relative">
        <div className="pointer-events-none sticky top-0 z-10 h-0">
          <canvas ref={canvas} className="absolute top-0" style={{ left: headingWidth }} aria-hidden />
          <canvas ref={overlay} className="absolute top-0" style={{ left: headingWidth }} aria-hidden />
        </div>
        <button
          type="button"
          aria-label="Set the playing position"
          tabIndex={-1}
          className="sticky top-0 z-20 block cursor-text opacity-0"
          style={{ marginLeft: headingWidth, width, height: rulerHeight }}
          title="Press to set the playing position; drag to mark a stretch"
          onPointerDown={(event) => {
            event.currentTarget.setPointerCapture(event.pointerId)
            pressedX.current = event.clientX
          }}
          onPointerUp={(event) => {
            const from = pressedX.current
            pressedX.current = null
            if (from === null) return
            const { left } = event.currentTarget.getBoundingClientRect()
            const ticksAt = (x: number) => Math.max(0, Math.round(ticksAtX(view, x - left)))
            if (Math.abs(event.clientX - from) < shortestDrag) session.seek(ticksAt(event.clientX))
            else
              session.store
                .getState()
                .apply('mark a stretch', (before) =>
                  markBars(
                    before,
                    ticksAt(Math.min(from, event.clientX)),
                    ticksAt(Math.max(from, event.clientX)),
                  ),
                )
          }}
        />
        {tracks.slice(first, last).map((track, offset) => (
          // biome-ignore lint/a11y/useKeyWithClickEvents: the heading inside holds a button that selects
          // biome-ignore lint/a11y/noStaticElementInteractions: pressing anywhere in the lane is a convenience
          <div
            key={track.id}
            data-lane={track.id}
            className={`absolute right-0 left-0 flex ${track.id === selectedId ? 'bg-desk' : ''}`}
            style={{ top: rulerHeight + (first + offset) * laneHeight, height: laneHeight }}
            onClick={() => selectTrack(track.id)}
          >
            <div
              className="h-full overflow-hidden border-b border-rule"
              style={{ width: headingWidth, borderLeft: `5px solid ${threadOf(track.thread).colour}` }}
            >
              {heading(track)}
            </div>
          </div>
        ))}
      </div>
    </section>
  )
})
