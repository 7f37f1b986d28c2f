import { drawnNote } from '../event/notes.testing'
import { writeMusicXml } from '../formats/musicXml'
import { verovioReader } from '../formats/verovioReader.testing'
import { emptyProject, newClip, newTrack } from '../project/create'
import { headingsOf, scoreOf } from '../project/onPage'
import { proveMusicXml } from '../proof/proveMusicXml'
import { staffOf } from './score'

const quarter = 10_080

/** The right hand plays quarters; the left rolls on beneath. */
function piece(right: readonly number[]) {
  const notes = [
    ...right.map((key, index) => ({ key, at: index, staff: 1 as const })),
    ...right.map((_, index) => ({ key: 53 + (index % 3) * 2, at: index, staff: 2 as const })),
  ]
    .sort((a, b) => a.at - b.at || a.key - b.key)
    .map(({ key, at, staff }, index) =>
      drawnNote({ id: index + 1, onsetTicks: at * quarter, durationTicks: 9800, key, staff }),
    )
  return newTrack(emptyProject('over', 'Over', 0), {
    name: 'Piano',
    instrument: { kind: 'program', program: 0 },
    clips: [newClip('c', 'c', notes)],
  }).project
}

/** Keys of the upper line on each staff. */
function upperLine(project: ReturnType<typeof piece>) {
  return scoreOf(project).parts[0]!.measures.flatMap((voices) =>
    voices
      .filter(({ staff }) => staff === 1)
      .flatMap((voice) =>
        voice.elements.flatMap((element) =>
          element.kind === 'chord' ? [[element.notes[0]!.key, staffOf(element, voice)]] : [],
        ),
      ),
  )
}

const high = [72, 74, 76, 77]

test('what a hand plays for a moment in the range of the other is on that staff, in its own line', async () => {
  const project = piece([...high, 72, 43, 45, 74, ...high])
  expect(upperLine(project).filter(([, staff]) => staff === 2)).toEqual([
    [43, 2],
    [45, 2],
  ])
  const score = scoreOf(project)
  expect(score.parts[0]!.clefChanges).toEqual([])
  const written = writeMusicXml(score, headingsOf(project))
  const proof = await proveMusicXml(written, score, headingsOf(project), await verovioReader())
  expect(proof.differences).toEqual([])
})

test('a hand that stays there changes its clef, and a few ledger lines are no reason', () => {
  const long = piece([...high, ...Array.from({ length: 12 }, (_, index) => 41 + (index % 4)), ...high])
  expect(upperLine(long).every(([, staff]) => staff === 1)).toBe(true)
  expect(scoreOf(long).parts[0]!.clefChanges.length).toBeGreaterThan(0)
  expect(upperLine(piece([...high, 57, 55, 57, 60, ...high])).every(([, staff]) => staff === 1)).toBe(true)
})
