import { drawnNote } from '../event/notes.testing'
import { putOnTracks } from './apart'
import { deleteTrack, duplicateTrack } from './commands'
import { emptyProject, newClip, newTrack } from './create'
import { bringBack } from './madeFrom'
import { splitTrack } from './moveMaterial'
import { scoreOf } from './onPage'
import type { Project } from './schema'
import { setTempos } from './tempoEdits'
import { putTogether } from './together'
import { addWords, newWords } from './words'

const quarter = 10_080

/** Two lines on one track: the upper begins on every quarter, the lower between; each has a syllable for its first two notes. */
const duet = (() => {
  const notes = Array.from({ length: 16 }, (_, index) =>
    drawnNote({ id: index + 1, onsetTicks: (index * quarter) / 2, key: index % 2 === 0 ? 72 : 55 }),
  )
  const made = newTrack(emptyProject('x', 'x', 0), {
    name: 'Duet',
    instrument: { kind: 'program', program: 71 },
    writtenAs: 'in A',
    clips: [newClip('c', 'c', notes)],
  })
  const sung = ['high', 'low', 'up', 'down'].map((text, index) =>
    newWords('lyric', (index * quarter) / 2, made.track.id, text),
  )
  return { project: addWords(made.project, sung), trackId: made.track.id }
})()
const sungIn = (project: Project, trackId: string) =>
  project.words.filter((words) => words.trackId === trackId).map(({ text }) => text)
const upper = new Set([1, 3, 5, 7, 9, 11, 13, 15])
const lower = new Set([2, 4, 6, 8, 10, 12, 14, 16])

test('words go with the notes they are sung on when a track is taken apart, and are on the page once', () => {
  const apart = putOnTracks(duet.project, duet.trackId, [
    { name: 'upper', noteIds: upper },
    { name: 'lower', noteIds: lower },
  ])
  const [high, low] = apart.trackIds
  expect(sungIn(apart.project, high!)).toEqual(['high', 'up'])
  expect(sungIn(apart.project, low!)).toEqual(['low', 'down'])
  expect(apart.project.tracks.find(({ id }) => id === high)!.writtenAs).toBe('in A')
  const onPage = (project: Project) =>
    scoreOf(project).parts.map((part) =>
      part.measures
        .flat()
        .flatMap(({ elements }) =>
          elements.flatMap((element) =>
            element.kind === 'chord' && element.lyric ? [element.lyric.text] : [],
          ),
        ),
    )
  expect(onPage(apart.project)).toEqual([
    ['high', 'up'],
    ['low', 'down'],
  ])
  expect(onPage(bringBack(apart.project, duet.trackId)).flat().sort()).toEqual(['down', 'high', 'low', 'up'])
  const together = putTogether(apart.project, apart.trackIds, 'voices')
  expect(sungIn(together.project, together.trackId!)).toEqual(['high', 'low', 'up', 'down'])
})

test('words go where their bars go when a track is split, are copied with it, and are gone with it', () => {
  const split = splitTrack(duet.project, duet.trackId, quarter)
  expect(sungIn(split.project, duet.trackId)).toEqual(['high', 'low'])
  expect(sungIn(split.project, split.newTrackId!)).toEqual(['up', 'down'])
  const copied = duplicateTrack(duet.project, duet.trackId)
  expect(sungIn(copied, copied.tracks[1]!.id)).toEqual(['high', 'low', 'up', 'down'])
  expect(deleteTrack(duet.project, duet.trackId).words).toEqual([])
})

test('words stay with their notes when the tempo changes under them', () => {
  const faster = setTempos(duet.project, [{ tick: 0, tempoBpm: 200 }], 'clock')
  const onsets = faster.tracks[0]!.clips[0]!.notes.map(({ onsetTicks }) => onsetTicks)
  expect(faster.words.map(({ tick }) => tick)).toEqual(onsets.slice(0, 4))
})
