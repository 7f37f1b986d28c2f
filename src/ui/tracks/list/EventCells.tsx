import { useEffect, useRef, useState } from 'react'
import { curveTitle, highestValue } from '@/core/editing/curves'
import { inOrder } from '@/core/editing/operation'
import { type ControllerEvent, keyName, mostLines, type Note, parseKeyName } from '@/core/event/note'
import { programNames } from '@/core/midi/generalMidi'
import { changeControllers, changeNotes } from '@/core/project/commands'
import { contextOf } from '@/core/project/context'
import { keyCalled, kitKeyName } from '@/core/project/kit'
import { type Project, type Track, type Words, wordKinds } from '@/core/project/schema'
import { nameSection } from '@/core/project/sections'
import { changeWords } from '@/core/project/words'
import { boundedName } from '@/core/text/bounded'
import { parsePosition, positionText } from '@/core/time/positionText'
import { lastTick, TICKS_PER_QUARTER } from '@/core/time/units'
import { useSession } from '../../workspace/sessionContext'
import { originWords } from '../originWords'
import type { EventRow } from './eventRows'

/** A field of a row: what it says, and what typing makes of the row; null where that is none. */
interface Cell {
  readonly label: string
  readonly text: string
  /** Stands behind the text while it is not typed into. */
  readonly unit?: string
  /** Cannot be typed into. */
  readonly isFixed?: true
  change?(typed: string): EventRow | null
}

/** The cells of one row, as text or as fields. What is typed is one step of history; what is none is said and put back. */
export function EventCells({
  row,
  track,
  project,
  isTyping,
  onChoose,
  onType,
  onTyped,
}: {
  row: EventRow
  track: Track
  project: Project
  isTyping: boolean
  onChoose: () => void
  onType: () => void
  /** The row as it is after what was typed. */
  onTyped: (row: EventRow) => void
}) {
  const session = useSession()
  const cells = cellsOf(row, track, project)
  const keep = (cell: Cell, typed: string): boolean => {
    const next = cell.change?.(typed) ?? null
    if (next === null) {
      session.notify(`“${typed}” is no ${cell.label}. Nothing was changed.`, true)
      return false
    }
    const isKept = session.store
      .getState()
      .apply(`type the ${cell.label}`, (before) => replaced(before, track, row, next))
    if (isKept) onTyped(next)
    return isKept
  }
  return (
    <>
      {cells.map((cell, index) => (
        // biome-ignore lint/a11y/useKeyWithClickEvents: by keys a row is typed into with Enter
        <td
          key={cell.label}
          className="px-3"
          onClick={() => (isTyping ? undefined : onChoose())}
          onDoubleClick={onType}
        >
          {isTyping && !cell.isFixed && cell.change ? (
            <CellField cell={cell} isFirst={index === 0} onKeep={(typed) => keep(cell, typed)} />
          ) : index === 0 ? (
            <button type="button" className="font-semibold" onClick={onChoose}>
              {cell.text}
            </button>
          ) : (
            `${cell.text}${cell.unit ? ` ${cell.unit}` : ''}`
          )}
        </td>
      ))}
      <td className="truncate px-3 text-soft">{row.kind === 'note' && originWords(row.note, project)}</td>
    </>
  )
}

function CellField({
  cell,
  isFirst,
  onKeep,
}: {
  cell: Cell
  isFirst: boolean
  onKeep: (typed: string) => boolean
}) {
  const [draft, setDraft] = useState<string | null>(null)
  const input = useRef<HTMLInputElement>(null)
  useEffect(() => {
    if (!isFirst) return
    input.current?.focus()
    input.current?.select()
  }, [isFirst])
  const finish = () => {
    if (draft !== null && draft !== cell.text) onKeep(draft)
    setDraft(null)
  }
  return (
    <input
      ref={input}
      aria-label={cell.label}
      className="w-full min-w-0 max-w-40 rounded border border-rule bg-paper px-1 font-semibold"
      value={draft ?? cell.text}
      onFocus={(event) => event.currentTarget.select()}
      onChange={(event) => setDraft(event.target.value)}
      onBlur={finish}
      onKeyDown={(event) => {
        if (event.key === 'Enter') finish()
        if (event.key === 'Escape') setDraft(null)
      }}
    />
  )
}

const wholeWithin = (text: string, low: number, high: number): number | null => {
  const value = Number(text.trim().replace('−', '-'))
  return text.trim() !== '' && Number.isInteger(value) && value >= low && value <= high ? value : null
}

function cellsOf(row: EventRow, track: Track, project: Project): Cell[] {
  const { meterMap } = contextOf(project)
  const fixed = (label: string): Cell => ({ label, text: '', isFixed: true })
  const position = (move: (tick: number) => EventRow): Cell => ({
    label: 'position',
    text: positionText(meterMap, row.tick),
    change: (typed) => {
      const tick = parsePosition(typed, meterMap)
      return tick === null || tick > lastTick ? null : move(tick)
    },
  })
  switch (row.kind) {
    case 'note':
      return noteCells(row.note, track, position)
    case 'event':
      return eventCells(row.event, position)
    case 'words': {
      const { words } = row
      const withFields = (fields: Partial<Words>): EventRow => {
        const next = { ...words, ...fields }
        return { kind: 'words', tick: next.tick, words: next }
      }
      return [
        position((tick) => withFields({ tick })),
        {
          label: words.kind,
          text: words.text,
          change: (typed) => (typed.trim() === '' ? null : withFields({ text: boundedName(typed) })),
        },
        fixed('length'),
        {
          label: 'value',
          text: words.kind,
          change: (typed) => {
            const kind = wordKinds.find((each) => each === typed.trim().toLowerCase())
            return kind ? withFields({ kind }) : null
          },
        },
        { label: 'channel', text: words.trackId === null ? 'whole piece' : '', isFixed: true },
      ]
    }
    case 'section': {
      return [
        { label: 'position', text: positionText(meterMap, row.tick), isFixed: true },
        {
          label: 'section',
          text: row.section.name,
          change: (name) =>
            name.trim() === '' ? null : { ...row, section: { ...row.section, name: name.trim() } },
        },
        fixed('length'),
        { label: 'value', text: 'section', isFixed: true },
        fixed('channel'),
      ]
    }
  }
}

