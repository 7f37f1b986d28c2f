import type { Note } from '@/core/event/note'
import type { Ticks } from '@/core/time/units'
import { firstFrom, type NoteShapes } from '../noteShapes'
import { type TimeView, ticksAtX, xOf } from '../timeView'

export const keyColumn = 62
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
  /** Width of what is beside the column of keys. */
  readonly width: number
  readonly noteArea: number
  readonly topKey: number
  readonly rows: number
  readonly rowHeight: number
  readonly view: TimeView
  yOf(key: number): number
  keyAt(y: number): number
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

export function rollGeometry(
  shapes: KeyRange,
  size: { readonly width: number; readonly height: number },
  view: TimeView,
): RollGeometry {
  const [low, high] = shapes.count > 0 ? [shapes.lowestKey, shapes.highestKey] : [55, 79]
  const margin = Math.max(3, Math.ceil((fewestRows - (high - low)) / 2))
  const topKey = Math.min(127, high + margin)
  const rows = high - low + 1 + margin * 2
  const noteArea = Math.max(40, size.height - rulerHeight - velocityHeight)
  const rowHeight = noteArea / rows
  return {
    size,
    width: Math.max(0, size.width - keyColumn),
    noteArea,
    topKey,
    rows,
    rowHeight,
    view,
    yOf: (key) => rulerHeight + (topKey - key) * rowHeight,
    keyAt: (y) => Math.max(0, Math.min(127, topKey - Math.floor((y - rulerHeight) / rowHeight))),
    xOf: (tick) => keyColumn + xOf(view, tick),
    ticksAt: (x) => ticksAtX(view, x - keyColumn),
  }
}

export function regionAt({ size }: RollGeometry, { x, y }: Point): RollRegion {
  if (x < keyColumn) return 'keys'
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
      return { note, isEdge: x > box.x + box.width - edgePixels && box.width > edgePixels * 2 }
  }
  return undefined
}
