import { useVirtualizer } from '@tanstack/react-virtual'
import { useMemo, useRef } from 'react'
import { curveTitle } from '@/core/editing/curves'
import { type ControllerEvent, keyName, type Note } from '@/core/event/note'
import { contextOf } from '@/core/project/context'
import { soundingControllers, soundingNotes } from '@/core/project/create'
import type { Track } from '@/core/project/schema'
import { TICKS_PER_QUARTER, type Ticks } from '@/core/time/units'
import { useProject, useView } from '../workspace/sessionContext'
import { selectNotes } from '../workspace/viewStore'
import { originWords } from './originWords'

const rowHeightPx = 24
/** Rows beyond those in sight, so that nothing is empty while scrolling. */
const rowsBeyond = 30

/** One row: a note or a point of a curve. */
type Row =
  | { readonly tick: Ticks; readonly note: Note; readonly point?: undefined }
  | { readonly tick: Ticks; readonly point: ControllerEvent; readonly note?: undefined }

/** Notes and curve points in the order they come in; a pedal before the note it comes with. */
function rowsOf(track: Track): Row[] {
  const points = soundingControllers(track).map((point): Row => ({ tick: point.tick, point }))
  const notes = soundingNotes(track).map((note): Row => ({ tick: note.onsetTicks, note }))
  return points.length === 0 ? notes : [...points, ...notes].sort((a, b) => a.tick - b.tick)
}

/** The notes and curves of a track as rows: the same content as the drawing, for reading and for screen readers. */
export function EventList({ track }: { track: Track }) {
  const project = useProject()
  const selected = useView((state) => state.noteIds)
  const scroller = useRef<HTMLElement>(null)
  const rows = useMemo(() => rowsOf(track), [track])
  const meterMap = contextOf(project).meterMap
  const virtualizer = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeightPx,
    overscan: rowsBeyond,
  })
  const shown = virtualizer.getVirtualItems()
  const beforePx = shown[0]?.start ?? 0
  const afterPx = virtualizer.getTotalSize() - (shown.at(-1)?.end ?? 0)
  return (
    <section
      ref={scroller}
      className="h-full overflow-y-auto bg-sheet"
      aria-label={`List of notes of ${track.name}`}
      tabIndex={0}
    >
      <table className="w-full text-[13px]" aria-rowcount={rows.length + 1}>
        <thead className="sticky top-0 bg-desk text-left text-soft">
          <tr>
            {['Position', 'What', 'Length', 'Velocity or value', 'Channel', 'From'].map((title) => (
              <th key={title} className="px-3 py-0.5 font-semibold">
                {title}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {beforePx > 0 && <tr style={{ height: beforePx }} aria-hidden />}
          {shown.map(({ index }) => {
            const { tick, note, point } = rows[index]!
            const { bar, beat, ticks } = meterMap.position(tick)
            const position = `${bar} · ${beat} · ${String(Math.floor(ticks / 100.8)).padStart(2, '0')}`
            return (
              <tr
                key={note ? note.id : `${point.kind} ${point.number} ${tick} ${index}`}
                aria-rowindex={index + 2}
                style={{ height: rowHeightPx }}
                className={note && selected.has(note.id) ? 'bg-[#e3e6ef]' : 'border-b border-[#efe9da]'}
              >
                <td className="px-3">
                  {note ? (
                    <button type="button" className="font-semibold" onClick={() => selectNotes([note.id])}>
                      {position}
                    </button>
                  ) : (
                    position
                  )}
                </td>
                <td className="px-3">{note ? keyName(note.key) : curveTitle(point)}</td>
                <td className="px-3">
                  {note && `${(note.durationTicks / TICKS_PER_QUARTER).toFixed(2)} quarters`}
                </td>
                <td className="px-3">{note ? note.velocity : point.value}</td>
                <td className="px-3">{note ? note.channel : point.channel}</td>
                <td className="px-3 text-soft">{note && originWords(note, project)}</td>
              </tr>
            )
          })}
          {afterPx > 0 && <tr style={{ height: afterPx }} aria-hidden />}
        </tbody>
      </table>
    </section>
  )
}
