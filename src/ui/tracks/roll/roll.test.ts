import fc from 'fast-check'
import type { Note } from '@/core/event/note'
import { shapesOf } from '../noteShapes'
import {
  keyColumn,
  noteAt,
  noteBox,
  regionAt,
  rollGeometry,
  rulerHeight,
  velocityHeight,
} from './rollGeometry'
import { completed, dragged, framedNotes, previewed, type RollGesture } from './rollGesture'

const quarter = 10_080
const note = (id: number, onset: number, key: number, length = 1): Note => ({
  id,
  onsetTicks: onset * quarter,
  durationTicks: length * quarter,
  key,
  velocity: 64,
  releaseVelocity: 64,
  channel: 1,
  origin: { kind: 'drawn' },
})
const notes = [note(1, 0, 60), note(2, 1, 64), note(3, 1.5, 64), note(4, 4, 72, 2)]
const shapes = shapesOf(notes)
const size = { width: 900, height: 500 }
const view = { startTicks: 0, pixelsPerQuarter: 80 }
const roll = rollGeometry(shapes, size, view)

const anyRoll = fc
  .record({
    startTicks: fc.integer({ min: 0, max: 2 * quarter }),
    pixelsPerQuarter: fc.double({ min: 5, max: 400, noNaN: true }),
    height: fc.integer({ min: 150, max: 1200 }),
  })
  .map(({ height, ...anyView }) => rollGeometry(shapes, { width: 900, height }, anyView))

test('keys and moments are found again where they are drawn, at any size and zoom', () => {
  fc.assert(
    fc.property(
      anyRoll,
      fc.integer({ min: 58, max: 74 }),
      fc.integer({ min: 0, max: 9 * quarter }),
      (geometry, key, tick) => {
        expect(geometry.keyAt(geometry.yOf(key) + geometry.rowHeight / 2)).toBe(key)
        expect(geometry.ticksAt(geometry.xOf(tick))).toBeCloseTo(tick, 3)
      },
    ),
  )
})

test('a press in the middle of a note takes that note, or one that lies over it', () => {
  fc.assert(
    fc.property(anyRoll, fc.constantFrom(...notes), (geometry, pressed) => {
      const box = noteBox(geometry, pressed)
      const hit = noteAt(geometry, shapes, notes, { x: box.x + box.width / 2, y: box.y + box.height / 2 })!
      expect(hit.note.key).toBe(pressed.key)
      expect(hit.note.onsetTicks).toBeGreaterThanOrEqual(pressed.onsetTicks)
    }),
  )
})

test('a note is held by its end, unless it is too narrow for that', () => {
  const box = noteBox(roll, notes[0]!)
  const at = (x: number) => noteAt(roll, shapes, notes, { x, y: box.y + 2 })
  expect(at(box.x + box.width - 2)).toEqual({ note: notes[0], isEdge: true })
  expect(at(box.x + 10)).toEqual({ note: notes[0], isEdge: false })
  expect(at(box.x + box.width + 6)).toBeUndefined()
  const far = rollGeometry(shapes, size, { ...view, pixelsPerQuarter: 8 })
  const narrow = noteBox(far, notes[0]!)
  expect(noteAt(far, shapes, notes, { x: narrow.x + narrow.width, y: narrow.y + 1 })?.isEdge).toBe(false)
})

test('beside, above and below the notes lie keys, ruler and velocities', () => {
  expect(regionAt(roll, { x: keyColumn - 1, y: 200 })).toBe('keys')
  expect(regionAt(roll, { x: 300, y: rulerHeight - 1 })).toBe('ruler')
  expect(regionAt(roll, { x: 300, y: size.height - velocityHeight + 1 })).toBe('velocities')
  expect(regionAt(roll, { x: 300, y: 200 })).toBe('notes')
})

const none: ReadonlySet<number> = new Set()
const ids = new Set([2, 4])
const start = { x: 300, y: 200 }

test('what is seen while dragging is what lifting the pointer makes of it', () => {
  const kinds: RollGesture[] = [
    { kind: 'move', start, ids, byTicks: 0, byKeys: 0 },
    { kind: 'stretch', start, ids, byTicks: 0, byKeys: 0 },
    { kind: 'velocity', start, ids, by: 0 },
  ]
  fc.assert(
    fc.property(
      fc.constantFrom(...kinds),
      // Not so far that the whole selection meets an edge.
      fc.record({ x: fc.integer({ min: 230, max: 900 }), y: fc.integer({ min: 50, max: 480 }) }),
      fc.constantFrom(null, 2520, 5040),
      (gesture, to, gridTicks) => {
        const now = dragged(gesture, to, roll, gridTicks)
        const seen = notes.map((each) => previewed(each, now, roll))
        fc.pre(seen.every((each) => each.onsetTicks >= 0 && each.durationTicks >= 120))
        const made = completed(now, roll, none)?.edit(notes) ?? notes
        const byId = (list: readonly Note[]) => [...list].sort((a, b) => a.id - b.id)
        expect(byId(made)).toEqual(byId(seen))
        expect(made.filter((each) => !ids.has(each.id))).toEqual(notes.filter((each) => !ids.has(each.id)))
      },
    ),
  )
})

test('on the grid a drag goes by whole steps; a click changes nothing', () => {
  const held: RollGesture = { kind: 'move', start, ids, byTicks: 0, byKeys: 0 }
  expect(completed(dragged(held, { x: 303, y: 202 }, roll, 5040), roll, none)).toBeNull()
  expect(dragged(held, { x: 345, y: 200 }, roll, 5040)).toMatchObject({ byTicks: 5040, byKeys: 0 })
  expect(dragged(held, { x: 345, y: 200 }, roll, null)).toMatchObject({ byTicks: 5670 })
  expect(completed(dragged(held, { x: 345, y: 200 }, roll, 5040), roll, none)?.label).toBe('move 2 notes')
})

test('a frame takes what sounds inside it, in whichever direction it is drawn, and what was selected before', () => {
  const corner = { x: roll.xOf(0.5 * quarter), y: roll.yOf(66) }
  const opposite = { x: roll.xOf(1.2 * quarter), y: roll.yOf(60) + 1 }
  const kept = new Set([4])
  for (const [from, end] of [
    [corner, opposite],
    [opposite, corner],
  ] as const)
    expect(framedNotes({ kind: 'frame', start: from, end, kept }, roll, notes).sort()).toEqual([1, 2, 4])
})
