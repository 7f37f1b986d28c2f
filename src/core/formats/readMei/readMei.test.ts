import fc from 'fast-check'
import { createDemo } from '../../demo/harbourEvening'
import { inventedMusic } from '../../notation/writtenMusic/inventedMusic.testing'
import { performedScore } from '../../notation/writtenMusic/performedScore'
import type { WrittenMusic } from '../../notation/writtenMusic/writtenMusic'
import { soundingNotes } from '../../project/create'
import { headingsOf, scoreOf } from '../../project/onPage'
import type { Project } from '../../project/schema'
import { proveMei } from '../../proof/proveMei'
import { writeMusicXml } from '../musicXml'
import { sayingOf } from '../roundTrip.testing'
import { scoreToProject } from '../scoreToProject'
import { verovioToolkit } from '../verovioReader.testing'
import { MeiError, readMei } from './readMei'

const identity = { id: 'p', name: 'p', nowMs: 0 }

/** MEI as verovio writes it: its own understanding of the music. */
async function asMei(project: Project): Promise<string> {
  const toolkit = await verovioToolkit()
  toolkit.setOptions({ breaks: 'none' })
  toolkit.loadData(writeMusicXml(scoreOf(project), headingsOf(project)))
  return toolkit.getMEI({ removeIds: false })
}

// Written by verovio (another author), read here.
describe('MEI that another program wrote is the same music', () => {
  test('the demo', async () => {
    const { project } = createDemo('demo', 0, 'keyboard')
    const mei = await asMei(project)
    const { music, warnings } = readMei(mei)
    expect(warnings).toEqual([])
    expect(sayingOf(scoreOf(scoreToProject(music, identity).project))).toEqual(sayingOf(scoreOf(project)))
    const proof = proveMei(mei, scoreOf(project), headingsOf(project))
    expect(proof).toMatchObject({ isProved: true, foundNotes: 255 })
  })

  test('lines, ties and tuplets of every kind', async () => {
    // Of one voice: among several verovio ties some notes to others of the same name.
    const isOfOneVoice = (music: WrittenMusic) =>
      new Set(music.parts[0]!.entries.flat().map(({ voice }) => voice)).size === 1
    const pieces = fc.sample(inventedMusic, { numRuns: 60, seed: 11 }).filter(isOfOneVoice)
    expect(pieces.length).toBeGreaterThan(8)
    for (const music of pieces) {
      const { project } = scoreToProject(music, identity)
      const score = scoreOf(project)
      const proof = proveMei(await asMei(project), score, headingsOf(project))
      expect(proof.differences).toEqual([])
    }
  }, 60_000)

  test('a note that is changed is found', async () => {
    const { project } = createDemo('demo', 0, 'keyboard')
    const mei = (await asMei(project)).replace(/(<note [^>]*)pname="d"/, '$1pname="e"')
    expect(proveMei(mei, scoreOf(project), headingsOf(project)).isProved).toBe(false)
  })
})

/** One part, one layer a bar. Worked from the Guidelines, version 5. */
const file = (measures: string, scoreDef = 'meter.count="4" meter.unit="4" keysig="1s"') =>
  `<mei xmlns="http://www.music-encoding.org/ns/mei"><meiHead><fileDesc><titleStmt><title>Small</title></titleStmt></fileDesc></meiHead><music><body><mdiv><score><scoreDef ${scoreDef}><staffGrp><staffDef n="1" lines="5" clef.shape="G" clef.line="2"><label>Oboe</label></staffDef></staffGrp></scoreDef><section>${measures}</section></score></mdiv></body></music></mei>`
const bar = (layer: string, attributes = '', beside = '') =>
  `<measure n="1" ${attributes}><staff n="1"><layer n="1">${layer}</layer></staff>${beside}</measure>`
const opened = (text: string) => {
  const { music, warnings } = readMei(text)
  return { warnings, project: scoreToProject(music, identity).project, score: performedScore(music, 1).score }
}
const keys = (project: Project) => soundingNotes(project.tracks[0]!).map(({ key }) => key)

