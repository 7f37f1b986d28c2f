import { createDemo } from '@/core/demo/harbourEvening'
import { drawnNote } from '@/core/event/notes.testing'
import { writeMusicXml } from '@/core/formats/musicXml'
import { verovioToolkit } from '@/core/formats/verovioReader.testing'
import type { Instrument } from '@/core/midi/instrument'
import { emptyProject, newClip, newTrack } from '@/core/project/create'
import { headingsOf, scoreOf } from '@/core/project/onPage'
import type { Project } from '@/core/project/schema'
import { engraveLine } from './engraveLine'
import { unknownSpacing } from './fillLine'
import { keysOfStaves } from './keysOfStaves'

const bar = 40_320
const notes = (first: number) =>
  [0, 1, 2, 3].map((index) =>
    drawnNote({ id: first + index, onsetTicks: index * bar, durationTicks: bar, key: 62 }),
  )

/** Four bars for each part, the third in another key. */
function piece(
  fifths: readonly [number, number],
  parts: readonly (readonly [string, Instrument])[],
): Project {
  const begun = emptyProject('x', 'x', 0)
  const keys = [0, 2].map((at, index) => ({ tick: at * bar, fifths: fifths[index]!, mode: 'major' as const }))
  return parts.reduce(
    (project, [name, instrument], index) =>
      newTrack(project, { name, instrument, clips: [newClip(`c${index}`, 'c', notes(index * 10 + 1))] })
        .project,
    { ...begun, keys } as Project,
  )
}

/** How many signs of a key each staff has in the bar of the change, and of which kind: what is drawn. */
async function drawnKeys(project: Project) {
  const score = scoreOf(project)
  const musicXml = writeMusicXml(score, headingsOf(project), {
    measures: { from: 0, to: score.measures.length },
    withNoteIds: true,
  })
  const toolkit = await verovioToolkit()
  const ties = { onwards: [], fromBefore: [] }
  const { given } = engraveLine(toolkit, musicXml, 900, unknownSpacing, ties)
  const third = given.split('class="measure"')[3]!
  return third
    .split('class="staff"')
    .slice(1)
    .map((staff) => (staff.match(/class="keyAccid"/g) ?? []).length)
}

const strings: readonly (readonly [string, Instrument])[] = [
  ['Violin', { kind: 'program', program: 40 }],
  ['Cello', { kind: 'program', program: 42 }],
]

describe('a change of key in a line', () => {
  test('clarinet in A over strings, from C to B flat: five flats there, two here', async () => {
    const project = piece([0, -2], [['Clarinet in A', { kind: 'program', program: 71 }], ...strings])
    // From three flats to five, and from none to two.
    expect(await drawnKeys(project)).toEqual([5, 2, 2])
  })

  test('a part of percussion on top has none, and those beneath have theirs', async () => {
    expect(await drawnKeys(piece([0, -2], [['Drums', { kind: 'drums' }], ...strings]))).toEqual([0, 2, 2])
  })

  test('a voice in B flat over a keyboard of two staves: each staff has its own', async () => {
    const project = piece(
      [0, 2],
      [
        ['Clarinet', { kind: 'program', program: 71 }],
        ['Piano', { kind: 'program', program: 0 }],
      ],
    )
    const drawn = await drawnKeys(project)
    expect(drawn[0]).toBe(4)
    expect(drawn.slice(1).every((signs) => signs === 2)).toBe(true)
  })

  test('where all staves change alike nothing is told apart', () => {
    const project = piece([0, -2], strings)
    const score = scoreOf(project)
    expect(keysOfStaves(writeMusicXml(score, headingsOf(project))).size).toBe(0)
  })
})

test('a line that goes by way of MEI is drawn the same in everything else', async () => {
  const toolkit = await verovioToolkit()
  const demo = createDemo('demo', 0, 'computer-keyboard').project
  const named =
    /<style[\s\S]*?<\/style>| id="[^"]*"|(?:xlink:)?href="#[^"]*"| class="pageMilestoneEnd [^"]*"/g
  for (const [from, to] of [
    [0, 6],
    [6, 16],
  ] as const) {
    const drawn = (load: () => boolean) => {
      expect(load()).toBeTruthy()
      return toolkit.renderToSVG(1).replace(named, '')
    }
    toolkit.setOptions({ breaks: 'none', adjustPageWidth: true, spacingLinear: 0.3 })
    const xml = writeMusicXml(scoreOf(demo), headingsOf(demo), { measures: { from, to }, withNoteIds: true })
    const direct = drawn(() => toolkit.loadData(xml))
    const mei = toolkit.getMEI()
    expect(drawn(() => toolkit.loadData(mei))).toBe(direct)
  }
})
