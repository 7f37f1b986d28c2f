import { createDemo } from '@/core/demo/harbourEvening'
import { newSlot } from '@/core/effects/catalogue'
import { deleteTrack, setEffects } from '@/core/project/commands'
import { soundingNotes } from '@/core/project/create'
import { findNote } from '@/core/project/findNote'
import { printTracks } from '@/core/project/printing'
import { originWords } from './originWords'

const demo = createDemo('demo', 0, 'computer-keyboard').project
const harp = demo.tracks[2]!

test('of a played note its take is named', () => {
  expect(originWords(soundingNotes(harp)[0]!, demo)).toBe('played, First rehearsal')
  expect(originWords(soundingNotes(harp)[0]!, { ...demo, takes: [] })).toBe('played, an earlier take')
})

test('of a printed note the one it came from, while that is there', () => {
  const withEffect = setEffects(demo, harp.id, [newSlot('transpose', 'a', { octaves: 1 })])
  const { project, printedTrackIds } = printTracks(withEffect, [harp.id], { stretch: null, isSplit: false })
  const printed = project.tracks.find((track) => track.id === printedTrackIds[0])!
  const [note] = soundingNotes(printed)
  expect(originWords(note!, project)).toMatch(/^printed from [A-G]♭?♯?\d, bar 1 beat 1, Sefa’s harp$/)
  expect(originWords(note!, deleteTrack(project, harp.id))).toBe('printed from a note that is gone')
  expect(findNote(project, note!.id)!.trackName).toBe('Sefa’s harp, printed')
})

test('others say what they are', () => {
  const [note] = soundingNotes(harp)
  const of = (origin: Parameters<typeof originWords>[0]['origin']) => originWords({ ...note!, origin }, demo)
  expect([of({ kind: 'drawn' }), of({ kind: 'generated' }), of({ kind: 'imported', eventIndex: 0 })]).toEqual(
    ['drawn', 'generated', 'from the file'],
  )
})
