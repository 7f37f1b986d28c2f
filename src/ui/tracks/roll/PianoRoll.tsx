import { memo, useEffect, useMemo, useRef, useState } from 'react'
import { deleteNotes, moveNotes, moveStrokes, stretchNotes } from '@/core/editing/notes'
import { keyName, type Note, type NoteId } from '@/core/event/note'
import { drawNote } from '@/core/project/commands'
import { contextOf } from '@/core/project/context'
import { soundingNotes } from '@/core/project/create'
import { changeChosen } from '@/core/project/editNotes'
import { kitKeyName, kitRows } from '@/core/project/kit'
import type { Track } from '@/core/project/schema'
import { useSize } from '../../controls/useSize'
import { heardPitchOf, type TrackSound } from '../../soundIn/useTrackSounds'
import { threadOf } from '../../theme/threads'
import { drawWhileMoving } from '../../workspace/frames'
import { useProject, useSession, useView } from '../../workspace/sessionContext'
import { selectNotes, selectTrack } from '../../workspace/viewStore'
import { drawPlayhead, prepareCanvas } from '../canvas'
import { handSplit } from '../handSplit'
import { shapesOf } from '../noteShapes'
import { scrolled, type TimeView, zoomAround } from '../timeView'
import { useNoteEdits } from '../useNoteEdits'
import { usePinch } from '../usePinch'
import { useStrands } from '../useStrands'
import { useVoiceEdits } from '../useVoiceEdits'
import { type NotesBehind, paintRoll } from './paintRoll'
import { keyRangeOf, noteAt, type Point, regionAt, rollGeometry } from './rollGeometry'
import { completed, countOfNotes, dragged, framedNotes, type RollGesture } from './rollGesture'

