import { keyName, type Note, type NoteId } from '@/core/event/note'
import type { Section } from '@/core/project/schema'
import type { MeterMap } from '@/core/time/meterMap'
import type { Thread } from '../../theme/threads'
import { canvasFont, drawBars, drawSections, paperColours } from '../canvas'
import { detailZoom, drawTexture, joinNotes } from '../drawLane'
import { firstFrom, type NoteShapes } from '../noteShapes'
import type { Strands } from '../strands'
import { ticksAtX } from '../timeView'
import { type HeardPitch, paintHeardPitch } from './heardPitch'
import { noteBox, type RollGeometry, rulerHeight, velocityHeight } from './rollGeometry'
import { previewed, type RollGesture } from './rollGesture'

/** Everything that is seen of a track in the roll. */
export interface RollPicture {
  readonly geometry: RollGeometry
  readonly notes: readonly Note[]
  readonly shapes: NoteShapes
  readonly selected: ReadonlySet<NoteId>
  readonly gesture: RollGesture | null
  readonly thread: Thread
  readonly meterMap: MeterMap
  readonly sections: readonly Section[]
  /** What a key is called beside its row. */
  keyNameOf(key: number): string
  /** Key at which the hands are split; null where they are not. */
  readonly splitKey: number | null
  /** Lines that the notes are told apart into. */
  readonly strands: Strands
  /** Other tracks, shown faintly. */
  readonly behind: readonly NotesBehind[]
  /** Notes whose line is in doubt. */
  readonly doubtful: ReadonlySet<NoteId>
  /** What was heard of the sound the notes were made of. */
  readonly heard: readonly HeardPitch[]
}

/** Notes of another track, behind those that are worked on. */
export interface NotesBehind {
  readonly trackId: string
  readonly notes: readonly Note[]
  readonly shapes: NoteShapes
  readonly thread: Thread
}

export function paintRoll(context: CanvasRenderingContext2D, picture: RollPicture): void {
  const { geometry, gesture, splitKey } = picture
  const { view, width, size } = geometry
  paintKeys(context, picture)
  context.save()
  context.beginPath()
  context.rect(geometry.left, 0, width, size.height)
  context.clip()
  context.translate(geometry.left, 0)
  drawBars(context, view, picture.meterMap, width, size.height, rulerHeight)
  drawSections(context, view, picture.sections, width, rulerHeight)
  context.translate(-geometry.left, 0)
  if (splitKey !== null) paintSplit(context, geometry, splitKey)
  if (!geometry.isKit && !gesture && view.pixelsPerQuarter >= detailZoom) {
    const { shapes } = picture
    context.translate(geometry.left, 0)
    const from = firstFrom(shapes, view.startTicks - shapes.longestTicks)
    const until = ticksAtX(view, width)
    joinNotes(context, shapes, view, from, until, geometry.yOf, geometry.rowHeight, picture.strands)
    context.translate(-geometry.left, 0)
  }
  paintVelocities(context, picture)
  for (const other of picture.behind) paintBehind(context, geometry, other)
  paintNotes(context, picture)
  paintHeardPitch(context, geometry, picture.heard)
  context.restore()
  if (gesture?.kind === 'frame') paintFrame(context, gesture)
  if (gesture?.kind === 'ramp') paintRamp(context, gesture)
}

function paintRamp(context: CanvasRenderingContext2D, { start, end }: RollGesture & { kind: 'ramp' }): void {
  context.strokeStyle = paperColours.ink
  context.lineWidth = 2
  context.beginPath()
  context.moveTo(start.x, start.y)
  context.lineTo(end.x, end.y)
  context.stroke()
  context.lineWidth = 1
}

function paintFrame(
  context: CanvasRenderingContext2D,
  { start, end }: RollGesture & { kind: 'frame' },
): void {
  context.strokeStyle = paperColours.ink
  context.setLineDash([4, 3])
  context.strokeRect(
    Math.min(start.x, end.x),
    Math.min(start.y, end.y),
    Math.abs(end.x - start.x),
    Math.abs(end.y - start.y),
  )
  context.setLineDash([])
}

function paintKeys(context: CanvasRenderingContext2D, { geometry, keyNameOf }: RollPicture): void {
  const { size, width, left, rowKeys, rowHeight, isKit } = geometry
  context.fillStyle = paperColours.desk
  context.fillRect(0, 0, size.width, size.height)
  context.font = `11px ${canvasFont}`
  context.textAlign = 'right'
  context.textBaseline = 'middle'
  for (const [row, key] of rowKeys.entries()) {
    const y = geometry.yOf(key)
    const isDark = isKit ? row % 2 === 1 : [1, 3, 6, 8, 10].includes(key % 12)
    context.fillStyle = isDark ? '#ECE5D4' : paperColours.desk
    context.fillRect(left, y, width, rowHeight)
    const isNamed = isKit ? rowHeight > 9 : key % 12 === 0 || (rowHeight > 11 && !isDark)
    if (!isNamed) continue
    context.fillStyle = isKit || key % 12 === 0 ? paperColours.ink : paperColours.soft
    context.fillText(keyNameOf(key), left - 6, y + rowHeight / 2, left - 10)
  }
}

function paintSplit(context: CanvasRenderingContext2D, geometry: RollGeometry, splitKey: number): void {
  const { width } = geometry.size
  const y = Math.round(geometry.yOf(splitKey) + geometry.rowHeight) + 0.5
  context.strokeStyle = paperColours.soft
  context.setLineDash([6, 4])
  context.beginPath()
  context.moveTo(geometry.left, y)
  context.lineTo(width, y)
  context.stroke()
  context.setLineDash([])
  context.fillStyle = paperColours.soft
  context.font = `600 11px ${canvasFont}`
  context.textAlign = 'right'
  context.fillText(`split ${keyName(splitKey)}`, width - 8, y - 7)
}

