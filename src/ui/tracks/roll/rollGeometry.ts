import type { Note } from '@/core/event/note'
import type { Ticks } from '@/core/time/units'
import { firstFrom, type NoteShapes } from '../noteShapes'
import { type TimeView, ticksAtX, xOf } from '../timeView'

/** Width of the column of keys; names of drums need more. */
export const keyColumn = 62
export const drumColumn = 128
export const rulerHeight = 22
export const velocityHeight = 46
/** So near to a note's end a press takes hold of the end. */
const edgePixels = 6
/** Rows that are shown at least. */
const fewestRows = 18
const tallestNote = 13

export interface Point {
  readonly x: number
  readonly y: number
}

/** What lies under a point of the roll. */
export type RollRegion = 'keys' | 'ruler' | 'velocities' | 'notes'

/** Where keys and moments lie in a roll of a given size, in pixels from its upper left corner. */
export interface RollGeometry {
  readonly size: { readonly width: number; readonly height: number }
  /** Width of the column of keys. */
  readonly left: number
  /** Width of what is beside it. */
  readonly width: number
  /** Rows of a kit: strokes are marks without a length. */
  readonly isKit: boolean
  readonly noteArea: number
  /** The keys that have a row, from the top down. */
  readonly rowKeys: readonly number[]
  readonly rowHeight: number
  readonly view: TimeView
  /** Top of a key's row; out of sight for a key without one. */
  yOf(key: number): number
  keyAt(y: number): number
  /** The key so many rows above another one; it stays on the keyboard and among the rows of a kit. */
  keyAbove(key: number, rows: number): number
  xOf(tick: Ticks): number
  ticksAt(x: number): Ticks
}

/** The keys that are shown. */
export type KeyRange = Pick<NoteShapes, 'count' | 'lowestKey' | 'highestKey'>

/** The keys of several tracks together. */
export function keyRangeOf(all: readonly KeyRange[]): KeyRange {
  const own = all.filter(({ count }) => count > 0)
  return {
    count: own.reduce((sum, { count }) => sum + count, 0),
    lowestKey: own.reduce((low, { lowestKey }) => Math.min(low, lowestKey), 127),
    highestKey: own.reduce((high, { highestKey }) => Math.max(high, highestKey), 0),
  }
}

/**
 * @param kitKeys the keys of a kit that have a row, from the top down; null for all keys in the range
 */
export function rollGeometry(
  shapes: KeyRange,
  size: { readonly width: number; readonly height: number },
  view: TimeView,
  kitKeys: readonly number[] | null = null,
): RollGeometry {
  const isKit = kitKeys !== null
  const rowKeys = kitKeys ?? keysAround(shapes)
  const rowOf = new Map(rowKeys.map((key, row) => [key, row]))
  const noteArea = Math.max(40, size.height - rulerHeight - velocityHeight)
  const rowHeight = noteArea / rowKeys.length
  const left = isKit ? drumColumn : keyColumn
  const yOfRow = (row: number) => rulerHeight + row * rowHeight
  const outOfSight = -1000
  return {
    size,
    left,
    width: Math.max(0, size.width - left),
    isKit,
    noteArea,
    rowKeys,
    rowHeight,
    view,
    yOf: (key) =>
      isKit ? (rowOf.has(key) ? yOfRow(rowOf.get(key)!) : outOfSight) : yOfRow(rowKeys[0]! - key),
    keyAt: (y) =>
      rowKeys[Math.max(0, Math.min(rowKeys.length - 1, Math.floor((y - rulerHeight) / rowHeight)))]!,
    keyAbove: (key, rows) => {
      const row = rowOf.get(key)
      if (!isKit || row === undefined) return key + rows
      return rowKeys[Math.max(0, Math.min(rowKeys.length - 1, row - rows))]!
    },
    xOf: (tick) => left + xOf(view, tick),
    ticksAt: (x) => ticksAtX(view, x - left),
  }
}

/** The keys of a range with some around them. */
function keysAround({ count, lowestKey, highestKey }: KeyRange): number[] {
  const [low, high] = count > 0 ? [lowestKey, highestKey] : [55, 79]
  const margin = Math.max(3, Math.ceil((fewestRows - (high - low)) / 2))
  const top = Math.min(127, high + margin)
  const bottom = Math.max(0, top - (high - low + margin * 2))
  return Array.from({ length: top - bottom + 1 }, (_, row) => top - row)
}

export function regionAt({ size, left }: RollGeometry, { x, y }: Point): RollRegion {
  if (x < left) return 'keys'
  if (y < rulerHeight) return 'ruler'
  return y > size.height - velocityHeight ? 'velocities' : 'notes'
}

/** The box of a note; at least as wide as can be seen and pressed. */
export function noteBox(
  geometry: RollGeometry,
  { onsetTicks, durationTicks, key }: Pick<Note, 'onsetTicks' | 'durationTicks' | 'key'>,
): { readonly x: number; readonly y: number; readonly width: number; readonly height: number } {
  const x = geometry.xOf(onsetTicks)
  const height = Math.max(3, Math.min(geometry.rowHeight - 1, tallestNote))
  if (geometry.isKit) {
    const side = Math.max(6, height)
    return {
      x: x - side / 2,
      y: geometry.yOf(key) + (geometry.rowHeight - side) / 2,
      width: side,
      height: side,
    }
  }
  return {
    x,
    y: geometry.yOf(key) + (geometry.rowHeight - height) / 2,
    width: Math.max(3, geometry.xOf(onsetTicks + Math.max(120, durationTicks)) - x - 1),
    height,
  }
}

/** The note under a point, the later one where two overlap, and whether it is held by its end. */
export function noteAt(
  geometry: RollGeometry,
  shapes: NoteShapes,
  notes: readonly Note[],
  { x, y }: Point,
): { readonly note: Note; readonly isEdge: boolean } | undefined {
  const reachTicks = 2000
  const pressedTicks = geometry.ticksAt(x)
  const first = firstFrom(shapes, pressedTicks - shapes.longestTicks - reachTicks)
  for (let i = firstFrom(shapes, pressedTicks + reachTicks) - 1; i >= first; i--) {
    const note = notes[i]!
    const box = noteBox(geometry, note)
    const rowTop = geometry.yOf(note.key)
    if (x >= box.x - 1 && x <= box.x + box.width + 2 && y >= rowTop && y <= rowTop + geometry.rowHeight)
      return {
        note,
        isEdge: !geometry.isKit && x > box.x + box.width - edgePixels && box.width > edgePixels * 2,
      }
  }
  return undefined
}