/** One track's notes by key and time: select, move, stretch, draw, delete and hear them. */
export const PianoRoll = memo(function PianoRoll({
  track,
  view,
  onView,
  gridTicks,
  isDrawing,
  sounds,
}: {
  track: Track
  view: TimeView
  onView: (view: TimeView) => void
  gridTicks: number
  isDrawing: boolean
  /** What the notes were made of, where that was sound. */
  sounds: readonly TrackSound[]
}) {
  const session = useSession()
  const project = useProject()
  const { meterMap } = contextOf(project)
  const selected = useView((state) => state.noteIds)
  const notes = soundingNotes(track)
  const shapes = shapesOf(notes)
  const host = useRef<HTMLDivElement>(null)
  const canvas = useRef<HTMLCanvasElement>(null)
  const overlay = useRef<HTMLCanvasElement>(null)
  const size = useSize(host)
  const [gesture, setGesture] = useState<RollGesture | null>(null)
  const areOthersShown = useView((state) => state.areOthersShown)
  const behind = useMemo(
    () => (areOthersShown ? notesBehind(project.tracks, track) : noneBehind),
    [areOthersShown, project.tracks, track],
  )
  const isDrums = track.instrument.kind === 'drums'
  const isKitWhole = useView((state) => state.isKitWhole)
  const kitKeys = useMemo(
    () => (isDrums ? kitRows(track, notes, isKitWhole) : null),
    [isDrums, track, notes, isKitWhole],
  )
  const geometry = useMemo(
    () => rollGeometry(keyRangeOf([shapes, ...behind.map((other) => other.shapes)]), size, view, kitKeys),
    [shapes, behind, size, view, kitKeys],
  )
  const heard = useMemo(() => heardPitchOf(sounds), [sounds])
  const strands = useStrands(track, project.scoreSettings.splitKey)
  const doubtfulIds = useView((state) => state.doubtful)
  const doubtful = useMemo(() => new Set(doubtfulIds), [doubtfulIds])
  const { putSelected, carryOnFrom } = useVoiceEdits(track)
  const edits = useNoteEdits(track)
  const { width, left } = geometry

  useEffect(() => {
    const element = canvas.current
    if (!element || size.width === 0) return
    paintRoll(prepareCanvas(element, size.width, size.height), {
      geometry,
      notes,
      shapes,
      selected,
      gesture,
      thread: threadOf(track.thread),
      meterMap,
      sections: project.sections,
      keyNameOf: isDrums ? (key) => kitKeyName(track, key) : keyName,
      splitKey: strands.isSplitAtKey ? handSplit(track, project.scoreSettings.splitKey) : null,
      strands,
      behind,
      doubtful,
      heard,
    })
  })

  useEffect(() => {
    let shownTicks = -1
    return drawWhileMoving(session, () => {
      const element = overlay.current
      const ticks = session.positionTicks()
      if (element && width > 0 && ticks !== shownTicks) {
        shownTicks = ticks
        drawPlayhead(prepareCanvas(element, width, size.height), view, ticks, size.height)
      }
    }).end
  }, [session, view, width, size.height])

  const snap = (ticks: number) => Math.round(ticks / gridTicks) * gridTicks
  const apply = session.store.getState().apply

  const drawAt = (x: number, y: number) => {
    const onsetTicks = Math.max(0, Math.floor(geometry.ticksAt(x) / gridTicks) * gridTicks)
    const key = geometry.keyAt(y)
    let noteId = 0
    apply('draw a note', (before) => {
      const result = drawNote(before, track.id, { onsetTicks, durationTicks: gridTicks, key, velocity: 84 })
      noteId = result.noteId
      return result.project
    })
    selectNotes([noteId])
    session.audition(track.id, key)
  }

  const pressNotes = (event: React.PointerEvent, start: Point) => {
    const hit = noteAt(geometry, shapes, notes, start)
    if (hit) {
      const { id, key, velocity } = hit.note
      const isAdded = event.shiftKey || event.ctrlKey
      const ids = new Set(selected.has(id) ? selected : isAdded ? [...selected, id] : [id])
      selectNotes(ids)
      session.audition(track.id, key, velocity)
      setGesture({ kind: hit.isEdge ? 'stretch' : 'move', start, ids, byTicks: 0, byKeys: 0 })
    } else if (isDrawing) drawAt(start.x, start.y)
    else {
      const reached = behind.flatMap((other) => {
        const found = noteAt(geometry, other.shapes, other.notes, start)
        return found ? [{ trackId: other.trackId, note: found.note }] : []
      })[0]
      if (reached) {
        selectTrack(reached.trackId)
        selectNotes([reached.note.id])
        session.audition(reached.trackId, reached.note.key, reached.note.velocity)
        return
      }
      const kept = event.shiftKey ? selected : new Set<NoteId>()
      selectNotes(kept)
      setGesture({ kind: 'frame', start, end: start, kept })
    }
  }

  /** Of the last two presses in the roll: of a double press, the first may have been on something that is gone. */
  const presses = useRef({ last: 0, before: 0 })

  const onPointerDown = (event: React.PointerEvent) => {
    if (event.button !== 0 || !event.isPrimary) return
    presses.current = { last: event.timeStamp, before: presses.current.last }
    event.currentTarget.setPointerCapture(event.pointerId)
    host.current?.focus()
    const start = pointOf(event)
    switch (regionAt(geometry, start)) {
      case 'keys': {
        const key = geometry.keyAt(start.y)
        session.audition(track.id, key)
        if (event.shiftKey) selectNotes(notes.filter((note) => note.key === key).map(({ id }) => id))
        return
      }
      case 'ruler':
        session.seek(Math.max(0, Math.round(geometry.ticksAt(start.x))))
        return
      case 'velocities': {
        if (event.shiftKey || isDrawing) {
          setGesture({ kind: 'ramp', start, end: start })
          return
        }
        const near = notes.find((note) => Math.abs(geometry.xOf(note.onsetTicks) - start.x) < 5)
        if (!near) return
        const ids = selected.has(near.id) ? selected : new Set([near.id])
        selectNotes(ids)
        setGesture({ kind: 'velocity', start, ids, by: 0 })
        return
      }
      case 'notes':
        pressNotes(event, start)
    }
  }

  const onPointerMove = (event: React.PointerEvent) => {
    if (!event.isPrimary) return
    const at = pointOf(event)
    if (!gesture) {
      const hit = regionAt(geometry, at) === 'notes' ? noteAt(geometry, shapes, notes, at) : undefined
      const cursor = hit ? (hit.isEdge ? 'ew-resize' : 'grab') : isDrawing ? 'crosshair' : 'default'
      ;(event.currentTarget as HTMLElement).style.cursor = cursor
      return
    }
    const next = dragged(gesture, at, geometry, event.altKey ? null : gridTicks)
    if (next.kind === 'frame')
      selectNotes(
        [notes, ...behind.map((other) => other.notes)].flatMap((each) => framedNotes(next, geometry, each)),
      )
    if (next.kind === 'move' && gesture.kind === 'move' && next.byKeys !== gesture.byKeys) {
      const lead = notes.find((note) => next.ids.has(note.id))
      if (lead)
        // What was struck together with the first of them sounds with it.
        for (const note of notes
          .filter((each) => next.ids.has(each.id) && isTogether(each, lead))
          .slice(0, mostHeard))
          session.audition(track.id, Math.max(0, Math.min(127, geometry.keyAbove(note.key, next.byKeys))))
    }
    setGesture(next)
  }

  const onPointerUp = (event: React.PointerEvent) => {
    if (!event.isPrimary) return
    const change = gesture && completed(gesture, geometry, selected)
    if (change)
      apply(change.label, (before) =>
        changeChosen(before, { trackId: track.id, noteIds: selected }, change.edit),
      )
    setGesture(null)
  }
  usePinch(host, left, view, onView, () => setGesture(null))

  const onKeyDown = (event: React.KeyboardEvent) => {
    const change = (
      label: string,
      edit: (old: readonly Note[], together: readonly Note[]) => readonly Note[],
      group?: string,
    ) => {
      event.preventDefault()
      event.stopPropagation()
      apply(
        `${label} ${countOfNotes(selected)}`,
        (before) => changeChosen(before, { trackId: track.id, noteIds: selected }, edit),
        group,
      )
    }
    if ((event.ctrlKey || event.metaKey) && event.code === 'KeyA') {
      event.preventDefault()
      selectNotes(notes.map((note) => note.id))
      return
    }
    if (event.code === 'Enter') {
      event.preventDefault()
      const at = snap(Math.max(0, session.positionTicks()))
      const y = geometry.yOf(shapes.count > 0 ? notes.at(-1)!.key : 60) + geometry.rowHeight / 2
      drawAt(geometry.xOf(at) + 1, y)
      return
    }
    if (event.code === 'Space' && event.shiftKey) {
      event.preventDefault()
      edits.hear()
      return
    }
    if (event.code === 'Period') {
      event.preventDefault()
      carryOnFrom()
      return
    }
    if ((event.ctrlKey || event.metaKey) && event.code === 'KeyD') {
      event.preventDefault()
      edits.double()
      return
    }
    if (selected.size === 0) return
    const digit = /^Digit([0-8])$/.exec(event.code)
    if (digit && !event.ctrlKey && !event.metaKey && !event.altKey) {
      event.preventDefault()
      putSelected(selected, digit[1] === '0' ? null : Number(digit[1]))
      return
    }
    const step = event.altKey ? 105 : gridTicks
    switch (event.code) {
      case 'Delete':
      case 'Backspace':
        change('delete', (old) => deleteNotes(old, selected))
        selectNotes([])
        return
      case 'ArrowUp':
      case 'ArrowDown': {
        const byKeys = (event.code === 'ArrowUp' ? 1 : -1) * (event.shiftKey ? 12 : 1)
        change(
          'move',
          (old, together) =>
            isDrums
              ? moveStrokes(old, selected, 0, (key) => geometry.keyAbove(key, byKeys), together)
              : moveNotes(old, selected, 0, byKeys, together),
          'arrow keys',
        )
        return
      }
      case 'ArrowLeft':
      case 'ArrowRight': {
        const by = event.code === 'ArrowRight' ? step : -step
        if (event.shiftKey) change('stretch', (old) => stretchNotes(old, selected, by), 'arrow stretch')
        else change('move', (old, together) => moveNotes(old, selected, by, 0, together), 'arrow keys')
      }
    }
  }

  useEffect(() => {
    const element = host.current
    const onWheel = (event: WheelEvent) => {
      event.preventDefault()
      const box = element!.getBoundingClientRect()
      if (event.ctrlKey || event.metaKey)
        onView(zoomAround(view, event.clientX - box.left - left, Math.exp(-event.deltaY / 300)))
      else onView(scrolled(view, event.deltaX || event.deltaY))
    }
    element?.addEventListener('wheel', onWheel, { passive: false })
    return () => element?.removeEventListener('wheel', onWheel)
  }, [view, onView, left])

  return (
    <div
      ref={host}
      role="application"
      tabIndex={0}
      aria-label={`Notes of ${track.name}. ${notes.length} notes, ${selected.size} selected. Arrow keys move, Shift with left and right stretches, Delete removes, Enter draws at the playing position, digits put into a voice, a slash lists everything that can be done. The same notes are in the list.`}
      className="relative h-full touch-none"
      onPointerDown={onPointerDown}
      onPointerMove={onPointerMove}
      onPointerUp={onPointerUp}
      onDoubleClick={(event) => {
        const at = pointOf(event)
        const { last, before } = presses.current
        if (last - before > longestDoublePressMs) return
        const isFree = regionAt(geometry, at) === 'notes' && !noteAt(geometry, shapes, notes, at)
        if (!isDrawing && isFree) drawAt(at.x, at.y)
      }}
      onPointerCancel={() => setGesture(null)}
      onKeyDown={onKeyDown}
      onCopy={(event) => toClipboard(event, edits.copy())}
      onCut={(event) => toClipboard(event, edits.cut())}
      onPaste={(event) => {
        event.preventDefault()
        edits.paste(event.clipboardData.getData('text/plain'))
      }}
    >
      <canvas ref={canvas} className="absolute inset-0" aria-hidden />
      <canvas ref={overlay} className="pointer-events-none absolute top-0" style={{ left }} aria-hidden />
    </div>
  )
})

