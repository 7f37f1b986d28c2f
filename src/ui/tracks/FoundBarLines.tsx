import { useRef } from 'react'
import { moveBeat } from '@/core/beats/correctBars'
import { contextOf } from '@/core/project/context'
import type { Track } from '@/core/project/schema'
import type { Milliseconds } from '@/core/time/units'
import { useSize } from '../controls/useSize'
import { useProject } from '../workspace/sessionContext'
import { viewStore } from '../workspace/viewStore'
import { drumColumn, keyColumn } from './roll/rollGeometry'
import { type TimeView, ticksAtX, xOf } from './timeView'
import { useFoundBars } from './useFoundBars'

/** How far an arrow key moves a bar line. */
const fineMs: Milliseconds = 10

/** Beats nearer to each other than this are not drawn, only bars. */
const closestBeats = 7

/** Found beats and bars over the roll; a bar's number is its handle. */
export function FoundBarLines({ track, view }: { track: Track; view: TimeView }) {
  const project = useProject()
  const found = useFoundBars(project)
  const host = useRef<HTMLDivElement>(null)
  const size = useSize(host)
  const left = track.instrument.kind === 'drums' ? drumColumn : keyColumn
  const { tempoMap } = contextOf(project)
  const xAt = (ms: Milliseconds) => xOf(view, tempoMap.ticksAt(ms))
  const move = (beat: number, toMs: Milliseconds) => {
    const { foundBars } = viewStore.getState()
    if (foundBars)
      viewStore.setState({ foundBars: { ...foundBars, bars: moveBeat(foundBars.bars, beat, toMs) } })
  }
  const width = Math.max(0, size.width)
  const beats = (found?.beatsMs ?? []).flatMap((beatMs, beat) => {
    const x = xAt(beatMs)
    if (x < 0 || x > width) return []
    const bar = (beat - found!.pickupBeats) / found!.beatsPerBar
    const spacing = Math.abs(xAt(found!.beatsMs[beat + 1] ?? found!.beatsMs[beat - 1]!) - x)
    if (!Number.isInteger(bar) && spacing < closestBeats) return []
    return [
      { beat, x, bar: Number.isInteger(bar) ? bar + 1 : null, isCrowded: spacing * found!.beatsPerBar < 24 },
    ]
  })
  return (
    <div
      ref={host}
      className="pointer-events-none absolute inset-y-0 right-0 overflow-hidden"
      style={{ left }}
      data-testid="found-bar-lines"
    >
      {beats.map(({ beat, x, bar, isCrowded }) => (
        <div
          key={beat}
          className={`absolute inset-y-0 border-l ${bar === null ? 'border-dashed border-weld/40' : 'border-weld'}`}
          style={{ left: x }}
        >
          {bar !== null && (!isCrowded || bar % 4 === 1) && (
            <button
              type="button"
              className="pointer-events-auto absolute top-0 left-0 cursor-ew-resize touch-none rounded-r bg-weld px-1 text-[11px] leading-[18px] font-semibold text-sheet"
              aria-label={`Bar line ${bar}`}
              onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
              onPointerMove={(event) => {
                if (!event.currentTarget.hasPointerCapture(event.pointerId)) return
                const box = host.current!.getBoundingClientRect()
                move(beat, tempoMap.msAt(ticksAtX(view, event.clientX - box.left)))
              }}
              onKeyDown={(event) => {
                const by = { ArrowLeft: -fineMs, ArrowRight: fineMs }[event.key]
                if (by === undefined) return
                event.preventDefault()
                event.stopPropagation()
                move(beat, found!.beatsMs[beat]! + by)
              }}
            >
              {bar}
            </button>
          )}
        </div>
      ))}
    </div>
  )
}