describe('what MEI says by itself', () => {
  test('signs of the key and of the bar hold where no sign is written', () => {
    const { project } = opened(
      file(
        bar(
          '<note pname="f" oct="4" dur="4"/><note pname="c" oct="5" dur="4" accid="s"/><note pname="c" oct="5" dur="4"/><note pname="f" oct="4" dur="4" accid="n"/>',
        ) + bar('<note pname="c" oct="5" dur="1"/>'),
      ),
    )
    expect(keys(project)).toEqual([66, 73, 73, 65, 72])
    expect(project.tracks[0]!.instrument).toEqual({ kind: 'program', program: 68 })
  })
  test('ties by attribute and by element, chords, dots, tuplets, grace notes', () => {
    const { project, score } = opened(
      file(
        bar(
          '<chord dur="2" dots="1"><note pname="c" oct="4"/><note xml:id="a" pname="e" oct="4"/></chord><tuplet num="3" numbase="2"><beam><note pname="g" oct="4" dur="8" tie="i"/><note pname="g" oct="4" dur="8" tie="t"/><note pname="a" oct="4" dur="8"/></beam></tuplet>',
        ) +
          bar(
            '<note pname="b" oct="4" dur="8" grace="acc"/><note pname="a" oct="4" dur="4"/><note xml:id="x" pname="b" oct="4" dur="4"/><note xml:id="y" pname="b" oct="4" dur="4"/><rest dur="4"/>',
            'right="end"',
            '<tie startid="#x" endid="#y"/><dynam staff="1" tstamp="2">ff</dynam><fermata startid="#y"/>',
          ),
      ),
    )
    expect(keys(project)).toEqual([60, 64, 67, 69, 71, 69, 71])
    const [part] = score.parts
    expect(part!.dynamics.levels).toEqual([{ tick: 4 * 10_080 + 10_080, mark: 'ff' }])
    expect(
      part!.measures[0]![0]!.elements.map(
        ({ tuplet }) => tuplet && [tuplet.actual, tuplet.starts, tuplet.stops],
      ),
    ).toEqual([null, [3, true, false], [3, false, false], [3, false, true]])
  })
  test('repeats and endings', () => {
    const note = (pname: string) => `<note pname="${pname}" oct="4" dur="1"/>`
    const { project } = opened(
      file(
        bar(note('c')) +
          bar(note('d'), 'left="rptstart"') +
          `<ending n="1">${bar(note('e'), 'right="rptend"')}</ending><ending n="2">${bar(note('g'))}</ending>` +
          bar(note('a'), 'right="end"'),
      ),
    )
    expect(keys(project)).toEqual([60, 62, 64, 62, 67, 69])
  })
  test('bars that rest under one sign are as many as it says', () => {
    const whole = (pname: string) => bar(`<note pname="${pname}" oct="4" dur="1"/>`)
    const { project } = opened(file(whole('c') + bar('<multiRest num="3"/>') + whole('d')))
    expect(soundingNotes(project.tracks[0]!).map(({ onsetTicks }) => onsetTicks / (4 * 10_080))).toEqual([
      0, 4,
    ])
    expect(readMei(file(bar('<multiRest num="20001"/>'))).warnings).toEqual([
      expect.stringContaining('more than 20,000 bars'),
    ])
  })
  test('what cannot be read says what and where', () => {
    const refused = (text: string) => {
      try {
        readMei(text)
      } catch (error) {
        return error instanceof MeiError ? error.message : String(error)
      }
      return null
    }
    expect(refused('')).toBe('The file is empty')
    expect(refused('<mei/>')).toMatch(/nothing of a score|no bars/)
    expect(refused('<score-partwise><measure/></score-partwise>')).toMatch(/begins with <score-partwise>/)
    expect(refused(file(bar('<note pname="f" oct="4" dur="4"/>')).slice(0, 330))).toMatch(/^Line 1/)
    const { warnings } = opened(file(bar('<cheese/><note pname="f" oct="4" dur="1"/>')))
    expect(warnings.join()).toMatch(/not known here \(cheese\): line 1 \(bar 1 of Oboe\)/)
  })
})
