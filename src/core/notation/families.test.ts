import fc from 'fast-check'
import { drawnNote } from '../event/notes.testing'
import { writeMusicXml } from '../formats/musicXml'
import { verovioToolkit } from '../formats/verovioReader.testing'
import type { Instrument } from '../midi/instrument'
import { emptyProject, newClip, newTrack } from '../project/create'
import { headingsOf, scoreOf } from '../project/onPage'
import { brackets, familyOf, groupsOf, placeInScore } from './families'

const programs = (...list: readonly number[]) =>
  list.map((program): Instrument => ({ kind: 'program', program }))

const parts = (...list: readonly number[]) =>
  programs(...list).map((instrument) => ({ instrument, bracket: 'usual' as const }))

test('flutes stand above horns, horns above violins, a cello beneath a viola', () => {
  const [flute, horn, violin, viola, cello, piano] = programs(73, 60, 40, 41, 42, 0).map(placeInScore)
  expect([flute, horn, piano, violin, viola, cello]).toEqual(
    [flute, horn, piano, violin, viola, cello].sort((a, b) => a! - b!),
  )
  expect(familyOf({ kind: 'drums' })).toBe('percussion')
})

test('neighbours of one family are held together, one alone is not, nor are two pianos', () => {
  expect(groupsOf(parts(73, 68, 0, 0, 40, 41, 42))).toEqual([
    { first: 0, last: 1 },
    { first: 4, last: 6 },
  ])
  expect(groupsOf(parts(73, 40, 68, 41))).toEqual([])
})

test('a part is held to the one above it, or left alone, where somebody wants that', () => {
  const [flute, piano, violin, viola] = parts(73, 0, 40, 41)
  expect(groupsOf([flute!, { ...piano!, bracket: 'above' }, violin!, viola!])).toEqual([
    { first: 0, last: 1 },
    { first: 2, last: 3 },
  ])
  expect(groupsOf([violin!, { ...viola!, bracket: 'none' }])).toEqual([])
  expect(groupsOf([{ ...violin!, bracket: 'above' }])).toEqual([])
})

test('groups follow each other and never share a part', () => {
  const anyPart = fc.record({
    instrument: fc.integer({ min: 0, max: 127 }).map((program): Instrument => ({ kind: 'program', program })),
    bracket: fc.constantFrom(...brackets),
  })
  fc.assert(
    fc.property(fc.array(anyPart, { maxLength: 30 }), (list) => {
      let next = 0
      for (const { first, last } of groupsOf(list)) {
        expect(first).toBeGreaterThanOrEqual(next)
        expect(last).toBeGreaterThan(first)
        next = last + 1
      }
      expect(next).toBeLessThanOrEqual(list.length)
    }),
  )
})

test('a quartet has a bracket and bar lines through its staves', async () => {
  let project = emptyProject('quartet', 'Quartet', 0)
  for (const [index, program] of [40, 40, 41, 42].entries())
    project = newTrack(project, {
      name: `Player ${index + 1}`,
      instrument: { kind: 'program', program },
      clips: [
        newClip(`c${index}`, 'c', [
          drawnNote({ id: index + 1, onsetTicks: 0, durationTicks: 40_320, key: 60 - index }),
        ]),
      ],
    }).project
  const written = writeMusicXml(scoreOf(project), headingsOf(project))
  expect(written.match(/<part-group /g)).toHaveLength(2)
  const toolkit = await verovioToolkit()
  toolkit.setOptions({ breaks: 'none' })
  expect(toolkit.loadData(written)).toBeTruthy()
  expect(toolkit.renderToSVG(1)).toContain('class="grpSym"')
})
