import fc from 'fast-check'
import { createDemo } from '../demo/harbourEvening'
import { inventedMusic } from '../notation/writtenMusic/inventedMusic.testing'
import { performedScore } from '../notation/writtenMusic/performedScore'
import { headingsOf, scoreOf } from '../project/onPage'
import type { Project } from '../project/schema'
import { writeMusicXml } from './musicXml'
import { readMusicXml } from './readMusicXml/readMusicXml'
import { sayingOf } from './roundTrip.testing'
import { scoreToProject } from './scoreToProject'

const identity = { id: 'p', name: 'p', nowMs: 0 }
const written = (project: Project) => writeMusicXml(scoreOf(project), headingsOf(project))
const readAgain = (xml: string) => scoreToProject(readMusicXml(xml).music, identity).project

describe('out and in again', () => {
  test('the demo is the same music, and the same file', () => {
    const { project } = createDemo('demo', 0, 'keyboard')
    const xml = written(project)
    const again = readAgain(xml)
    expect(sayingOf(scoreOf(again))).toEqual(sayingOf(scoreOf(project)))
    expect(written(again)).toBe(xml)
  })

  test('whatever a file has written stands on the page as the file has it, and goes out so', () => {
    fc.assert(
      fc.property(inventedMusic, (music) => {
        const asInFile = sayingOf(performedScore(music, 1).score, { withBeams: false })
        const { project } = scoreToProject(music, identity)
        const score = scoreOf(project)
        expect(sayingOf(score, { withBeams: false })).toEqual(asInFile)
        expect(score.parts.flatMap(({ misfits }) => misfits)).toEqual([])
        const again = readMusicXml(written(project))
        expect(again.warnings).toEqual([])
        expect(sayingOf(performedScore(again.music, 1).score, { withBeams: false })).toEqual(asInFile)
      }),
      { numRuns: 60, endOnFailure: true },
    )
  })
})
