import { createDemo } from '../demo/harbourEvening'
import { defaultArpeggio } from '../effects/arpeggio'
import {
  addTake,
  changeNotes,
  chooseClip,
  chooseTake,
  deleteTake,
  deleteTrack,
  drawNote,
  duplicateTrack,
  printEffects,
  setEffects,
} from './commands'
import { emptyProject, newTrack, projectEndTicks, soundingNotes } from './create'

const demo = createDemo('demo', 0, 'computer-keyboard').project
const harp = demo.tracks[2]!

describe('commands', () => {
  test('never change the project they are given', () => {
    const before = JSON.stringify(demo)
    changeNotes(demo, harp.id, () => [])
    duplicateTrack(demo, harp.id)
    deleteTrack(demo, harp.id)
    drawNote(demo, harp.id, { onsetTicks: 0, durationTicks: 100, key: 60, velocity: 80 })
    expect(JSON.stringify(demo)).toBe(before)
  })

  test('a new take puts earlier clips to sleep and loses none', () => {
    const take = { ...demo.takes[0]!, serial: 9000, name: 'Second' }
    const note = { ...soundingNotes(harp)[0]!, id: 9001 }
    const next = addTake(demo, take, [{ trackId: harp.id, notes: [note], controllers: [] }], 9002)
    const clips = next.tracks[2]!.clips
    expect(clips.map((clip) => [clip.name, clip.isSounding, clip.notes.length])).toEqual([
      ['First rehearsal', false, 51],
      ['Second', true, 1],
    ])
    expect(next.tracks[0]).toBe(demo.tracks[0])
    expect(soundingNotes(chooseTake(next, demo.takes[0]!.serial).tracks[2]!)).toHaveLength(51)
    expect(soundingNotes(chooseClip(next, harp.id, clips[0]!.id).tracks[2]!)).toHaveLength(51)
  })

  test('recording a stretch in the middle keeps what is heard around it, under ids of its own', () => {
    const bar = 40_320
    const take = {
      ...demo.takes[0]!,
      serial: 9000,
      name: 'Bars 5 and 6',
      startTicks: bar * 4,
      durationMs: (8 * 60_000) / 92,
    }
    const note = { ...soundingNotes(harp)[0]!, id: 9001, onsetTicks: bar * 4 }
    const next = addTake(demo, take, [{ trackId: harp.id, notes: [note], controllers: [] }], 9002)
    const heard = soundingNotes(next.tracks[2]!)
    const before = soundingNotes(harp)
    const outside = before.filter((each) => each.onsetTicks < bar * 4 || each.onsetTicks >= bar * 6)
    expect(heard).toHaveLength(outside.length + 1)
    expect(heard.filter((each) => each.onsetTicks >= bar * 4 && each.onsetTicks < bar * 6)).toEqual([note])
    expect(heard.every((each) => !before.some((old) => old.id === each.id))).toBe(true)
    expect(next.tracks[2]!.clips[0]!.notes).toBe(harp.clips[0]!.notes)
  })

  test('a deleted take lets the one before it be heard again', () => {
    const take = { ...demo.takes[0]!, serial: 9000, name: 'Second' }
    const note = { ...soundingNotes(harp)[0]!, id: 9001 }
    const next = addTake(demo, take, [{ trackId: harp.id, notes: [note], controllers: [] }], 9002)
    const deleted = deleteTake(next, 9000)
    expect(deleted.takes).toEqual(demo.takes)
    expect(soundingNotes(deleted.tracks[2]!)).toHaveLength(51)
    expect(deleteTake(demo, demo.takes[0]!.serial).tracks[2]!.clips).toEqual([])
  })

  test('printing makes a track of its own below, switches the effect off and lets the source rest', () => {
    const withEffect = setEffects(demo, harp.id, [
      { id: 'fx', kind: 'arpeggio', isOn: true, settings: defaultArpeggio },
    ])
    const { project, printedTrackId } = printEffects(withEffect, harp.id)
    const printed = project.tracks[3]!
    expect(printed.id).toBe(printedTrackId)
    expect(printed).toMatchObject({ name: 'Sefa’s harp, printed', printedFromTrackId: harp.id, effects: [] })
    expect(project.tracks[2]).toMatchObject({ isMuted: true, effects: [{ isOn: false }] })
    const sourceIds = new Set(soundingNotes(harp).map((note) => note.id))
    for (const note of soundingNotes(printed))
      expect(note.origin.kind === 'printed' && sourceIds.has(note.origin.fromNoteId)).toBe(true)
    expect(new Set(project.tracks.flatMap((track) => soundingNotes(track)).map((note) => note.id)).size).toBe(
      255 + soundingNotes(printed).length,
    )
  })

  test('without an effect there is nothing to print', () => {
    expect(printEffects(demo, harp.id)).toEqual({ project: demo, printedTrackId: null })
  })

  test('drawing on an empty track makes a clip', () => {
    const { project, track } = newTrack(emptyProject('e', 'E', 0), {
      name: 'T',
      instrument: { kind: 'drums' },
    })
    const drawn = drawNote(project, track.id, { onsetTicks: 10, durationTicks: 20, key: 38, velocity: 90 })
    expect(soundingNotes(drawn.project.tracks[0]!)).toMatchObject([
      { id: drawn.noteId, channel: 10, key: 38 },
    ])
    expect(projectEndTicks(drawn.project)).toBe(30)
  })

  test('a copy has ids of its own', () => {
    const copied = duplicateTrack(demo, harp.id)
    const ids = copied.tracks.flatMap((track) => soundingNotes(track)).map((note) => note.id)
    expect(new Set(ids).size).toBe(ids.length)
    expect(copied.tracks[3]!.input).toBeNull()
  })
})
