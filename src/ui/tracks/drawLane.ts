import { TICKS_PER_QUARTER, type Ticks } from '@/core/time/units'
import type { LiveNote } from '@/state/liveNotes'
import type { Thread } from '../theme/threads'
import { firstFrom, type NoteShapes } from './noteShapes'
import { handStrands, type Strands } from './strands'
import { type TimeView, ticksAtX, xOf } from './timeView'

/** Below this many pixels a quarter, single notes cannot be told apart and a lane is drawn as texture. */
export const detailZoom = 14

/** Notes that begin within this much of each other are joined as one chord: 25 ms at 120 bpm. */
const chordTicks: Ticks = 500
/** Over a rest longer than this no line is drawn. */
const longestJoinTicks: Ticks = 2 * TICKS_PER_QUARTER

/**
 * One track's notes in a lane: strokes at their height, joined by a fine line while there is room to see it. Far out,
 * notes that would cover the same pixels are drawn once, so that 100,000 notes cost no more than the lane has pixels.
 */
export function drawLane(
  context: CanvasRenderingContext2D,
  shapes: NoteShapes,
  view: TimeView,
  lane: { readonly top: number; readonly height: number; readonly width: number },
  thread: Thread,
  isDim: boolean,
  splitKey: number | null = null,
  /** Strokes of a kit are no line. */
  isJoined = true,
): void {
  if (shapes.count === 0) return
  const endTicks = ticksAtX(view, lane.width)
  const from = firstFrom(shapes, view.startTicks - shapes.longestTicks)
  const span = Math.max(11, shapes.highestKey - shapes.lowestKey)
  const rowHeight = Math.max(2, Math.min(5, (lane.height - 10) / (span + 1)))
  const yOf = (key: number) =>
    lane.top + 5 + ((shapes.highestKey - key) / span) * (lane.height - 10 - rowHeight)
  context.globalAlpha = isDim ? 0.35 : 1
  context.fillStyle = thread.colour
  if (view.pixelsPerQuarter >= detailZoom) {
    if (isJoined)
      joinNotes(context, shapes, view, from, endTicks, yOf, rowHeight, handStrands(shapes, thread, splitKey))
    for (let i = from; i < shapes.count && shapes.onsets[i]! <= endTicks; i++) {
      const x = xOf(view, shapes.onsets[i]!)
      const width = Math.max(2, xOf(view, shapes.ends[i]!) - x - 1)
      if (x + width < 0) continue
      context.fillRect(x, yOf(shapes.keys[i]!), width, rowHeight)
    }
  } else {
    drawTexture(
      context,
      shapes,
      view,
      { left: 0, ...lane },
      (key) => yOf(key) - lane.top,
      rowHeight,
      () => thread.colour,
    )
  }
  context.globalAlpha = 1
}

let texture: HTMLCanvasElement | undefined
const images = new Map<string, ImageData>()

/** A clear picture of a size, used again: making one for each lane and frame would keep the collector busy. */
function emptyImage(context: CanvasRenderingContext2D, width: number, height: number): ImageData {
  const size = `${width} ${height}`
  let image = images.get(size)
  if (image) image.data.fill(0)
  else {
    if (images.size > 4) images.clear()
    image = context.createImageData(width, height)
    images.set(size, image)
  }
  return image
}

/**
 * Notes from far away: pixels set one by one in a picture, which costs what the picture holds and not what the notes
 * are.
 *
 * @param yOf top of a key's row, from the top of the area
 */
