import { drawnNote } from '../event/notes.testing'
import { emptyProject, newClip, newTrack } from '../project/create'
import { scoreOf } from '../project/onPage'
import type { Project } from '../project/schema'
import { knownMusic, mergedNotes } from '../separation/voices/knownMusic.testing'
import { areTorn } from './hands'

const quarter = 10_080

function keyboardPiece(title: string): Project {
  const known = knownMusic.find((music) => music.title.includes(title))!
  const notes = mergedNotes(known).map(({ onsetQuarters, endQuarters, key }, index) =>
    drawnNote({
      id: index + 1,
      onsetTicks: Math.round(onsetQuarters * quarter),
      durationTicks: Math.max(1, Math.round((endQuarters - onsetQuarters) * quarter) - 200),
      key,
    }),
  )
  return newTrack(emptyProject('hands', 'Hands', 0), {
    name: 'Piano',
    instrument: { kind: 'program', program: 0 },
    clips: [newClip('c', 'c', notes)],
  }).project
}

/** Share of notes on the staff of the hand the composer gave them to. */
function onOwnStaff(title: string, followsHands: boolean): number {
  const project = keyboardPiece(title)
  const handOf = new Map(
    mergedNotes(knownMusic.find((music) => music.title.includes(title))!).map(({ voice }, index) => [
      index + 1,
      voice,
    ]),
  )
  const score = scoreOf({ ...project, scoreSettings: { ...project.scoreSettings, followsHands } })
  let [right, count] = [0, 0]
  for (const { staff, elements } of score.parts[0]!.measures.flat())
    for (const element of elements)
      if (element.kind === 'chord')
        for (const { noteIds } of element.notes) {
          count++
          if (handOf.get(noteIds[0]!) === staff) right++
        }
  return right / count
}

test('staves that follow the hands hold what each hand plays', () => {
  for (const title of ['K. 545', 'polonaise op. 1 no. 1'])
    expect(onOwnStaff(title, true)).toBeGreaterThan(onOwnStaff(title, false))
  expect(onOwnStaff('K. 545', true)).toBeGreaterThan(0.9)
})

test('a fixed split is as strict as ever, and says where it tears lines', () => {
  const [part] = scoreOf(keyboardPiece('polonaise')).parts
  expect(part!.splitKey).toBe(60)
  for (const { staff, elements } of part!.measures.flat())
    for (const element of elements)
      if (element.kind === 'chord') for (const { key } of element.notes) expect(key >= 60).toBe(staff === 1)
  expect(areTorn(part!.tornLines)).toBe(true)
  const calm = newTrack(emptyProject('calm', 'Calm', 0), {
    name: 'Piano',
    instrument: { kind: 'program', program: 0 },
    clips: [
      newClip(
        'c',
        'c',
        Array.from({ length: 64 }, (_, index) =>
          drawnNote({
            id: index + 1,
            onsetTicks: (index >> 1) * quarter,
            durationTicks: quarter - 300,
            key: (index % 2 === 0 ? 45 : 74) + ((index >> 1) % 5),
          }),
        ),
      ),
    ],
  }).project
  expect(areTorn(scoreOf(calm).parts[0]!.tornLines)).toBe(false)
})
