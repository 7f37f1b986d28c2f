import { createDemo } from '../demo/harbourEvening'
import { newSlot } from '../effects/catalogue'
import { headOf, joinProject } from './content'
import { addGenerator } from './generatorCommands'
import { ProjectFormatError, readProjectHead } from './migrate'

const demo = addGenerator(createDemo('demo', 1000, 'computer-keyboard').project, 'accompaniment').project
// biome-ignore lint/suspicious/noExplicitAny: a stored record is damaged here in ways that no type allows
type Damaged = any
const damaged = (damage: (head: Damaged) => void) => {
  const head = JSON.parse(JSON.stringify(headOf(demo)))
  damage(head)
  return readProjectHead(head)
}

test('a whole project is read as it is, with nothing aside', () => {
  expect(damaged(() => undefined)).toEqual({ head: headOf(demo), aside: [] })
})

test.each<[string, (head: Damaged) => void, RegExp]>([
  ['a name of 240 letters is cut', (head) => (head.name = 'n'.repeat(240)), /^name$/],
  ['a null among the tracks is left out', (head) => head.tracks.splice(1, 0, null), /^tracks\.1$/],
  [
    'a level that is no number takes a usual one',
    (head) => (head.tracks[0].volume = 'loud'),
    /^tracks\.0\.volume$/,
  ],
  ['a level out of range is put on its edge', (head) => (head.tracks[0].volume = 7), /^tracks\.0\.volume$/],
  ['a click that cannot be read is as usual', (head) => (head.click = null), /^click$/],
  ['a part of the click that cannot be read too', (head) => (head.click.level = 'x'), /^click\.level$/],
  ['a meter that is none is left out', (head) => head.meters.push({ tick: 9, numerator: 0.5 }), /^meters\.1/],
  [
    'a chart that is too long is cut',
    (head) => (head.generators[0].work.chart = 'C '.repeat(104_500)),
    /chart/,
  ],
  [
    '33 effects become 32',
    (head) => (head.tracks[0].effects = Array.from({ length: 33 }, (_, n) => newSlot('echo', `e${n}`))),
    /^tracks\.0\.effects$/,
  ],
  [
    'an effect that there is not is left out of its chain',
    (head) => (head.tracks[0].effects = [newSlot('echo', 'a'), { id: 'b', kind: 'nonsense' }]),
    /^tracks\.0\.effects\.1$/,
  ],
  ['a take without a moment is left out', (head) => (head.takes[0].anchorMs = null), /^takes\.0$/],
])('%s, told and kept aside', (_, damage, path) => {
  const { head, aside } = damaged(damage)
  expect(aside).toHaveLength(1)
  expect(aside[0]!.path).toMatch(path)
  expect(head.tracks.map((track) => track.name)).toEqual(demo.tracks.map((track) => track.name))
})

test('a clip whose notes are gone is left out, the others are there; a lost number is found again', () => {
  const { head, aside } = damaged((stored) => (stored.nextSerial = null))
  const contents = new Map(demo.tracks.flatMap((track) => track.clips.map((clip) => [clip.id, clip])))
  const [lost] = contents.keys()
  const { project, aside: all } = joinProject({ head, aside }, (clipId, name) => {
    if (clipId === lost) throw new ProjectFormatError(`The notes of the clip "${name}" are missing`)
    return contents.get(clipId)!
  })
  expect(all.map(({ path }) => path)).toEqual(['nextSerial', expect.stringMatching(/^tracks\.\d+\.clips\./)])
  expect(project.tracks.flatMap((track) => track.clips)).toHaveLength(contents.size - 1)
  const ids = project.tracks.flatMap((track) =>
    track.clips.flatMap((clip) => clip.notes.map((note) => note.id)),
  )
  expect(project.nextSerial).toBeGreaterThan(Math.max(...ids))
})

test.each([
  [null],
  ['project'],
  [{}],
  [{ schemaVersion: 4 }],
  [{ schemaVersion: 1, tracks: [null] }],
  [{ schemaVersion: 99 }],
])('what is no project is refused with a sentence: %j', (stored) =>
  expect(() => readProjectHead(stored)).toThrow(ProjectFormatError),
)
