import { memo, useEffect, useRef, useState } from 'react'
import {
  type CurveName,
  curveEvents,
  curvesOf,
  curveTitle,
  drawCurve,
  eraseCurve,
  highestValue,
} from '@/core/editing/curves'
import { changeControllers } from '@/core/project/commands'
import { contextOf } from '@/core/project/context'
import { soundingControllers } from '@/core/project/create'
import type { Track } from '@/core/project/schema'
import { Choice } from '../controls/Choice'
import { useSize } from '../controls/useSize'
import { threadOf } from '../theme/threads'
import { useProject, useSession } from '../workspace/sessionContext'
import { canvasFont, drawBars, paperColours, prepareCanvas } from './canvas'
import { drumColumn, keyColumn } from './roll/rollGeometry'
import { type TimeView, ticksAtX, xOf } from './timeView'

/** Curves that can be begun where there is none yet. */
const usual: readonly CurveName[] = [
  { kind: 'controller', number: 64 },
  { kind: 'controller', number: 11 },
  { kind: 'controller', number: 1 },
  { kind: 'controller', number: 2 },
  { kind: 'controller', number: 4 },
  { kind: 'controller', number: 7 },
  { kind: 'controller', number: 10 },
  { kind: 'bend', number: 0 },
  { kind: 'channelPressure', number: 0 },
]

/** Beneath drums lies how far the hi-hat is open. */
const openness: CurveName = { kind: 'controller', number: 4 }

const idOf = (name: CurveName) => `${name.kind} ${name.number}`

/** A pedal, bend, breath or pressure of a track as a curve: dragging draws, with Alt it takes out. */
export const CurveLane = memo(function CurveLane({ track, view }: { track: Track; view: TimeView }) {
  const session = useSession()
  const project = useProject()
  const controllers = soundingControllers(track)
  const present = curvesOf(controllers)
  const [chosen, setChosen] = useState<string | null>(null)
  const isDrums = track.instrument.kind === 'drums'
  const choices = [...present, ...usual.filter((name) => !present.some((each) => idOf(each) === idOf(name)))]
  const name = choices.find((each) => idOf(each) === chosen) ?? (isDrums ? openness : choices[0]!)
  const events = curveEvents(controllers, name)
  const host = useRef<HTMLDivElement>(null)
  const canvas = useRef<HTMLCanvasElement>(null)
  const size = useSize(host)
  const last = useRef<{ tick: number; value: number } | null>(null)
  const top = highestValue(name.kind)

  const width = Math.max(0, size.width)
  const yOf = (value: number) => size.height - 4 - (value / top) * (size.height - 8)

  useEffect(() => {
    const element = canvas.current
    if (!element || width === 0) return
    const context = prepareCanvas(element, width, size.height)
    drawBars(context, view, contextOf(project).meterMap, width, size.height, 0)
    if (name.kind === 'bend') {
      context.strokeStyle = paperColours.rule
      context.beginPath()
      context.moveTo(0, yOf(8192))
      context.lineTo(width, yOf(8192))
      context.stroke()
    }
    const colour = threadOf(track.thread).colour
    context.strokeStyle = colour
    context.fillStyle = colour
    context.lineWidth = 1.6
    context.beginPath()
    let previous: number | null = null
    for (const event of events) {
      const x = xOf(view, event.tick)
      if (previous !== null) context.lineTo(x, yOf(previous))
      context[previous === null ? 'moveTo' : 'lineTo'](x, yOf(event.value))
      previous = event.value
    }
    if (previous !== null) context.lineTo(width, yOf(previous))
    context.stroke()
    if (events.length === 0) {
      context.fillStyle = paperColours.soft
      context.font = `12px ${canvasFont}`
      context.fillText(`No ${curveTitle(name)} here. Drag to draw it.`, 12, size.height / 2)
    }
  })

  const pointAt = (event: React.PointerEvent) => {
    const box = event.currentTarget.getBoundingClientRect()
    const value = Math.round(((size.height - 4 - (event.clientY - box.top)) / (size.height - 8)) * top)
    return {
      tick: Math.max(0, Math.round(ticksAtX(view, event.clientX - box.left))),
      value: Math.max(0, Math.min(top, value)),
    }
  }
  const draw = (event: React.PointerEvent, from: { tick: number; value: number }) => {
    const to = pointAt(event)
    const title = curveTitle(name)
    session.store
      .getState()
      .apply(
        event.altKey ? `erase ${title}` : `draw ${title}`,
        (before) =>
          changeControllers(before, track.id, (old) =>
            event.altKey
              ? eraseCurve(old, name, Math.min(from.tick, to.tick), Math.max(from.tick, to.tick) + 1)
              : drawCurve(old, name, track.channel, from, to),
          ),
        `curve ${track.id}`,
      )
    last.current = to
  }

  return (
    <section aria-label="Curves" className="flex h-[98px] shrink-0 flex-col border-t border-rule">
      <div className="flex shrink-0 items-center gap-3 bg-desk px-2 py-0.5 text-[12px] text-soft">
        <Choice
          label="Curve"
          isLabelHidden
          className="text-[12px]"
          value={idOf(name)}
          options={choices.map((each) => ({ value: idOf(each), text: curveTitle(each) }))}
          onChange={setChosen}
        />
        <span data-testid="curve-count">
          {events.length} {events.length === 1 ? 'event' : 'events'}
        </span>
        <span className="ml-auto">drag draws, with Alt it takes out</span>
      </div>
      <div
        ref={host}
        style={{ marginLeft: isDrums ? drumColumn : keyColumn }}
        className="relative min-h-0 flex-1 cursor-crosshair touch-none"
        role="img"
        aria-label={`Curve of ${curveTitle(name)} of ${track.name}: ${events.length} events. Drag draws, with Alt it takes out.`}
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId)
          draw(event, pointAt(event))
        }}
        onPointerMove={(event) => {
          if (last.current) draw(event, last.current)
        }}
        onPointerUp={() => {
          last.current = null
        }}
      >
        <canvas ref={canvas} className="absolute top-0 left-0" aria-hidden />
      </div>
    </section>
  )
})
