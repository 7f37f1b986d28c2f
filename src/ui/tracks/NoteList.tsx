import { useState } from 'react'
import { keyName } from '@/core/event/note'
import { soundingNotes } from '@/core/project/create'
import type { Track } from '@/core/project/schema'
import { MeterMap } from '@/core/time/meterMap'
import { TICKS_PER_QUARTER } from '@/core/time/units'
import { useProject, useView } from '../workspace/sessionContext'
import { selectNotes } from '../workspace/viewStore'
import { originWords } from './originWords'

const rowHeight = 24

/** The notes of a track as rows: the same content as the drawing, for reading and for screen readers. */
export function NoteList({ track }: { track: Track }) {
  const project = useProject()
  const selected = useView((state) => state.noteIds)
  const [scrollTop, setScrollTop] = useState(0)
  const notes = soundingNotes(track)
  const meterMap = new MeterMap(project.meters)
  const first = Math.max(0, Math.floor(scrollTop / rowHeight) - 5)
  const shown = notes.slice(first, first + 40)
  return (
    <section
      className="h-full overflow-y-auto bg-sheet"
      aria-label={`List of notes of ${track.name}`}
      tabIndex={0}
      onScroll={(event) => setScrollTop(event.currentTarget.scrollTop)}
    >
      <table className="w-full text-[13px]" aria-rowcount={notes.length + 1}>
        <thead className="sticky top-0 bg-desk text-left text-soft">
          <tr>
            {['Position', 'Note', 'Length', 'Velocity', 'Channel', 'From'].map((title) => (
              <th key={title} className="px-3 py-0.5 font-semibold">
                {title}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {first > 0 && <tr style={{ height: first * rowHeight }} aria-hidden />}
          {shown.map((note, index) => {
            const { bar, beat, ticks } = meterMap.position(note.onsetTicks)
            return (
              <tr
                key={note.id}
                aria-rowindex={first + index + 2}
                style={{ height: rowHeight }}
                className={selected.has(note.id) ? 'bg-[#e3e6ef]' : 'border-b border-[#efe9da]'}
              >
                <td className="px-3">
                  <button type="button" className="font-semibold" onClick={() => selectNotes([note.id])}>
                    {bar} · {beat} · {String(Math.floor(ticks / 100.8)).padStart(2, '0')}
                  </button>
                </td>
                <td className="px-3">{keyName(note.key)}</td>
                <td className="px-3">{(note.durationTicks / TICKS_PER_QUARTER).toFixed(2)} quarters</td>
                <td className="px-3">{note.velocity}</td>
                <td className="px-3">{note.channel}</td>
                <td className="px-3 text-soft">{originWords(note, project)}</td>
              </tr>
            )
          })}
          {first + shown.length < notes.length && (
            <tr style={{ height: (notes.length - first - shown.length) * rowHeight }} aria-hidden />
          )}
        </tbody>
      </table>
    </section>
  )
}
