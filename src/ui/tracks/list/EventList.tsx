import { useVirtualizer } from '@tanstack/react-virtual'
import { ArrowDown, ArrowUp, Plus, Trash2 } from 'lucide-react'
import { useEffect, useMemo, useRef, useState } from 'react'
import { deleteNotes } from '@/core/editing/notes'
import type { ControllerEvent } from '@/core/event/note'
import { changeControllers, changeNotes, drawNote } from '@/core/project/commands'
import { contextOf } from '@/core/project/context'
import { soundingControllers, soundingNotes } from '@/core/project/create'
import type { Track } from '@/core/project/schema'
import { nameSection } from '@/core/project/sections'
import { addWords, changeWords, newWords, wordsBeside } from '@/core/project/words'
import { TICKS_PER_QUARTER } from '@/core/time/units'
import { takesText } from '@/engine/midiInput/takesText'
import { Button } from '../../controls/Button'
import { Choice } from '../../controls/Choice'
import { useProject, useSession, useView } from '../../workspace/sessionContext'
import { selectNotes } from '../../workspace/viewStore'
import { EventCells } from './EventCells'
import {
  type Column,
  columns,
  type EventRow,
  eventRows,
  eventTitles,
  isSameRow,
  type ListOrder,
} from './eventRows'

const rowHeightPx = 26
/** Rows beyond those in sight, so that nothing is empty while scrolling. */
const rowsBeyond = 30

const titles: Record<Column, string> = {
  position: 'Position',
  what: 'What',
  length: 'Length',
  value: 'Velocity or value',
  channel: 'Channel',
}

const additions = {
  note: 'note',
  program: 'program',
  pedal: 'sustain pedal',
  bend: 'pitch bend',
  controller: 'controller',
  lyric: 'syllable',
  text: 'text',
} as const

/**
 * Everything on a track as rows: filtered, sorted, typed into, added to and deleted, with a pointer or by keys alone. The same
 * content as the drawing.
 */
