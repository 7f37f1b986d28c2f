import type { Activity } from '@/engine/protocol'
import { createLiveNotes } from './liveNotes'

const stroke = (isOn: boolean, ticks: number | null, trackIds = ['t'], pass = 0): Activity => ({
  portId: 'A',
  channel: 1,
  key: 60,
  velocity: isOn ? 80 : 0,
  isOn,
  timeMs: 0,
  ticks,
  pass,
  trackIds,
})

test('a note that is being recorded stands on each track it reaches and ends with its key', () => {
  const notes = createLiveNotes()
  notes.take([stroke(true, 100, ['t', 'u'])])
  expect(notes.list().map((note) => [note.trackId, note.endTicks])).toEqual([
    ['t', null],
    ['u', null],
  ])
  notes.take([stroke(false, 300, ['t', 'u']), stroke(true, 400), stroke(false, 500)])
  expect(notes.list().map((note) => [note.trackId, note.onsetTicks, note.endTicks])).toEqual([
    ['t', 100, 300],
    ['u', 100, 300],
    ['t', 400, 500],
  ])
  notes.clear()
  expect(notes.list()).toEqual([])
})

test('what is played outside a recording leaves nothing; the turn of a loop is kept', () => {
  const notes = createLiveNotes()
  notes.take([stroke(true, null), stroke(false, null), stroke(true, 10, ['t'], 2)])
  expect(notes.list()).toMatchObject([{ onsetTicks: 10, pass: 2 }])
})
