import { drawnNote } from '../event/notes.testing'
import { emptyProject, newClip, newTrack } from '../project/create'
import { scoreOf } from '../project/onPage'
import { percussionPlace } from './percussion'

test('every instrument of the General MIDI map has a place and head of its own', () => {
  const places = new Set<string>()
  for (let key = 27; key <= 87; key++) places.add(JSON.stringify(percussionPlace(key)))
  expect(places.size).toBe(61)
})

test('hands are written stems up and feet stems down, and strokes that fall together each have their own', () => {
  const strokes = [
    [0, 36],
    [0, 42],
    [1, 38],
    [1, 44],
    [2, 36],
    [2, 46],
    [3, 38],
    [3, 42],
  ].map(([beat, key], index) =>
    drawnNote({ id: index + 1, onsetTicks: beat! * 10_080, durationTicks: 900, key: key! }),
  )
  const { project } = newTrack(emptyProject('x', 'x', 0), {
    name: 'Kit',
    instrument: { kind: 'drums' },
    clips: [newClip('c', 'c', strokes)],
  })
  const [bar] = scoreOf(project).parts[0]!.measures
  const keysOf = (voice: number) =>
    bar![voice]!.elements.map((element) =>
      element.kind === 'chord'
        ? element.notes.map(({ key }) => key).join('+')
        : element.isHidden
          ? 'hidden'
          : 'rest',
    )
  expect(bar).toHaveLength(2)
  expect(keysOf(0)).toEqual(['42', '38', '46', '38+42'])
  expect(keysOf(1).filter((each) => each !== 'hidden')).toEqual(['36', '44', '36'])
})
