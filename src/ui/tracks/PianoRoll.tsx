import { memo, useEffect, useMemo, useRef, useState } from 'react'
import { changedVelocity, changeVelocity, deleteNotes, moveNotes, stretchNotes } from '@/core/editing/notes'
import { keyName, type Note, type NoteId } from '@/core/event/note'
import { percussionNames } from '@/core/midi/generalMidi'
import { changeNotes, drawNote } from '@/core/project/commands'
import { contextOf } from '@/core/project/context'
import { soundingNotes } from '@/core/project/create'
import type { Track } from '@/core/project/schema'
import { useSize } from '../controls/useSize'
import { threadOf } from '../theme/threads'
import { useProject, useSession, useView } from '../workspace/sessionContext'
import { selectNotes } from '../workspace/viewStore'
import { canvasFont, drawBars, drawPlayhead, paperColours, prepareCanvas } from './canvas'
import { detailZoom, drawTexture, joinNotes } from './drawLane'
import { handSplit } from './handSplit'
import { firstFrom, shapesOf } from './noteShapes'
import { scrolled, type TimeView, ticksAtX, xOf, zoomAround } from './timeView'

const keyColumn = 62
const rulerHeight = 22
const velocityHeight = 46
const edgePixels = 6

type Drag =
  | {
      kind: 'move' | 'stretch'
      startX: number
      startY: number
      ids: ReadonlySet<NoteId>
      byTicks: number
      byKeys: number
    }
  | { kind: 'frame'; startX: number; startY: number; x: number; y: number; kept: ReadonlySet<NoteId> }
  | { kind: 'velocity'; startY: number; ids: ReadonlySet<NoteId>; by: number }