/** Puts notes on the system's clipboard in place of what the browser would copy. */
function toClipboard(event: React.ClipboardEvent, text: string | null): void {
  event.preventDefault()
  if (text !== null) event.clipboardData.setData('text/plain', text)
}

/** Two presses further apart than this are two. */
const longestDoublePressMs = 800
/** So many notes of a chord are heard while it is dragged. */
const mostHeard = 8
/** 25 ms at 120 bpm. */
const togetherTicks = 500

function isTogether(a: Note, b: Note): boolean {
  return Math.abs(a.onsetTicks - b.onsetTicks) < togetherTicks
}

const noneBehind: readonly NotesBehind[] = []

/** The tracks that are heard besides one. */
function notesBehind(tracks: readonly Track[], track: Track): NotesBehind[] {
  return tracks
    .filter((other) => other.id !== track.id && !other.isMuted)
    .map((other) => {
      const notes = soundingNotes(other)
      return { trackId: other.id, notes, shapes: shapesOf(notes), thread: threadOf(other.thread) }
    })
    .filter(({ shapes }) => shapes.count > 0)
}

/** Where a pointer is, from the upper left corner of the roll. */
function pointOf(event: React.MouseEvent): Point {
  const box = event.currentTarget.getBoundingClientRect()
  return { x: event.clientX - box.left, y: event.clientY - box.top }
}
