import { useEffect, useRef } from 'react'
import { keyName } from '@/core/event/note'
import type { HeardNote } from '@/core/pitch/readLine'
import { Tick } from '../controls/Tick'
import { useSize } from '../controls/useSize'
import { canvasFont, paperColours, prepareCanvas } from '../tracks/canvas'

const heightPx = 220
/** A line on few keys is not drawn larger than this allows. */
const leastKeys = 16
/** Noteheads thinner than this cannot be pressed. */
const leastWidthPx = 3
/** Names of keys stand before the notes. */
const namesPx = 26
/** So many doubtful notes are listed. */
const mostListed = 60

/** Notes as they were heard, over time; those that are left out are faint. A press takes one or leaves it. */
export function HeardNotes({
  notes,
  seconds,
  isTaken,
  onToggle,
}: {
  notes: readonly HeardNote[]
  seconds: number
  isTaken: (note: HeardNote) => boolean
  onToggle: (note: HeardNote) => void
}) {
  const frame = useRef<HTMLDivElement>(null)
  const canvas = useRef<HTMLCanvasElement>(null)
  const { width } = useSize(frame)
  const low = notes.reduce((least, { key }) => Math.min(least, key), 127) - 2
  const high = Math.max(low + leastKeys, notes.reduce((most, { key }) => Math.max(most, key), 0) + 2)
  const rowPx = heightPx / (high - low + 1)
  const pxToSecond = Math.max(0, width - namesPx) / seconds
  const place = (note: HeardNote) => ({
    x: namesPx + (note.onsetMs / 1000) * pxToSecond,
    y: (high - note.key) * rowPx,
    wide: Math.max(leastWidthPx, (note.durationMs / 1000) * pxToSecond - 1),
    tall: Math.max(2, rowPx - 1),
  })

  useEffect(() => {
    if (!canvas.current || width === 0) return
    const drawing = prepareCanvas(canvas.current, width, heightPx)
    for (let key = low; key <= high; key++) {
      if (key % 12 !== 0) continue
      const y = (high - key + 1) * rowPx
      drawing.strokeStyle = paperColours.rule
      drawing.beginPath()
      drawing.moveTo(0, y)
      drawing.lineTo(width, y)
      drawing.stroke()
      drawing.fillStyle = paperColours.soft
      drawing.font = `11px ${canvasFont}`
      drawing.fillText(keyName(key), 3, y - 3)
    }
    for (const note of notes) {
      const { x, y, wide, tall } = place(note)
      drawing.globalAlpha = isTaken(note) ? 0.55 + 0.45 * note.confidence : 1
      if (isTaken(note)) {
        drawing.fillStyle = paperColours.ink
        drawing.fillRect(x, y, wide, tall)
      } else {
        drawing.strokeStyle = paperColours.soft
        drawing.strokeRect(x + 0.5, y + 0.5, Math.max(1, wide - 1), Math.max(1, tall - 1))
      }
    }
    drawing.globalAlpha = 1
  })

  const doubtful = notes.filter(({ confidence }) => confidence < 0.85)
  return (
    <div>
      <div ref={frame} className="w-full overflow-hidden border border-rule bg-paper">
        <canvas
          ref={canvas}
          className="block w-full cursor-pointer"
          style={{ height: heightPx }}
          role="img"
          aria-label={`${notes.length} notes that were heard; those one press from being taken are listed below`}
          onClick={(event) => {
            const box = event.currentTarget.getBoundingClientRect()
            const [x, y] = [event.clientX - box.left, event.clientY - box.top]
            const pressed = notes.findLast((note) => {
              const each = place(note)
              return (
                x >= each.x - 2 &&
                x <= each.x + each.wide + 2 &&
                y >= each.y - 2 &&
                y <= each.y + each.tall + 2
              )
            })
            if (pressed) onToggle(pressed)
          }}
        />
      </div>
      {doubtful.length > 0 && (
        <details className="mt-1.5 text-[13px]">
          <summary className="cursor-pointer text-soft">
            {doubtful.length.toLocaleString('en')} {doubtful.length === 1 ? 'note is' : 'notes are'} not quite
            sure
          </summary>
          <ul className="mt-1 grid max-h-44 gap-x-4 overflow-auto grid-cols-[repeat(auto-fill,minmax(11rem,1fr))]">
            {doubtful
              .slice()
              .sort((a, b) => b.confidence - a.confidence)
              .slice(0, mostListed)
              .map((note) => (
                <li key={`${note.onsetMs} ${note.key}`}>
                  <Tick isOn={isTaken(note)} onChange={() => onToggle(note)}>
                    {keyName(note.key)} at {(note.onsetMs / 1000).toFixed(2)} s,{' '}
                    {Math.round(note.confidence * 100)} %
                  </Tick>
                </li>
              ))}
          </ul>
        </details>
      )}
    </div>
  )
}
