import { drawnNote } from '../event/notes.testing'
import { writeMusicXml } from '../formats/musicXml'
import { emptyProject, newClip, newTrack } from '../project/create'
import { headingsOf, scoreOf } from '../project/onPage'
import type { Project } from '../project/schema'

const quarter = 10_080

/** Eight bars of quarters; those of the bars named are held into the next note. */
function piece(legatoBars: readonly number[]): Project {
  const notes = Array.from({ length: 32 }, (_, index) =>
    drawnNote({
      id: index + 1,
      onsetTicks: index * quarter,
      durationTicks: legatoBars.includes(index >> 2) && index % 4 < 3 ? 10_400 : 8600,
      key: 67 + (index % 4) * 2,
    }),
  )
  return newTrack(emptyProject('slurs', 'Slurs', 0), {
    name: 'Flute',
    instrument: { kind: 'program', program: 73 },
    clips: [newClip('c', 'c', notes)],
  }).project
}

const spans = (project: Project) =>
  scoreOf(project).parts[0]!.slurs.map(({ startTicks, endTicks }) => [
    startTicks / quarter,
    endTicks / quarter,
  ])

test('what was held from note to note, among notes that were not, has a slur', () => {
  expect(spans(piece([1, 4]))).toEqual([
    [4, 7],
    [16, 19],
  ])
})

test('where nothing is bound there is none, nor where everything is', () => {
  expect(spans(piece([]))).toEqual([])
  const all = piece([])
  const held = {
    ...all,
    tracks: all.tracks.map((track) => ({
      ...track,
      clips: track.clips.map((clip) => ({
        ...clip,
        notes: clip.notes.map((note) => ({ ...note, durationTicks: 10_300 })),
      })),
    })),
  }
  expect(spans(held)).toEqual([])
})

test('in a file each slur begins and ends; an excerpt has what of it lies within', () => {
  const project = piece([1, 4])
  const ends = (xml: string) => [...xml.matchAll(/<slur type="(\w+)"/g)].map(([, type]) => type)
  expect(ends(writeMusicXml(scoreOf(project), headingsOf(project)))).toEqual([
    'start',
    'stop',
    'start',
    'stop',
  ])
  const excerpt = (from: number, to: number) =>
    ends(writeMusicXml(scoreOf(project), headingsOf(project), { measures: { from, to } }))
  expect(excerpt(0, 1)).toEqual([])
  expect(excerpt(1, 2)).toEqual(['start', 'stop'])
  const off = { ...project, scoreSettings: { ...project.scoreSettings, readsSlurs: false } }
  expect(writeMusicXml(scoreOf(off), headingsOf(off))).not.toContain('<slur')
})
