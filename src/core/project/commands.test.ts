import { createDemo } from '../demo/harbourEvening'
import { newSlot } from '../effects/catalogue'
import {
  addTakes,
  changeControllers,
  changeNotes,
  chooseClip,
  chooseTakes,
  deleteTakes,
  deleteTrack,
  drawNote,
  duplicateTrack,
  layTakeOver,
  pickBar,
  setEffects,
} from './commands'
import { emptyProject, newTrack, projectEndTicks, soundingControllers, soundingNotes } from './create'
import { printTracks } from './printing'

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
    const next = addTakes(
      demo,
      [{ take, tracks: [{ trackId: harp.id, notes: [note], controllers: [] }] }],
      9002,
    )
    const clips = next.tracks[2]!.clips
    expect(clips.map((clip) => [clip.name, clip.isSounding, clip.notes.length])).toEqual([
      ['First rehearsal', false, 51],
      ['Second', true, 1],
    ])
    expect(next.tracks[0]).toBe(demo.tracks[0])
    expect(soundingNotes(chooseTakes(next, [demo.takes[0]!.serial]).tracks[2]!)).toHaveLength(51)
    expect(soundingNotes(chooseClip(next, harp.id, clips[0]!.id).tracks[2]!)).toHaveLength(51)
  })

  test('recording a stretch in the middle keeps what is heard around it, the same notes', () => {
    const bar = 40_320
    const take = {
      ...demo.takes[0]!,
      serial: 9000,
      name: 'Bars 5 and 6',
      startTicks: bar * 4,
      durationMs: (8 * 60_000) / 92,
    }
    const note = { ...soundingNotes(harp)[0]!, id: 9001, onsetTicks: bar * 4 }
    const next = addTakes(
      demo,
      [{ take, tracks: [{ trackId: harp.id, notes: [note], controllers: [] }] }],
      9002,
    )
    const heard = soundingNotes(next.tracks[2]!)
    const before = soundingNotes(harp)
    const outside = before.filter((each) => each.onsetTicks < bar * 4 || each.onsetTicks >= bar * 6)
    expect(heard).toHaveLength(outside.length + 1)
    expect(heard.filter((each) => each.onsetTicks >= bar * 4 && each.onsetTicks < bar * 6)).toEqual([note])
    expect(heard.filter((each) => each !== note)).toEqual(outside)
    expect(next.tracks[2]!.clips[0]!.notes).toBe(harp.clips[0]!.notes)
  })

  const secondPass = (mode: 'layered' | 'fresh') => {
    const bar = 40_320
    const own = soundingNotes(harp).filter((each) => each.onsetTicks < bar)
    const pass = (index: number) => ({
      take: {
        ...demo.takes[0]!,
        serial: 9000 + index,
        name: `Pass ${index + 1}`,
        durationMs: (4 * 60_000) / 92,
        loop: { firstSerial: 9000, pass: index + 1 },
      },
      tracks: [
        {
          trackId: harp.id,
          notes: [{ ...own[0]!, id: 9100 + index, key: 90 + index }],
          controllers: [{ tick: 10 * index, channel: 1, kind: 'bend' as const, number: 0, value: index }],
        },
      ],
    })
    return { own, next: addTakes(demo, [pass(0), pass(1), pass(2)], 9200, mode) }
  }

  test('fresh passes of a loop: the last one sounds, with the music around it', () => {
    const { own, next } = secondPass('fresh')
    const heard = soundingNotes(next.tracks[2]!)
    expect(heard).toHaveLength(51 - own.length + 1)
    expect(heard[0]).toMatchObject({ id: 9102, key: 92 })
    expect(next.takes.map((take) => take.loop?.pass ?? null)).toEqual([null, 1, 2, 3])
  })

  test('layered passes sound together with what was there, each note once', () => {
    const { next } = secondPass('layered')
    const heard = soundingNotes(next.tracks[2]!)
    expect(heard).toHaveLength(51 + 3)
    expect(new Set(heard.map((each) => each.id)).size).toBe(heard.length)
    expect(soundingControllers(next.tracks[2]!).map((event) => event.value)).toEqual([0, 1, 2])
    // Chosen afterwards: only the second pass, or all fresh ones together.
    expect(
      soundingNotes(chooseTakes(next, [9001]).tracks[2]!).filter((each) => each.id >= 9000),
    ).toMatchObject([{ id: 9101 }])
    const fresh = secondPass('fresh').next
    const layered = soundingNotes(chooseTakes(fresh, [9000, 9001, 9002]).tracks[2]!)
    expect(layered.filter((each) => each.id >= 9000)).toHaveLength(3)
    expect(new Set(layered.map((each) => each.id)).size).toBe(layered.length)
  })

  test('a take can rest and be laid over again', () => {
    const { next } = secondPass('layered')
    const rested = layTakeOver(next, 9002, false)
    expect(soundingNotes(rested.tracks[2]!)).toHaveLength(53)
    expect(soundingNotes(layTakeOver(rested, 9002, true).tracks[2]!)).toHaveLength(54)
  })

  test('bar by bar: each bar from the take that was picked, the takes unchanged, picks can be changed', () => {
    const { next } = secondPass('fresh')
    const clips = next.tracks[2]!.clips
    const bar = (index: number) => ({ startTicks: index * 40_320, lengthTicks: 40_320 })
    let picked = pickBar(next, harp.id, bar(0), clips[1]!.id)
    picked = pickBar(picked, harp.id, bar(1), clips[0]!.id)
    const heard = soundingNotes(picked.tracks[2]!)
    expect(heard.filter((each) => each.onsetTicks < 40_320)).toMatchObject([{ id: 9100 }])
    expect(heard.filter((each) => each.onsetTicks >= 40_320)).toEqual(
      soundingNotes(harp).filter((each) => each.onsetTicks >= 40_320),
    )
    expect(picked.tracks[2]!.clips.filter((clip) => clip.combinedFrom)).toHaveLength(1)
    for (const clip of clips)
      expect(picked.tracks[2]!.clips.find((each) => each.id === clip.id)!.notes).toBe(clip.notes)
    const again = pickBar(picked, harp.id, bar(0), clips[0]!.id)
    expect(soundingNotes(again.tracks[2]!)).toEqual(soundingNotes(harp))
    expect(pickBar(again, harp.id, bar(0), 'nobody')).toBe(again)
  })

  test('curves can be drawn on a track with no music, and on one with layers', () => {
    const event = { tick: 5, channel: 3, kind: 'controller' as const, number: 11, value: 80 }
    const drawn = changeControllers(demo, demo.tracks[3]!.id, (old) => [...old, event])
    expect(soundingControllers(drawn.tracks[3]!)).toEqual([event])
    const layered = changeControllers(secondPass('layered').next, harp.id, () => [event])
    expect(soundingControllers(layered.tracks[2]!)).toEqual([event])
    expect(changeControllers(demo, 'nobody', () => [event])).toBe(demo)
  })

  test('a deleted take lets the one before it be heard again', () => {
    const take = { ...demo.takes[0]!, serial: 9000, name: 'Second' }
    const note = { ...soundingNotes(harp)[0]!, id: 9001 }
    const next = addTakes(
      demo,
      [{ take, tracks: [{ trackId: harp.id, notes: [note], controllers: [] }] }],
      9002,
    )
    const deleted = deleteTakes(next, [9000])
    expect(deleted.takes).toEqual(demo.takes)
    expect(soundingNotes(deleted.tracks[2]!)).toHaveLength(51)
    expect(deleteTakes(demo, [demo.takes[0]!.serial]).tracks[2]!.clips).toEqual([])
  })

  test('printing makes a track of its own below, switches the effect off and lets the source rest', () => {
    const withEffect = setEffects(demo, harp.id, [newSlot('arpeggio', 'fx')])
    const { project, printedTrackIds } = printTracks(withEffect, [harp.id], { stretch: null, isSplit: false })
    const printed = project.tracks[3]!
    expect([printed.id]).toEqual(printedTrackIds)
    expect(printed).toMatchObject({
      name: 'Sefa’s harp, printed',
      madeFrom: { trackIds: [harp.id], by: 'printing' },
      effects: [],
    })
    expect(project.tracks[2]).toMatchObject({ isMuted: true, doEffectsRest: true, effects: [{ isOn: true }] })
    const sourceIds = new Set(soundingNotes(harp).map((note) => note.id))
    for (const note of soundingNotes(printed))
      expect(note.origin.kind === 'printed' && sourceIds.has(note.origin.fromNoteId)).toBe(true)
    expect(new Set(project.tracks.flatMap((track) => soundingNotes(track)).map((note) => note.id)).size).toBe(
      255 + soundingNotes(printed).length,
    )
  })

  test('without an effect there is nothing to print', () => {
    expect(printTracks(demo, [harp.id], { stretch: null, isSplit: false })).toEqual({
      project: demo,
      printedTrackIds: [],
      leftOut: 0,
    })
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
    expect(copied.tracks[3]!.routes).toEqual([])
  })
})
