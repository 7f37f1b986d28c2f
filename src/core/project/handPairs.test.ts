import { drawnNote } from '../event/notes.testing'
import { isBalanced } from '../ledger/ledger'
import { emptyProject, newClip, newTrack } from './create'
import { handPairs, joinHands } from './handPairs'
import { scoreOf } from './onPage'
import type { Project } from './schema'

function pieceOf(...names: readonly string[]): Project {
  let project = emptyProject('hands', 'Hands', 0)
  for (const [index, name] of names.entries())
    project = newTrack(project, {
      name,
      instrument: { kind: 'program', program: 0 },
      clips: [
        newClip(
          `c${index}`,
          name,
          [0, 1, 2, 3].map((beat) =>
            drawnNote({
              id: index * 4 + beat + 1,
              onsetTicks: beat * 10_080,
              durationTicks: 9000,
              key: (index % 2 === 0 ? 72 : 48) + beat,
            }),
          ),
        ),
      ],
    }).project
  return { ...project, nextSerial: 1000 }
}

const namesOf = (project: Project) =>
  handPairs(project).map(({ right, left, name }) => [right.name, left.name, name])

test.each([
  ['Piano, right hand', 'Piano, left hand', 'Piano'],
  ['Piano RH', 'Piano LH', 'Piano'],
  ['Right', 'Left', ''],
  ['Upright (R.H.)', 'Upright (L.H.)', 'Upright'],
  ['Organ upper', 'Organ lower', 'Organ'],
])('%s and %s are the hands of one player', (right, left, name) => {
  expect(namesOf(pieceOf(right, left))).toEqual([[right, left, name]])
})

test('hands of several players are told apart, and other names tell nothing', () => {
  expect(namesOf(pieceOf('Harp right', 'Organ left', 'Organ right', 'Harp left'))).toEqual([
    ['Harp right', 'Harp left', 'Harp'],
    ['Organ right', 'Organ left', 'Organ'],
  ])
  expect(handPairs(pieceOf('Brighton', 'Lefty'))).toEqual([])
  const strings = pieceOf('Strings right', 'Strings left')
  expect(
    handPairs({
      tracks: strings.tracks.map((track) => ({ ...track, instrument: { kind: 'program', program: 48 } })),
    }),
  ).toEqual([])
})

test('joined they are one part on two staves with every note, and no pair any more', () => {
  const project = pieceOf('Piano, right hand', 'Piano, left hand')
  const joined = joinHands(project, handPairs(project)[0]!)
  const { parts } = scoreOf(joined)
  expect(parts).toHaveLength(1)
  expect(parts[0]!.clefs).toEqual(['treble', 'bass'])
  expect(parts[0]!.ledger).toMatchObject({ captured: 8, written: 8 })
  expect(isBalanced(parts[0]!.ledger)).toBe(true)
  expect(joined.tracks.find(({ isOnPage }) => isOnPage)!.name).toBe('Piano')
  expect(handPairs(joined)).toEqual([])
})
