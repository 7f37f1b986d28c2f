import type { ControllerEvent, Note } from '@/core/event/note'
import { eventRows, eventTitles } from './eventRows'

const note = (id: number, onsetTicks: number, key: number): Note => ({
  id,
  onsetTicks,
  durationTicks: 5000 - id,
  key,
  velocity: 60 + id,
  releaseVelocity: 64,
  channel: 1,
  origin: { kind: 'drawn' },
})
const notes = [note(1, 0, 64), note(2, 100, 60), note(3, 100, 62)]
const pedal: ControllerEvent = { tick: 100, channel: 2, kind: 'controller', number: 64, value: 127 }
const program: ControllerEvent = { tick: 50, channel: 1, kind: 'program', number: 0, value: 40 }
const sections = [{ tick: 100, name: 'A' }]
const words = [{ tick: 100, kind: 'lyric' as const, trackId: 'track-1', text: 'sea' }]
const list = (filter: string, by: Parameters<typeof eventRows>[5]['by'] = 'position', isDescending = false) =>
  eventRows(notes, [program, pedal], sections, words, filter, { by, isDescending }).map((row) =>
    row.kind === 'note'
      ? row.note.id
      : row.kind === 'event'
        ? row.event.kind
        : row.kind === 'words'
          ? row.words.text
          : row.section.name,
  )

test('everything is listed by its place: the section, words, what is set, then the notes', () => {
  expect(list('everything')).toEqual([1, 'program', 'A', 'sea', 'controller', 2, 3])
  expect(list('everything', 'position', true)).toEqual([3, 2, 'controller', 'sea', 'A', 'program', 1])
})

test('it is filtered by what it is and sorted by any column', () => {
  expect(eventTitles([pedal, program, pedal])).toEqual(['program', 'sustain pedal (64)'])
  expect(list('sustain pedal (64)')).toEqual(['controller'])
  expect(list('sections')).toEqual(['A'])
  expect(list('words')).toEqual(['sea'])
  expect(list('notes', 'what')).toEqual([2, 3, 1])
  expect(list('notes', 'length')).toEqual([3, 2, 1])
  expect(list('everything', 'value', true)[0]).toBe('controller')
})
