import fc from 'fast-check'
import type { ControllerEvent } from '../event/note'
import { drawnNote } from '../event/notes.testing'
import { writeMusicXml } from '../formats/musicXml'
import { emptyProject, newClip, newTrack } from '../project/create'
import { headingsOf, scoreOf } from '../project/onPage'
import { heldByPedal, pedalSpansOf, writtenPedal } from './pedal'

const quarter = 10_080
const press = (tick: number, value: number): ControllerEvent => ({
  tick,
  channel: 1,
  kind: 'controller',
  number: 64,
  value,
})

test('down and up again, half-way values by the middle of the range, one that is never lifted ends with the music', () => {
  const controllers = [
    press(100, 127),
    press(200, 90),
    press(300, 63),
    press(400, 64),
    press(500, 0),
    press(600, 80),
  ]
  expect(pedalSpansOf(controllers, 900)).toEqual([
    { startTicks: 100, endTicks: 300 },
    { startTicks: 400, endTicks: 500 },
    { startTicks: 600, endTicks: 900 },
  ])
  expect(pedalSpansOf([press(600, 80)], 500)).toEqual([])
})

test('signs follow each other, whatever the foot does', () => {
  const events = fc.array(fc.record({ tick: fc.nat(400_000), value: fc.nat(127) }), { maxLength: 60 })
  fc.assert(
    fc.property(events, (list) => {
      const controllers = list.sort((a, b) => a.tick - b.tick).map(({ tick, value }) => press(tick, value))
      let before = 0
      for (const { startTicks, endTicks } of writtenPedal(pedalSpansOf(controllers, 500_000))) {
        expect(startTicks).toBeGreaterThanOrEqual(before)
        expect(endTicks).toBeGreaterThan(startTicks)
        before = endTicks
      }
    }),
  )
})

test('they stand beneath the lowest staff, in the bars they belong to, and can be switched off', () => {
  const notes = Array.from({ length: 8 }, (_, index) =>
    drawnNote({
      id: index + 1,
      onsetTicks: index * quarter,
      durationTicks: 9000,
      key: index % 2 === 0 ? 40 : 72,
    }),
  )
  // Each time a little after its note, as feet are.
  const controllers = [0, 4].flatMap((at) => [
    press(at * quarter + 1200, 127),
    press((at + 4) * quarter - 300, 0),
  ])
  const { project } = newTrack(emptyProject('pedal', 'Pedal', 0), {
    name: 'Piano',
    instrument: { kind: 'program', program: 0 },
    clips: [newClip('c', 'c', notes, { controllers })],
  })
  const signs = (xml: string) =>
    [...xml.matchAll(/<pedal type="(\w+)"[^>]*>.*?<staff>(\d)<\/staff>/g)].map(([, type, staff]) => [
      type,
      staff,
    ])
  const xml = writeMusicXml(scoreOf(project), headingsOf(project))
  expect(signs(xml)).toEqual([
    ['start', '2'],
    ['stop', '2'],
    ['start', '2'],
    ['stop', '2'],
  ])
  const off = { ...project, scoreSettings: { ...project.scoreSettings, readsPedal: false } }
  expect(writeMusicXml(scoreOf(off), headingsOf(off))).not.toContain('<pedal')
  // A new sign on the page says that the one before has ended.
  const page = writeMusicXml(scoreOf(project), headingsOf(project), { measures: { from: 0, to: 2 } })
  expect(signs(page).map(([type]) => type)).toEqual(['start', 'start', 'stop'])
})

test('notes are as long as the pedal holds them where that is asked for, until their key is struck again', () => {
  const note = (id: number, at: number, length: number, key: number) =>
    drawnNote({ id, onsetTicks: at * quarter, durationTicks: length * quarter, key })
  const notes = [note(1, 0, 1, 48), note(2, 1, 0.5, 60), note(3, 2, 0.5, 60), note(4, 5, 0.5, 62)]
  const held = heldByPedal(notes, [{ startTicks: quarter / 2, endTicks: 4 * quarter }])
  expect(held.map(({ durationTicks }) => durationTicks / quarter)).toEqual([4, 1, 2, 0.5])
  expect(heldByPedal(notes, [])).toBe(notes)
})
