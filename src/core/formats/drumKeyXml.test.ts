import { drawnNote } from '../event/notes.testing'
import { emptyProject, newClip, newTrack } from '../project/create'
import { headingsOf, scoreOf } from '../project/onPage'
import { drumKeyXml } from './drumKeyXml'
import { verovioToolkit } from './verovioReader.testing'

test('the key of a drum part has each drum that is struck once, from the lowest place up, by its player’s name', async () => {
  const keys = [38, 36, 42, 46, 49, 36, 38, 50]
  const { project } = newTrack(emptyProject('kit', 'Kit', 0), {
    name: 'Kit',
    instrument: { kind: 'drums' },
    keyNames: [{ key: 38, name: 'Old tin & snare' }],
    clips: [
      newClip(
        'c',
        'c',
        keys.map((key, index) =>
          drawnNote({ id: index + 1, onsetTicks: index * 5040, durationTicks: 2520, key }),
        ),
      ),
    ],
  })
  const lines = drumKeyXml(scoreOf(project).parts[0]!, headingsOf(project).parts[0]!)
  const names = lines.flatMap((line) => [...line.matchAll(/<text>(.*?)<\/text>/g)].map(([, name]) => name))
  expect(names).toEqual([
    'Bass Drum 1',
    'Old tin &amp; snare',
    'High Tom',
    'Closed Hi Hat',
    'Open Hi-Hat',
    'Crash Cymbal 1',
  ])
  const toolkit = await verovioToolkit()
  for (const line of lines) {
    expect(toolkit.loadData(line)).toBeTruthy()
    expect(toolkit.renderToSVG(1)).toContain('Old tin')
  }
})