function noteCells(note: Note, track: Track, position: (move: (tick: number) => EventRow) => Cell): Cell[] {
  const withFields = (fields: Partial<Note>): EventRow => {
    const next = { ...note, ...fields }
    return { kind: 'note', tick: next.onsetTicks, note: next }
  }
  const isDrums = track.instrument.kind === 'drums'
  return [
    position((onsetTicks) => withFields({ onsetTicks })),
    {
      label: 'key',
      text: isDrums ? kitKeyName(track, note.key) : keyName(note.key),
      change: (typed) => {
        const key = (isDrums ? keyCalled(track, typed) : undefined) ?? parseKeyName(typed)
        return key === undefined ? null : withFields({ key })
      },
    },
    {
      label: 'length in quarters',
      text: (note.durationTicks / TICKS_PER_QUARTER).toFixed(2),
      unit: 'quarters',
      change: (typed) => {
        const ticks = Math.round(Number(typed.replace(',', '.')) * TICKS_PER_QUARTER)
        return ticks >= 1 && ticks <= lastTick ? withFields({ durationTicks: ticks }) : null
      },
    },
    {
      label: 'velocity',
      text: String(note.velocity),
      change: (typed) => {
        const velocity = wholeWithin(typed, 1, 127)
        return velocity === null ? null : withFields({ velocity })
      },
    },
    {
      label: 'channel',
      text: note.voice === undefined ? String(note.channel) : `${note.channel}, voice ${note.voice}`,
      change: (typed) => {
        const [channelText = '', voiceText] = typed.match(/\d+/g) ?? []
        const channel = wholeWithin(channelText, 1, 16)
        if (channel === null) return null
        if (voiceText === undefined) return withFields({ channel })
        const voice = wholeWithin(voiceText, 1, mostLines)
        return voice === null ? null : withFields({ channel, voice, isVoiceByHand: true })
      },
    },
  ]
}

function eventCells(event: ControllerEvent, position: (move: (tick: number) => EventRow) => Cell): Cell[] {
  const withFields = (fields: Partial<ControllerEvent>): EventRow => {
    const next = { ...event, ...fields }
    return { kind: 'event', tick: next.tick, event: next }
  }
  const hasNumber = event.kind === 'controller' || event.kind === 'keyPressure'
  const isProgram = event.kind === 'program'
  return [
    position((tick) => withFields({ tick })),
    {
      label: event.kind === 'keyPressure' ? 'key' : 'controller number',
      text: isProgram ? `program: ${programNames[event.value] ?? ''}` : curveTitle(event),
      ...(hasNumber && {
        change: (typed: string) => {
          const number = wholeWithin(typed.match(/\d+/)?.[0] ?? '', 0, 127)
          return number === null ? null : withFields({ number })
        },
      }),
    },
    { label: 'length', text: '', isFixed: true },
    {
      // Programs are counted from 1, as they are in every list of instruments.
      label: isProgram ? 'program' : 'value',
      text: String(isProgram ? event.value + 1 : event.value),
      change: (typed) => {
        const [low, high] = isProgram ? [1, 128] : [0, highestValue(event.kind)]
        const value = wholeWithin(typed, low, high)
        return value === null ? null : withFields({ value: isProgram ? value - 1 : value })
      },
    },
    {
      label: 'channel',
      text: String(event.channel),
      change: (typed) => {
        const channel = wholeWithin(typed, 1, 16)
        return channel === null ? null : withFields({ channel })
      },
    },
  ]
}

/** The piece with a row as it was typed. */
function replaced(project: Project, track: Track, row: EventRow, next: EventRow): Project {
  if (row.kind === 'note' && next.kind === 'note') {
    // Only what was typed: a track may show its notes on a grid, and they stay as played.
    const typed = Object.fromEntries(
      Object.entries(next.note).filter(([name, value]) => row.note[name as keyof Note] !== value),
    )
    return changeNotes(project, track.id, (notes) =>
      inOrder(notes.map((note) => (note.id === next.note.id ? { ...note, ...typed } : note))),
    )
  }
  if (row.kind === 'event' && next.kind === 'event')
    return changeControllers(project, track.id, (events) =>
      events.map((event) => (event === row.event ? next.event : event)).sort((a, b) => a.tick - b.tick),
    )
  if (row.kind === 'words' && next.kind === 'words') return changeWords(project, row.words, next.words)
  if (next.kind === 'section') {
    const bar = contextOf(project).meterMap.measureAt(next.tick).index + 1
    return nameSection(project, bar, next.section.name)
  }
  return project
}