export function EventList({ track }: { track: Track }) {
  const session = useSession()
  const project = useProject()
  const apply = session.store.getState().apply
  const selected = useView((state) => state.noteIds)
  const scroller = useRef<HTMLElement>(null)
  const [filter, setFilter] = useState('everything')
  const [order, setOrder] = useState<ListOrder>({ by: 'position', isDescending: false })
  const [addition, setAddition] = useState<keyof typeof additions>('note')
  const [cursor, setCursor] = useState<EventRow | null>(null)
  const [isTyping, setTyping] = useState(false)
  const notes = soundingNotes(track)
  const events = soundingControllers(track)
  const words = useMemo(() => wordsBeside(project, track), [project, track])
  const rows = useMemo(
    () => eventRows(notes, events, project.sections, words, filter, order),
    [notes, events, project.sections, words, filter, order],
  )
  const meterMap = contextOf(project).meterMap
  const virtualizer = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeightPx,
    overscan: rowsBeyond,
  })
  const cursorIndex = useMemo(() => {
    const only = selected.size === 1 ? [...selected][0] : undefined
    return rows.findIndex((row) =>
      cursor && (cursor.kind !== 'note' || cursor.note.id === only)
        ? isSameRow(row, cursor)
        : row.kind === 'note' && row.note.id === only,
    )
  }, [rows, cursor, selected])

  const put = (index: number, isTypingNow = false) => {
    const row = rows[Math.max(0, Math.min(rows.length - 1, index))]
    if (!row) return
    setCursor(row)
    setTyping(isTypingNow)
    selectNotes(row.kind === 'note' ? [row.note.id] : [])
    virtualizer.scrollToIndex(Math.max(0, Math.min(rows.length - 1, index)))
  }
  // A row that was chosen elsewhere, on the page or in the roll, is brought into sight.
  useEffect(() => {
    if (cursorIndex >= 0) virtualizer.scrollToIndex(cursorIndex)
  }, [cursorIndex, virtualizer])

  const remove = () => {
    const row = rows[cursorIndex]
    if (selected.size > 0) {
      apply(`delete ${selected.size === 1 ? 'a note' : `${selected.size} notes`}`, (before) =>
        changeNotes(before, track.id, (old) => deleteNotes(old, selected)),
      )
      selectNotes([])
    } else if (row?.kind === 'event')
      apply('delete an event', (before) =>
        changeControllers(before, track.id, (old) => old.filter((event) => event !== row.event)),
      )
    else if (row?.kind === 'words')
      apply(`delete a ${row.words.kind}`, (before) => changeWords(before, row.words, null))
    else if (row?.kind === 'section')
      apply('take a section away', (before) =>
        nameSection(before, meterMap.measureAt(row.tick).index + 1, ''),
      )
    setTyping(false)
    scroller.current?.focus()
  }

  const add = () => {
    const tick = Math.max(0, Math.round(rows[cursorIndex]?.tick ?? session.positionTicks()))
    if (addition === 'note') {
      let noteId = 0
      apply('add a note', (before) => {
        const result = drawNote(before, track.id, {
          onsetTicks: tick,
          durationTicks: TICKS_PER_QUARTER / 2,
          key: 60,
          velocity: 84,
        })
        noteId = result.noteId
        return result.project
      })
      setCursor(null)
      selectNotes([noteId])
    } else if (addition === 'lyric' || addition === 'text') {
      const words = newWords(addition, tick, track.id, addition === 'lyric' ? 'la' : 'text')
      apply(`add a ${additions[addition]}`, (before) => addWords(before, [words]))
      selectNotes([])
      setCursor({ kind: 'words', tick, words })
    } else {
      const event = newEvent(addition, tick, track.channel)
      apply(`add a ${additions[addition]}`, (before) =>
        changeControllers(before, track.id, (old) => [...old, event].sort((a, b) => a.tick - b.tick)),
      )
      selectNotes([])
      setCursor({ kind: 'event', tick, event })
    }
    setTyping(true)
  }

  const onKeyDown = (keyEvent: React.KeyboardEvent) => {
    if (takesText(keyEvent.target)) {
      if (keyEvent.key === 'Escape') {
        setTyping(false)
        scroller.current?.focus()
        keyEvent.stopPropagation()
      }
      return
    }
    const steps: Partial<Record<string, number>> = { ArrowDown: 1, ArrowUp: -1, PageDown: 12, PageUp: -12 }
    const step = steps[keyEvent.key]
    if (step !== undefined) put(Math.max(0, cursorIndex) + (cursorIndex < 0 ? 0 : step))
    else if (
      keyEvent.key === 'Enter' &&
      cursorIndex >= 0 &&
      (keyEvent.target as HTMLElement).tagName !== 'BUTTON'
    )
      setTyping(true)
    else if (keyEvent.key === 'Delete' || keyEvent.key === 'Backspace') remove()
    else if (keyEvent.key === 'Insert') add()
    else return
    keyEvent.preventDefault()
    keyEvent.stopPropagation()
  }

  const shown = virtualizer.getVirtualItems()
  const beforePx = shown[0]?.start ?? 0
  const afterPx = virtualizer.getTotalSize() - (shown.at(-1)?.end ?? 0)
  return (
    <div className="flex h-full flex-col">
      <div className="flex shrink-0 flex-wrap items-center gap-2 border-b border-rule bg-desk px-3 py-0.5 text-[13px]">
        <Choice
          label="Show"
          value={filter}
          options={['everything', 'notes', ...eventTitles(events), 'words', 'sections'].map((value) => ({
            value,
            text: value,
          }))}
          onChange={setFilter}
        />
        <span className="text-soft">{rows.length.toLocaleString('en')} rows</span>
        <span className="ml-auto flex items-center gap-1.5">
          <Choice
            label="Kind of event to add"
            isLabelHidden
            value={addition}
            options={(Object.keys(additions) as (keyof typeof additions)[]).map((value) => ({
              value,
              text: additions[value],
            }))}
            onChange={setAddition}
          />
          <Button className="px-2 py-0.5" title="Insert" onClick={add}>
            <Plus size={14} aria-hidden /> Add
          </Button>
          <Button
            className="px-2 py-0.5"
            title="Delete"
            disabled={selected.size === 0 && cursorIndex < 0}
            onClick={remove}
          >
            <Trash2 size={14} aria-hidden /> Delete
          </Button>
        </span>
      </div>
      <section
        ref={scroller}
        className="min-h-0 flex-1 overflow-y-auto bg-sheet"
        aria-label={`List of notes of ${track.name}`}
        aria-description="Up and down go from row to row, Enter types into one, Delete takes it out, Insert adds one."
        tabIndex={0}
        onKeyDown={onKeyDown}
      >
        <table className="w-full text-[13px]" aria-rowcount={rows.length + 1}>
          <thead className="sticky top-0 z-10 bg-desk text-left text-soft">
            <tr>
              {columns.map((column) => {
                const isBy = order.by === column
                return (
                  <th
                    key={column}
                    className="px-3 py-0.5 font-semibold"
                    aria-sort={isBy ? (order.isDescending ? 'descending' : 'ascending') : 'none'}
                  >
                    <button
                      type="button"
                      className="inline-flex items-center gap-1"
                      onClick={() => setOrder({ by: column, isDescending: isBy && !order.isDescending })}
                    >
                      {titles[column]}
                      {isBy &&
                        (order.isDescending ? (
                          <ArrowDown size={12} aria-hidden />
                        ) : (
                          <ArrowUp size={12} aria-hidden />
                        ))}
                    </button>
                  </th>
                )
              })}
              <th className="px-3 py-0.5 font-semibold">From</th>
            </tr>
          </thead>
          <tbody>
            {beforePx > 0 && <tr style={{ height: beforePx }} aria-hidden />}
            {shown.map(({ index }) => {
              const row = rows[index]!
              const isCursor = index === cursorIndex
              const isSelected = isCursor || (row.kind === 'note' && selected.has(row.note.id))
              return (
                <tr
                  // A row that is typed into stays the same while its place or value changes, and keeps the keyboard.
                  key={isCursor && isTyping ? 'typing' : rowKey(row, index)}
                  aria-rowindex={index + 2}
                  aria-selected={isSelected}
                  style={{ height: rowHeightPx }}
                  className={isSelected ? 'bg-[#e3e6ef]' : 'border-b border-[#efe9da]'}
                >
                  <EventCells
                    row={row}
                    track={track}
                    project={project}
                    isTyping={isCursor && isTyping}
                    onChoose={() => put(index)}
                    onType={() => put(index, true)}
                    onTyped={(next) => next && setCursor(next)}
                  />
                </tr>
              )
            })}
            {afterPx > 0 && <tr style={{ height: afterPx }} aria-hidden />}
          </tbody>
        </table>
      </section>
    </div>
  )
}

function rowKey(row: EventRow, index: number): string {
  if (row.kind === 'note') return `note ${row.note.id}`
  if (row.kind === 'words') return `words ${row.tick} ${index}`
  return row.kind === 'event'
    ? `${row.event.kind} ${row.event.number} ${row.tick} ${index}`
    : `section ${row.tick}`
}

function newEvent(
  kind: Exclude<keyof typeof additions, 'note' | 'lyric' | 'text'>,
  tick: number,
  channel: number,
): ControllerEvent {
  switch (kind) {
    case 'program':
      return { tick, channel, kind: 'program', number: 0, value: 0 }
    case 'pedal':
      return { tick, channel, kind: 'controller', number: 64, value: 127 }
    case 'bend':
      return { tick, channel, kind: 'bend', number: 0, value: 8192 }
    case 'controller':
      return { tick, channel, kind: 'controller', number: 1, value: 64 }
  }
}