/** One track's notes by key and time: select, move, stretch, draw, delete and hear them. */
export const PianoRoll = memo(function PianoRoll({
  track,
  view,
  onView,
  gridTicks,
  isDrawing,
}: {
  track: Track
  view: TimeView
  onView: (view: TimeView) => void
  gridTicks: number
  isDrawing: boolean
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
  const [drag, setDrag] = useState<Drag | null>(null)

  const { topKey, rows } = useMemo(() => {
    const [low, high] = shapes.count > 0 ? [shapes.lowestKey, shapes.highestKey] : [55, 79]
    const margin = Math.max(3, Math.ceil((18 - (high - low)) / 2))
    return { topKey: Math.min(127, high + margin), rows: high - low + 1 + margin * 2 }
  }, [shapes])
  const noteArea = Math.max(40, size.height - rulerHeight - velocityHeight)
  const rowHeight = noteArea / rows
  const yOf = (key: number) => rulerHeight + (topKey - key) * rowHeight
  const keyAtY = (y: number) => Math.max(0, Math.min(127, topKey - Math.floor((y - rulerHeight) / rowHeight)))
  const width = Math.max(0, size.width - keyColumn)
  const isDrums = track.instrument.kind === 'drums'

  const shown = (note: Note): { x: number; y: number; width: number } => {
    const moved =
      drag && (drag.kind === 'move' || drag.kind === 'stretch') && drag.ids.has(note.id) ? drag : null
    const onset = note.onsetTicks + (moved?.kind === 'move' ? moved.byTicks : 0)
    const duration = note.durationTicks + (moved?.kind === 'stretch' ? moved.byTicks : 0)
    const key = note.key + (moved?.kind === 'move' ? moved.byKeys : 0)
    const x = xOf(view, onset)
    return {
      x: x + keyColumn,
      y: yOf(key),
      width: Math.max(3, xOf(view, onset + Math.max(120, duration)) - x - 1),
    }
  }

  useEffect(() => {
    const element = canvas.current
    if (!element || size.width === 0) return
    const context = prepareCanvas(element, size.width, size.height)
    drawKeys(context)
    context.save()
    context.beginPath()
    context.rect(keyColumn, 0, width, size.height)
    context.clip()
    context.translate(keyColumn, 0)
    drawBars(context, view, meterMap, width, size.height, rulerHeight)
    context.translate(-keyColumn, 0)
    const split = isDrums ? null : handSplit(track, project.scoreSettings.splitKey)
    if (split !== null) drawSplit(context, split)
    if (!isDrums && !drag && view.pixelsPerQuarter >= detailZoom) {
      context.translate(keyColumn, 0)
      const from = firstFrom(shapes, view.startTicks - shapes.longestTicks)
      joinNotes(
        context,
        shapes,
        view,
        from,
        ticksAtX(view, width),
        yOf,
        rowHeight,
        threadOf(track.thread),
        split,
      )
      context.translate(-keyColumn, 0)
    }
    drawVelocities(context)
    drawNotes(context)
    context.restore()
    if (drag?.kind === 'frame') {
      context.strokeStyle = paperColours.ink
      context.setLineDash([4, 3])
      context.strokeRect(
        Math.min(drag.startX, drag.x),
        Math.min(drag.startY, drag.y),
        Math.abs(drag.x - drag.startX),
        Math.abs(drag.y - drag.startY),
      )
      context.setLineDash([])
    }
  })

  function drawKeys(context: CanvasRenderingContext2D): void {
    context.fillStyle = paperColours.desk
    context.fillRect(0, 0, size.width, size.height)
    context.font = `11px ${canvasFont}`
    context.textAlign = 'right'
    context.textBaseline = 'middle'
    for (let key = topKey; key > topKey - rows; key--) {
      const y = yOf(key)
      const isBlack = [1, 3, 6, 8, 10].includes(key % 12)
      context.fillStyle = isBlack ? '#ECE5D4' : paperColours.desk
      context.fillRect(keyColumn, y, width, rowHeight)
      const isNamed = isDrums
        ? shapes.count > 0 && rowHeight > 9
        : key % 12 === 0 || (rowHeight > 11 && !isBlack)
      if (!isNamed) continue
      context.fillStyle = key % 12 === 0 ? paperColours.ink : paperColours.soft
      context.fillText(
        isDrums ? (percussionNames[key] ?? '').slice(0, 11) : keyName(key),
        keyColumn - 6,
        y + rowHeight / 2,
      )
    }
  }

  function drawSplit(context: CanvasRenderingContext2D, split: number): void {
    const y = Math.round(yOf(split) + rowHeight) + 0.5
    context.strokeStyle = paperColours.soft
    context.setLineDash([6, 4])
    context.beginPath()
    context.moveTo(keyColumn, y)
    context.lineTo(size.width, y)
    context.stroke()
    context.setLineDash([])
    context.fillStyle = paperColours.soft
    context.font = `600 11px ${canvasFont}`
    context.textAlign = 'right'
    context.fillText(`split ${keyName(split)}`, size.width - 8, y - 7)
  }

  function drawNotes(context: CanvasRenderingContext2D): void {
    const endTicks = ticksAtX(view, width)
    const thread = threadOf(track.thread)
    if (view.pixelsPerQuarter < detailZoom) {
      const area = { left: keyColumn, top: rulerHeight, width, height: noteArea }
      const thickness = Math.max(2, Math.min(rowHeight - 1, 13))
      drawTexture(
        context,
        shapes,
        view,
        area,
        (key) => yOf(key) - rulerHeight + (rowHeight - thickness) / 2,
        thickness,
        thread.colour,
      )
      return
    }
    for (
      let i = firstFrom(shapes, view.startTicks - shapes.longestTicks);
      i < shapes.count && shapes.onsets[i]! <= endTicks;
      i++
    ) {
      const note = notes[i]!
      const place = shown(note)
      const isSelected = selected.has(note.id)
      context.globalAlpha = 0.45 + (note.velocity / 127) * 0.55
      context.fillStyle = thread.colour
      const height = Math.max(3, Math.min(rowHeight - 1, 13))
      const y = place.y + (rowHeight - height) / 2
      context.beginPath()
      context.roundRect(place.x, y, place.width, height, Math.min(3, height / 2))
      context.fill()
      context.globalAlpha = 1
      if (isSelected) {
        context.strokeStyle = paperColours.ink
        context.lineWidth = 2
        context.stroke()
        context.lineWidth = 1
      }
    }
  }

  function drawVelocities(context: CanvasRenderingContext2D): void {
    const base = size.height - 4
    context.fillStyle = paperColours.paper
    context.fillRect(keyColumn, size.height - velocityHeight, width, velocityHeight)
    context.fillStyle = paperColours.soft
    context.font = `11px ${canvasFont}`
    context.textAlign = 'left'
    context.fillText('velocity', keyColumn + 6, size.height - velocityHeight + 9)
    const endTicks = ticksAtX(view, width)
    context.fillStyle = threadOf(track.thread).colour
    let lastColumn = -1
    for (let i = firstFrom(shapes, view.startTicks); i < shapes.count && shapes.onsets[i]! <= endTicks; i++) {
      const note = notes[i]!
      const column = Math.floor(xOf(view, note.onsetTicks))
      // Far out, one line a pixel is all that can be seen.
      if (view.pixelsPerQuarter < detailZoom && column === lastColumn) continue
      lastColumn = column
      const velocity =
        drag?.kind === 'velocity' && drag.ids.has(note.id)
          ? changedVelocity(note.velocity, drag.by)
          : note.velocity
      const height = (velocity / 127) * (velocityHeight - 8)
      context.globalAlpha = selected.has(note.id) ? 1 : 0.55
      context.fillRect(keyColumn + xOf(view, note.onsetTicks), base - height, 3, height)
    }
    context.globalAlpha = 1
  }

  useEffect(() => {
    let shownTicks = -1
    let frame = requestAnimationFrame(function draw() {
      const element = overlay.current
      const ticks = session.positionTicks()
      if (element && width > 0 && ticks !== shownTicks) {
        shownTicks = ticks
        drawPlayhead(prepareCanvas(element, width, size.height), view, ticks, size.height)
      }
      frame = requestAnimationFrame(draw)
    })
    return () => cancelAnimationFrame(frame)
  }, [session, view, width, size.height])

  const noteAt = (x: number, y: number): { note: Note; isEdge: boolean } | undefined => {
    const endTicks = ticksAtX(view, x - keyColumn)
    for (let i = shapes.count - 1; i >= 0; i--) {
      if (shapes.onsets[i]! > endTicks + 2000) continue
      if (shapes.onsets[i]! < endTicks - shapes.longestTicks - 2000) break
      const place = shown(notes[i]!)
      if (x >= place.x - 1 && x <= place.x + place.width + 2 && y >= place.y && y <= place.y + rowHeight)
        return {
          note: notes[i]!,
          isEdge: x > place.x + place.width - edgePixels && place.width > edgePixels * 2,
        }
    }
    return undefined
  }

  const snap = (ticks: number) => Math.round(ticks / gridTicks) * gridTicks
  const apply = session.store.getState().apply
  const countWord = (ids: ReadonlySet<NoteId>) => (ids.size === 1 ? 'a note' : `${ids.size} notes`)

  const drawAt = (x: number, y: number) => {
    const onsetTicks = Math.max(0, Math.floor(ticksAtX(view, x - keyColumn) / gridTicks) * gridTicks)
    const key = keyAtY(y)
    let noteId = 0
    apply('draw a note', (before) => {
      const result = drawNote(before, track.id, { onsetTicks, durationTicks: gridTicks, key, velocity: 84 })
      noteId = result.noteId
      return result.project
    })
    selectNotes([noteId])
    session.audition(track.id, key)
  }

  const onPointerDown = (event: React.PointerEvent) => {
    if (event.button !== 0) return
    event.currentTarget.setPointerCapture(event.pointerId)
    host.current?.focus()
    const box = event.currentTarget.getBoundingClientRect()
    const [x, y] = [event.clientX - box.left, event.clientY - box.top]
    if (x < keyColumn) {
      session.audition(track.id, keyAtY(y))
      return
    }
    if (y < rulerHeight) {
      session.seek(Math.max(0, Math.round(ticksAtX(view, x - keyColumn))))
      return
    }
    if (y > size.height - velocityHeight) {
      const tick = ticksAtX(view, x - keyColumn)
      const near = notes.find((note) => Math.abs(xOf(view, note.onsetTicks) - xOf(view, tick)) < 5)
      if (near) {
        const ids = selected.has(near.id) ? selected : new Set([near.id])
        selectNotes(ids)
        setDrag({ kind: 'velocity', startY: y, ids, by: 0 })
      }
      return
    }
    const hit = noteAt(x, y)
    if (hit) {
      const ids = new Set(
        selected.has(hit.note.id)
          ? selected
          : event.shiftKey || event.ctrlKey
            ? [...selected, hit.note.id]
            : [hit.note.id],
      )
      selectNotes(ids)
      session.audition(track.id, hit.note.key, hit.note.velocity)
      setDrag({ kind: hit.isEdge ? 'stretch' : 'move', startX: x, startY: y, ids, byTicks: 0, byKeys: 0 })
    } else if (isDrawing) drawAt(x, y)
    else {
      const kept = event.shiftKey ? selected : new Set<NoteId>()
      selectNotes(kept)
      setDrag({ kind: 'frame', startX: x, startY: y, x, y, kept })
    }
  }

  const onPointerMove = (event: React.PointerEvent) => {
    const box = event.currentTarget.getBoundingClientRect()
    const [x, y] = [event.clientX - box.left, event.clientY - box.top]
    if (!drag) {
      const hit = y > rulerHeight && y < size.height - velocityHeight ? noteAt(x, y) : undefined
      ;(event.currentTarget as HTMLElement).style.cursor = hit
        ? hit.isEdge
          ? 'ew-resize'
          : 'grab'
        : isDrawing
          ? 'crosshair'
          : 'default'
      return
    }
    if (drag.kind === 'frame') {
      setDrag({ ...drag, x, y })
      const [fromTicks, toTicks] = [
        ticksAtX(view, Math.min(drag.startX, x) - keyColumn),
        ticksAtX(view, Math.max(drag.startX, x) - keyColumn),
      ]
      const [lowKey, highKey] = [keyAtY(Math.max(drag.startY, y)), keyAtY(Math.min(drag.startY, y))]
      const inside = notes.filter(
        (note) =>
          note.onsetTicks <= toTicks &&
          note.onsetTicks + note.durationTicks >= fromTicks &&
          note.key >= lowKey &&
          note.key <= highKey,
      )
      selectNotes([...drag.kept, ...inside.map((note) => note.id)])
    } else if (drag.kind === 'velocity') {
      setDrag({ ...drag, by: Math.round(((drag.startY - y) / (velocityHeight - 8)) * 127) })
    } else {
      const raw = ((x - drag.startX) / view.pixelsPerQuarter) * 10_080
      const byTicks = event.altKey ? Math.round(raw) : Math.round(raw / gridTicks) * gridTicks
      const byKeys = drag.kind === 'move' ? Math.round((drag.startY - y) / rowHeight) : 0
      if (byKeys !== drag.byKeys) {
        const lead = notes.find((note) => drag.ids.has(note.id))
        if (lead) session.audition(track.id, Math.max(0, Math.min(127, lead.key + byKeys)))
      }
      setDrag({ ...drag, byTicks, byKeys })
    }
  }

  const onPointerUp = () => {
    if (drag?.kind === 'move' && (drag.byTicks !== 0 || drag.byKeys !== 0))
      apply(`move ${countWord(drag.ids)}`, (before) =>
        changeNotes(before, track.id, (old) => moveNotes(old, drag.ids, drag.byTicks, drag.byKeys)),
      )
    if (drag?.kind === 'stretch' && drag.byTicks !== 0)
      apply(`stretch ${countWord(drag.ids)}`, (before) =>
        changeNotes(before, track.id, (old) => stretchNotes(old, drag.ids, drag.byTicks)),
      )
    if (drag?.kind === 'velocity' && drag.by !== 0)
      apply(`velocity of ${countWord(drag.ids)}`, (before) =>
        changeNotes(before, track.id, (old) => changeVelocity(old, drag.ids, drag.by)),
      )
    setDrag(null)
  }

  const onKeyDown = (event: React.KeyboardEvent) => {
    const change = (label: string, edit: (old: readonly Note[]) => readonly Note[], group?: string) => {
      event.preventDefault()
      event.stopPropagation()
      apply(`${label} ${countWord(selected)}`, (before) => changeNotes(before, track.id, edit), group)
    }
    if ((event.ctrlKey || event.metaKey) && event.code === 'KeyA') {
      event.preventDefault()
      selectNotes(notes.map((note) => note.id))
      return
    }
    if (event.code === 'Enter') {
      event.preventDefault()
      const at = snap(Math.max(0, session.positionTicks()))
      drawAt(keyColumn + xOf(view, at) + 1, yOf(shapes.count > 0 ? notes.at(-1)!.key : 60) + rowHeight / 2)
      return
    }
    if (selected.size === 0) return
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
        change('move', (old) => moveNotes(old, selected, 0, byKeys), 'arrow keys')
        return
      }
      case 'ArrowLeft':
      case 'ArrowRight': {
        const by = event.code === 'ArrowRight' ? step : -step
        if (event.shiftKey) change('stretch', (old) => stretchNotes(old, selected, by), 'arrow stretch')
        else change('move', (old) => moveNotes(old, selected, by, 0), 'arrow keys')
      }
    }
  }

  useEffect(() => {
    const element = host.current
    const onWheel = (event: WheelEvent) => {
      event.preventDefault()
      const box = element!.getBoundingClientRect()
      if (event.ctrlKey || event.metaKey)
        onView(zoomAround(view, event.clientX - box.left - keyColumn, Math.exp(-event.deltaY / 300)))
      else onView(scrolled(view, event.deltaX || event.deltaY))
    }
    element?.addEventListener('wheel', onWheel, { passive: false })
    return () => element?.removeEventListener('wheel', onWheel)
  }, [view, onView])

  return (
    <div
      ref={host}
      role="application"
      tabIndex={0}
      aria-label={`Notes of ${track.name}. ${notes.length} notes, ${selected.size} selected. Arrow keys move, Shift with left and right stretches, Delete removes, Enter draws at the playing position. The same notes are in the list.`}
      className="relative h-full touch-none"
      onPointerDown={onPointerDown}
      onPointerMove={onPointerMove}
      onPointerUp={onPointerUp}
      onDoubleClick={(event) => {
        const box = event.currentTarget.getBoundingClientRect()
        const [x, y] = [event.clientX - box.left, event.clientY - box.top]
        if (
          !isDrawing &&
          x > keyColumn &&
          y > rulerHeight &&
          y < size.height - velocityHeight &&
          !noteAt(x, y)
        )
          drawAt(x, y)
      }}
      onKeyDown={onKeyDown}
    >
      <canvas ref={canvas} className="absolute inset-0" aria-hidden />
      <canvas
        ref={overlay}
        className="pointer-events-none absolute top-0"
        style={{ left: keyColumn }}
        aria-hidden
      />
    </div>
  )
})
