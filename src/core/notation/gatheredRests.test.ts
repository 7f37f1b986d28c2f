import { drawnNote } from '../event/notes.testing'
import { writeMusicXml } from '../formats/musicXml'
import { verovioToolkit } from '../formats/verovioReader.testing'
import { emptyProject, newClip, newTrack } from '../project/create'
import { headingsOf, scoreOf } from '../project/onPage'
import type { Project } from '../project/schema'
import { gatheredRests } from './gatheredRests'
import { breakIntoSystems } from './systems'

const bar = 40_320

/** A flute that plays in some bars of sixteen. */
function flute(playing: readonly number[], change: Partial<Project> = {}): Project {
  const notes = playing.map((index, place) =>
    drawnNote({ id: place + 1, onsetTicks: index * bar, durationTicks: bar, key: 72 }),
  )
  const project = newTrack(emptyProject('rests', 'Rests', 0), {
    name: 'Flute',
    instrument: { kind: 'program', program: 73 },
    clips: [newClip('c', 'c', notes)],
  }).project
  return { ...project, ...change }
}

test('bars of rest that follow each other are counted together, one alone is not', () => {
  expect([...gatheredRests(scoreOf(flute([0, 5, 7, 15])))]).toEqual([
    [1, 4],
    [8, 7],
  ])
})

test('what must be seen while counting begins a new rest', () => {
  const marked = flute([0, 15], {
    sections: [{ tick: 4 * bar, name: 'B' }],
    meters: [
      { tick: 0, numerator: 4, denominator: 4 },
      { tick: 8 * bar, numerator: 3, denominator: 4 },
    ],
  })
  expect([...gatheredRests(scoreOf(marked))].slice(0, 3)).toEqual([
    [1, 3],
    [4, 4],
    [8, 9],
  ])
})

test('they are never torn at the end of a line, and drawn as one sign', async () => {
  const project = flute([0, 15])
  const score = scoreOf(project)
  const gathered = gatheredRests(score)
  const systems = breakIntoSystems(score, 30, { gathered, mostBars: null, beginsLine: () => false })
  for (const { from, to } of systems)
    for (const [first, count] of gathered)
      expect(first + count <= from || first >= to || (first >= from && first + count <= to)).toBe(true)
  const toolkit = await verovioToolkit()
  toolkit.setOptions({ breaks: 'none' })
  const written = writeMusicXml(score, headingsOf(project), {
    measures: { from: 0, to: score.measures.length },
    gathered,
  })
  expect(toolkit.loadData(written)).toBeTruthy()
  const svg = toolkit.renderToSVG(1)
  expect(svg.match(/class="multiRest"/g)).toHaveLength(1)
  expect(svg.match(/class="measure"/g)).toHaveLength(3)
})

test('a part that begins with a long rest has its tempo, and one clef', async () => {
  const project = flute([9, 10])
  const score = scoreOf(project)
  const toolkit = await verovioToolkit()
  toolkit.setOptions({ breaks: 'none' })
  const measures = { from: 0, to: score.measures.length }
  toolkit.loadData(writeMusicXml(score, headingsOf(project), { measures, gathered: gatheredRests(score) }))
  const svg = toolkit.renderToSVG(1)
  expect(svg.match(/class="multiRest"/g)).toHaveLength(1)
  expect(svg.match(/class="clef"/g)).toHaveLength(1)
  expect(svg.match(/class="tempo"/g)).toHaveLength(1)
})
