import { useRef } from 'react'
import { keyName } from '@/core/event/note'
import type { FollowedFrame } from '@/core/pitch/lineFollower'
import { useSize } from '../controls/useSize'
import { canvasFont, paperColours, prepareCanvas } from '../tracks/canvas'
import { useEarPicture } from './useEarPicture'

const heightPx = 120
const shownMs = 5000
const leastKeys = 9
const namesPx = 28
/** Notes are seen beneath the trace. */
const leastTallPx = 9

interface TracedNote {
  readonly key: number
  readonly onsetMs: number
  endMs: number | null
}

/** The last seconds as they were heard: where the pitch was, darker the surer, over the notes that were made of it. */
export function PitchTrace({ sourceId, name, colour }: { sourceId: string; name: string; colour: string }) {
  const frame = useRef<HTMLDivElement>(null)
  const canvas = useRef<HTMLCanvasElement>(null)
  const { width } = useSize(frame)
  const past = useRef<{ frames: FollowedFrame[]; notes: TracedNote[] }>({ frames: [], notes: [] })
  useEarPicture(sourceId, (picture) => {
    const { current } = past
    const last = picture.frames.at(-1)?.timeMs
    // It is listened to anew: its time begins again.
    if (last !== undefined && last < (current.frames.at(-1)?.timeMs ?? 0)) {
      current.frames = []
      current.notes = []
    }
    const nowMs = last ?? current.frames.at(-1)?.timeMs ?? 0
    current.frames = [...current.frames, ...picture.frames].filter(({ timeMs }) => timeMs > nowMs - shownMs)
    for (const event of picture.events) {
      if (event.kind === 'on') current.notes.push({ key: event.key, onsetMs: event.onsetMs, endMs: null })
      else {
        const open = current.notes.at(-1)
        if (open) open.endMs = event.endMs
      }
    }
    current.notes = current.notes.filter(({ endMs }) => (endMs ?? nowMs) > nowMs - shownMs)
    if (canvas.current && width > 0) draw(canvas.current, width, nowMs, current.frames, current.notes, colour)
  })
  return (
    <div ref={frame} className="w-full overflow-hidden rounded-sm border border-rule bg-sheet">
      <canvas
        ref={canvas}
        className="block w-full"
        style={{ height: heightPx }}
        role="img"
        aria-label={`Pitch of ${name} in the last five seconds, over the notes that were made of it`}
      />
    </div>
  )
}

function draw(
  canvas: HTMLCanvasElement,
  width: number,
  nowMs: number,
  frames: readonly FollowedFrame[],
  notes: readonly TracedNote[],
  colour: string,
): void {
  const drawing = prepareCanvas(canvas, width, heightPx)
  const played = notes.map(({ key }) => key)
  const heard = frames.flatMap(({ place, confidence }) => (place !== null && confidence > 0.4 ? [place] : []))
  const keys = played.length > 0 ? played : heard.length > 0 ? heard : [60]
  const middle = (Math.min(...keys) + Math.max(...keys)) / 2
  const span = Math.max(leastKeys, Math.max(...keys) - Math.min(...keys) + 5)
  const low = middle - span / 2
  const yOf = (place: number) => heightPx - ((place - low) / span) * heightPx
  const xOf = (timeMs: number) => namesPx + ((timeMs - nowMs + shownMs) / shownMs) * (width - namesPx)
  const rowPx = heightPx / span
  drawing.font = `10px ${canvasFont}`
  for (let key = Math.ceil(low); key <= low + span; key++) {
    const isNatural = [0, 2, 4, 5, 7, 9, 11].includes(key % 12)
    drawing.strokeStyle = paperColours.rule
    drawing.globalAlpha = isNatural ? 0.7 : 0.25
    drawing.beginPath()
    drawing.moveTo(namesPx, yOf(key))
    drawing.lineTo(width, yOf(key))
    drawing.stroke()
    drawing.globalAlpha = 1
    if (isNatural && (rowPx > 9 || key % 12 === 0)) {
      drawing.fillStyle = paperColours.soft
      drawing.fillText(keyName(key), 3, yOf(key) + 3)
    }
  }
  const tall = Math.max(leastTallPx, rowPx * 0.8)
  drawing.fillStyle = colour
  for (const { key, onsetMs, endMs } of notes) {
    const from = Math.max(namesPx, xOf(onsetMs))
    const to = xOf(endMs ?? nowMs)
    drawing.globalAlpha = 0.3
    drawing.fillRect(from, yOf(key) - tall / 2, Math.max(2, to - from - 1), tall)
  }
  drawing.strokeStyle = paperColours.ink
  drawing.lineWidth = 1.5
  for (const [index, { place, confidence, timeMs }] of frames.entries()) {
    const before = frames[index - 1]
    if (place === null || before?.place == null || Math.abs(place - before.place) > 2) continue
    drawing.globalAlpha = Math.max(0.08, Math.min(1, confidence))
    drawing.beginPath()
    drawing.moveTo(xOf(before.timeMs), yOf(before.place))
    drawing.lineTo(xOf(timeMs), yOf(place))
    drawing.stroke()
  }
  drawing.globalAlpha = 1
}
