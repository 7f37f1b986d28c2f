import { createDemo } from '@/core/demo/harbourEvening'
import { soundingNotes } from '@/core/project/create'
import { firstFrom, shapesOf } from './noteShapes'

const notes = soundingNotes(createDemo('demo', 0, 'computer-keyboard').project.tracks[1]!)

test('the shapes of a list of notes are made once, and hold its range', () => {
  const shapes = shapesOf(notes)
  expect(shapesOf(notes)).toBe(shapes)
  expect(shapesOf([...notes])).not.toBe(shapes)
  const keys = notes.map((note) => note.key)
  expect([shapes.count, shapes.lowestKey, shapes.highestKey]).toEqual([
    notes.length,
    Math.min(...keys),
    Math.max(...keys),
  ])
  expect(shapes.longestTicks).toBe(Math.max(...notes.map((note) => note.durationTicks)))
  expect(shapesOf([]).count).toBe(0)
})

test('the first note from a place on is found as by looking at each', () => {
  const shapes = shapesOf(notes)
  for (let tick = -5000; tick < 700_000; tick += 3777) {
    const wanted = notes.findIndex((note) => note.onsetTicks >= tick)
    expect(firstFrom(shapes, tick)).toBe(wanted < 0 ? notes.length : wanted)
  }
})