export function drawTexture(
  context: CanvasRenderingContext2D,
  shapes: NoteShapes,
  view: TimeView,
  area: { readonly left: number; readonly top: number; readonly width: number; readonly height: number },
  yOf: (key: number) => number,
  rowHeight: number,
  colourOf: (index: number) => string,
): void {
  const width = Math.max(1, Math.ceil(area.width))
  const height = Math.max(1, Math.ceil(area.height))
  texture ??= document.createElement('canvas')
  if (texture.width !== width || texture.height !== height) {
    texture.width = width
    texture.height = height
  }
  const picture = texture.getContext('2d', { willReadFrequently: true })!
  const image = emptyImage(picture, width, height)
  const pixels = new Uint32Array(image.data.buffer)
  const pixelsByColour = new Map<string, number>()
  const pixelOf = (colour: string): number => {
    let pixel = pixelsByColour.get(colour)
    if (pixel === undefined) {
      // Bytes lie as red, green, blue, alpha: the lowest first.
      const value = Number.parseInt(colour.slice(1), 16)
      pixel = (0xff000000 | ((value & 0xff) << 16) | (value & 0xff00) | (value >> 16)) >>> 0
      pixelsByColour.set(colour, pixel)
    }
    return pixel
  }
  const rows = Math.max(1, Math.round(rowHeight))
  const pixelsPerTick = view.pixelsPerQuarter / TICKS_PER_QUARTER
  const covered = new Int32Array(128).fill(-1)
  const endTicks = ticksAtX(view, width)
  const tops = Array.from({ length: 128 }, (_, key) => Math.round(yOf(key)))
  for (let i = firstFrom(shapes, view.startTicks - shapes.longestTicks); i < shapes.count; i++) {
    const onset = shapes.onsets[i]!
    if (onset > endTicks) break
    const key = shapes.keys[i]!
    const start = Math.max(0, Math.floor((onset - view.startTicks) * pixelsPerTick), covered[key]!)
    const end = Math.min(
      width,
      Math.max(start + 1, Math.floor((shapes.ends[i]! - view.startTicks) * pixelsPerTick)),
    )
    if (end <= covered[key]! || end <= 0) continue
    covered[key] = end
    const top = tops[key]!
    const pixel = pixelOf(colourOf(i))
    for (let y = Math.max(0, top); y < Math.min(height, top + rows); y++)
      pixels.fill(pixel, y * width + start, y * width + end)
  }
  picture.putImageData(image, 0, 0)
  context.drawImage(texture, area.left, area.top, width, height)
}

/**
 * Joins the notes of each strand by a fine line. Where notes of one sound together the line follows the highest of an upper strand
 * and the lowest of a lower one.
 */
export function joinNotes(
  context: CanvasRenderingContext2D,
  shapes: NoteShapes,
  view: TimeView,
  from: number,
  endTicks: number,
  yOf: (key: number) => number,
  rowHeight: number,
  strands: Strands,
): void {
  context.lineWidth = 0.8
  for (let strand = 0; strand < strands.count; strand++) {
    const thread = strands.threadOf(strand)
    const isUpper = strands.isUpper(strand)
    const isLedBy = (other: number, index: number, isSame: boolean) => {
      if (strands.of(other) !== strand) return false
      const [key, own] = [shapes.keys[other]!, shapes.keys[index]!]
      return (isUpper ? key > own : key < own) || (isSame && key === own)
    }
    let previous = -1
    context.strokeStyle = thread.colour
    context.setLineDash([...thread.dash])
    context.beginPath()
    for (let i = Math.max(0, from - 8); i < shapes.count && shapes.onsets[i]! <= endTicks; i++) {
      if (strands.of(i) !== strand) continue
      let leads = true
      for (
        let other = i + 1;
        leads && other < shapes.count && shapes.onsets[other]! - shapes.onsets[i]! < chordTicks;
        other++
      )
        leads = !isLedBy(other, i, false)
      for (
        let other = i - 1;
        leads && other >= 0 && shapes.onsets[i]! - shapes.onsets[other]! < chordTicks;
        other--
      )
        leads = !isLedBy(other, i, true)
      if (!leads) continue
      if (previous >= 0 && shapes.onsets[i]! - shapes.ends[previous]! < longestJoinTicks) {
        // A note that sounds on past the next is left where the next begins: no line goes back in time.
        const leaveTicks = Math.min(shapes.ends[previous]!, shapes.onsets[i]!)
        context.moveTo(xOf(view, leaveTicks) - 1, yOf(shapes.keys[previous]!) + rowHeight / 2)
        context.lineTo(xOf(view, shapes.onsets[i]!), yOf(shapes.keys[i]!) + rowHeight / 2)
      }
      previous = i
    }
    context.stroke()
  }
  context.setLineDash([])
}

/** Notes that are being recorded right now, growing while their keys are down. */
export function drawLiveNotes(
  context: CanvasRenderingContext2D,
  notes: readonly LiveNote[],
  nowTicks: number,
  view: TimeView,
  lane: { readonly top: number; readonly height: number },
  thread: Thread,
): void {
  if (notes.length === 0) return
  let [lowest, highest] = [127, 0]
  for (const note of notes) {
    lowest = Math.min(lowest, note.key)
    highest = Math.max(highest, note.key)
  }
  const span = Math.max(11, highest - lowest)
  context.fillStyle = thread.colour
  const currentPass = notes.at(-1)!.pass
  for (const note of notes) {
    // Earlier turns of a loop stay as a shadow.
    context.globalAlpha = note.pass === currentPass ? 1 : 0.25
    const x = xOf(view, note.onsetTicks)
    const end = note.endTicks ?? (note.pass === currentPass ? nowTicks : note.onsetTicks)
    const width = Math.max(2, xOf(view, end) - x)
    context.fillRect(x, lane.top + 5 + ((highest - note.key) / span) * (lane.height - 14), width, 4)
  }
  context.globalAlpha = 1
}
