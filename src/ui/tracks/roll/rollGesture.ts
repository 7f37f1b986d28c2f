import { changedVelocity, changeVelocity, moveNotes, moveStrokes, stretchNotes } from '@/core/editing/notes'
import type { Note, NoteId } from '@/core/event/note'
import { TICKS_PER_QUARTER, type Ticks } from '@/core/time/units'
import { type Point, type RollGeometry, velocityHeight } from './rollGeometry'

/** What a pointer that is down is doing; the notes change when it is lifted. */
export type RollGesture =
  | {
      readonly kind: 'move' | 'stretch'
      readonly start: Point
      readonly ids: ReadonlySet<NoteId>
      readonly byTicks: Ticks
      /** Keys, or rows of a kit. */
      readonly byKeys: number
    }
  | {
      readonly kind: 'frame'
      readonly start: Point
      readonly end: Point
      /** Selected before, and kept. */
      readonly kept: ReadonlySet<NoteId>
    }
  | {
      /** A line over the velocities: notes under it are as loud as it says. */
      readonly kind: 'ramp'
      readonly start: Point
      readonly end: Point
    }
  | {
      readonly kind: 'velocity'
      readonly start: Point
      readonly ids: ReadonlySet<NoteId>
      readonly by: number
    }

/** The gesture after its pointer came to a point. @param gridTicks null: free of the grid */
export function dragged(
  gesture: RollGesture,
  to: Point,
  geometry: RollGeometry,
  gridTicks: Ticks | null,
): RollGesture {
  switch (gesture.kind) {
    case 'frame':
    case 'ramp':
      return { ...gesture, end: to }
    case 'velocity':
      return { ...gesture, by: Math.round(((gesture.start.y - to.y) / (velocityHeight - 8)) * 127) }
    default: {
      const ticks = ((to.x - gesture.start.x) / geometry.view.pixelsPerQuarter) * TICKS_PER_QUARTER
      const grid = gridTicks ?? 1
      return {
        ...gesture,
        byTicks: Math.round(ticks / grid) * grid,
        byKeys: gesture.kind === 'move' ? Math.round((gesture.start.y - to.y) / geometry.rowHeight) : 0,
      }
    }
  }
}

/** Notes that sound inside a frame, with those that were selected before. */
export function framedNotes(
  { start, end, kept }: RollGesture & { kind: 'frame' },
  geometry: RollGeometry,
  notes: readonly Note[],
): NoteId[] {
  const fromTicks = geometry.ticksAt(Math.min(start.x, end.x))
  const toTicks = geometry.ticksAt(Math.max(start.x, end.x))
  const lowKey = geometry.keyAt(Math.max(start.y, end.y))
  const highKey = geometry.keyAt(Math.min(start.y, end.y))
  const inside = notes.filter(
    ({ onsetTicks, durationTicks, key }) =>
      onsetTicks <= toTicks && onsetTicks + durationTicks >= fromTicks && key >= lowKey && key <= highKey,
  )
  return [...new Set([...kept, ...inside.map(({ id }) => id)])]
}

/** A note as it would be if the pointer were lifted now. */
export function previewed(note: Note, gesture: RollGesture | null, geometry: RollGeometry): Note {
  if (!gesture || gesture.kind === 'frame' || gesture.kind === 'ramp' || !gesture.ids.has(note.id))
    return note
  switch (gesture.kind) {
    case 'move':
      return {
        ...note,
        onsetTicks: note.onsetTicks + gesture.byTicks,
        key: geometry.keyAbove(note.key, gesture.byKeys),
      }
    case 'stretch':
      return { ...note, durationTicks: note.durationTicks + gesture.byTicks }
    case 'velocity':
      return { ...note, velocity: changedVelocity(note.velocity, gesture.by) }
  }
}

/** What lifting the pointer changes; null for nothing. */
export function completed(
  gesture: RollGesture,
  geometry: RollGeometry,
  selected: ReadonlySet<NoteId>,
): {
  readonly label: string
  readonly edit: (notes: readonly Note[], together?: readonly Note[]) => readonly Note[]
} | null {
  switch (gesture.kind) {
    case 'frame':
      return null
    case 'ramp': {
      const ramp = rampOf(gesture, geometry)
      const isUnder = (note: Note) =>
        note.onsetTicks >= ramp.fromTicks &&
        note.onsetTicks <= ramp.toTicks &&
        (selected.size === 0 || selected.has(note.id))
      return ramp.toTicks - ramp.fromTicks < 1
        ? null
        : {
            label: 'ramp of velocities',
            edit: (notes) =>
              notes.map((note) =>
                isUnder(note) ? { ...note, velocity: ramp.velocityAt(note.onsetTicks) } : note,
              ),
          }
    }
    case 'velocity':
      return gesture.by === 0
        ? null
        : {
            label: `velocity of ${countOfNotes(gesture.ids)}`,
            edit: (notes) => changeVelocity(notes, gesture.ids, gesture.by),
          }
    case 'move':
      return gesture.byTicks === 0 && gesture.byKeys === 0
        ? null
        : {
            label: `move ${countOfNotes(gesture.ids)}`,
            edit: (notes, together) =>
              geometry.isKit
                ? moveStrokes(
                    notes,
                    gesture.ids,
                    gesture.byTicks,
                    (key) => geometry.keyAbove(key, gesture.byKeys),
                    together,
                  )
                : moveNotes(notes, gesture.ids, gesture.byTicks, gesture.byKeys, together),
          }
    case 'stretch':
      return gesture.byTicks === 0
        ? null
        : {
            label: `stretch ${countOfNotes(gesture.ids)}`,
            edit: (notes) => stretchNotes(notes, gesture.ids, gesture.byTicks),
          }
  }
}

export function countOfNotes(ids: ReadonlySet<NoteId>): string {
  return ids.size === 1 ? 'a note' : `${ids.size} notes`
}

/** The line of a ramp as velocities over time. */
export function rampOf({ start, end }: RollGesture & { kind: 'ramp' }, geometry: RollGeometry) {
  const [from, to] = start.x <= end.x ? [start, end] : [end, start]
  const velocityOf = (y: number) =>
    Math.max(1, Math.min(127, Math.round(((geometry.size.height - 4 - y) / (velocityHeight - 8)) * 127)))
  const [fromTicks, toTicks] = [geometry.ticksAt(from.x), geometry.ticksAt(to.x)]
  const [low, high] = [velocityOf(from.y), velocityOf(to.y)]
  return {
    fromTicks,
    toTicks,
    velocityAt: (tick: Ticks) =>
      Math.round(low + ((high - low) * (tick - fromTicks)) / Math.max(1, toTicks - fromTicks)),
  }
}
