import { createDemo } from '../demo/harbourEvening'
import { scoreOf } from '../project/onPage'
import type { ChosenOnPage } from './amendments/stroke'
import { type WalkDirection, walk } from './noteWalk'

const { project } = createDemo('demo', 0, 'computer-keyboard')
const score = scoreOf(project)
const onset = new Map(
  project.tracks.flatMap((track) => track.clips.flatMap((clip) => clip.notes.map((note) => [note.id, note]))),
)

/** Every notehead one comes to, until there is none further. */
function path(from: number, direction: WalkDirection): number[] {
  const ids: number[] = []
  let at = walk(score, note(from), direction)
  for (; at !== null; at = walk(score, at, direction)) if (at.kind === 'notes') ids.push(at.noteIds[0]!)
  return ids
}

const note = (id: number): ChosenOnPage => ({ kind: 'notes', noteIds: [id] })
const firstNote = () => {
  const first = walk(score, null, 'next')
  return first?.kind === 'notes' ? first.noteIds[0]! : -1
}

test('from the first note along a voice to its end and back, no note twice', () => {
  const first = firstNote()
  const forth = [first, ...path(first, 'next')]
  expect(new Set(forth).size).toBe(forth.length)
  expect(forth.length).toBeGreaterThan(50)
  const times = forth.map((id) => onset.get(id)!.onsetTicks)
  expect([...times].sort((a, b) => a - b)).toEqual(times)
  expect(path(forth.at(-1)!, 'previous').reverse()).toEqual(forth.slice(0, -1))
})

test('down through chords and staves to the lowest of the last part, and up again to the top', () => {
  const first = firstNote()
  const down = [first, ...path(first, 'below')]
  const trackOf = (id: number) =>
    project.tracks.findIndex((track) => track.clips.some((clip) => clip.notes.some((note) => note.id === id)))
  // Flute, both staves of the piano, and each note of the harp's chord.
  expect(down.map(trackOf)).toEqual([...down.map(trackOf)].sort())
  expect(new Set(down.map(trackOf)).size).toBe(3)
  expect(down.length).toBeGreaterThanOrEqual(5)
  expect(trackOf(path(down.at(-1)!, 'above').at(-1)!)).toBe(trackOf(first))
})

test('a note that is not on the page leads to the first one', () => {
  expect(walk(score, note(-5), 'below')).toBe(walk(score, null, 'next'))
  expect(walk({ ...score, parts: [] }, null, 'next')).toBeNull()
})

test('rests are places too: along a voice, each once, in order of time', () => {
  const ticks: number[] = []
  let at = walk(score, null, 'next')
  for (; at !== null; at = walk(score, at, 'next')) if (at.kind === 'rest') ticks.push(at.tick)
  expect(ticks.length).toBeGreaterThan(0)
  expect([...new Set(ticks)].sort((a, b) => a - b)).toEqual(ticks)
})