function paintBehind(
  context: CanvasRenderingContext2D,
  geometry: RollGeometry,
  { notes, shapes, thread }: NotesBehind,
): void {
  const { view, width } = geometry
  if (view.pixelsPerQuarter < detailZoom) return
  const endTicks = ticksAtX(view, width)
  context.globalAlpha = 0.22
  context.fillStyle = thread.colour
  for (
    let i = firstFrom(shapes, view.startTicks - shapes.longestTicks);
    i < shapes.count && shapes.onsets[i]! <= endTicks;
    i++
  ) {
    const box = noteBox(geometry, notes[i]!)
    context.fillRect(box.x, box.y, box.width, box.height)
  }
  context.globalAlpha = 1
}

function paintNotes(context: CanvasRenderingContext2D, picture: RollPicture): void {
  const { geometry, notes, shapes, gesture, strands, doubtful } = picture
  const { view, width, noteArea, rowHeight } = geometry
  if (view.pixelsPerQuarter < detailZoom) {
    const area = { left: geometry.left, top: rulerHeight, width, height: noteArea }
    const thickness = Math.max(2, Math.min(rowHeight - 1, 13))
    const yInArea = (key: number) => geometry.yOf(key) - rulerHeight + (rowHeight - thickness) / 2
    const colourOf = (index: number) => strands.threadOf(strands.of(index)).colour
    drawTexture(context, shapes, view, area, yInArea, thickness, colourOf)
    return
  }
  const endTicks = ticksAtX(view, width)
  context.font = `700 10px ${canvasFont}`
  context.textBaseline = 'middle'
  for (
    let i = firstFrom(shapes, view.startTicks - shapes.longestTicks);
    i < shapes.count && shapes.onsets[i]! <= endTicks;
    i++
  ) {
    const note = previewed(notes[i]!, gesture, geometry)
    const box = noteBox(geometry, note)
    context.globalAlpha = 0.45 + (note.velocity / 127) * 0.55
    const strand = strands.of(i)
    context.fillStyle = strands.threadOf(strand).colour
    context.beginPath()
    if (geometry.isKit) strokeMark(context, box, note.velocity)
    else context.roundRect(box.x, box.y, box.width, box.height, Math.min(3, box.height / 2))
    context.fill()
    context.globalAlpha = 1
    if (picture.selected.has(note.id)) {
      context.strokeStyle = paperColours.ink
      context.lineWidth = 2
      context.stroke()
      context.lineWidth = 1
    }
    const mark = strands.markOf(strand)
    if (mark !== null && box.width > 11 && box.height > 8) {
      context.fillStyle = '#ffffff'
      context.textAlign = 'left'
      context.fillText(mark, box.x + 3, box.y + box.height / 2 + 0.5)
    }
    if (doubtful.has(note.id)) paintDoubt(context, box)
  }
}

/** A stroke of a kit: a square on its point, larger where it is louder. */
function strokeMark(
  context: CanvasRenderingContext2D,
  { x, y, width, height }: ReturnType<typeof noteBox>,
  velocity: number,
): void {
  const reach = (width / 2) * (0.6 + (velocity / 127) * 0.4)
  const [middleX, middleY] = [x + width / 2, y + height / 2]
  context.moveTo(middleX - reach, middleY)
  context.lineTo(middleX, middleY - reach)
  context.lineTo(middleX + reach, middleY)
  context.lineTo(middleX, middleY + reach)
  context.closePath()
}

/** A note whose line is in doubt: a question mark above it, and a frame of dashes. */
function paintDoubt(context: CanvasRenderingContext2D, box: ReturnType<typeof noteBox>): void {
  context.strokeStyle = paperColours.ink
  context.fillStyle = paperColours.ink
  context.setLineDash([2, 2])
  context.strokeRect(box.x - 1.5, box.y - 1.5, box.width + 3, box.height + 3)
  context.setLineDash([])
  context.textAlign = 'left'
  context.font = `700 12px ${canvasFont}`
  context.fillText('?', box.x + 1, box.y - 7)
  context.font = `700 10px ${canvasFont}`
}

function paintVelocities(context: CanvasRenderingContext2D, picture: RollPicture): void {
  const { geometry, notes, shapes, gesture } = picture
  const { view, width, size, left } = geometry
  const base = size.height - 4
  context.fillStyle = paperColours.paper
  context.fillRect(left, size.height - velocityHeight, width, velocityHeight)
  context.fillStyle = paperColours.soft
  context.font = `11px ${canvasFont}`
  context.textAlign = 'left'
  context.fillText('velocity', left + 6, size.height - velocityHeight + 9)
  const endTicks = ticksAtX(view, width)
  context.fillStyle = picture.thread.colour
  let lastColumn = -1
  for (let i = firstFrom(shapes, view.startTicks); i < shapes.count && shapes.onsets[i]! <= endTicks; i++) {
    const x = geometry.xOf(shapes.onsets[i]!)
    const column = Math.floor(x)
    // Far out, one line a pixel is all that can be seen.
    if (view.pixelsPerQuarter < detailZoom && column === lastColumn) continue
    lastColumn = column
    const { id, velocity } =
      gesture?.kind === 'velocity' ? previewed(notes[i]!, gesture, geometry) : notes[i]!
    const height = (velocity / 127) * (velocityHeight - 8)
    context.globalAlpha = picture.selected.has(id) ? 1 : 0.55
    context.fillRect(x, base - height, 3, height)
  }
  context.globalAlpha = 1
}
