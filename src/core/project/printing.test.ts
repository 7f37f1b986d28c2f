import { newSlot } from '../effects/catalogue'
import type { Note } from '../event/note'
import { changeTrack, deleteTrack, setEffects } from './commands'
import { contextOf } from './context'
import { emptyProject, newClip, newTrack, soundingNotes } from './create'
import { addGenerator, changeGenerator } from './generatorCommands'
import { bringBack, hearInTurn } from './madeFrom'
import {
  hasEffects,
  playingEndTicks,
  printGenerators,
  printTracks,
  resultOf,
  takeAndRepeat,
} from './printing'
import type { Project } from './schema'

const bar = 40_320
const whole = { stretch: null, isSplit: false }

function noteOf(id: number, onsetTicks: number, key: number): Note {
  return {
    id,
    onsetTicks,
    durationTicks: 5040,
    key,
    velocity: 80,
    releaseVelocity: 64,
    channel: 1,
    origin: { kind: 'drawn' },
  }
}

/** A track with three notes, one at the start of each of three bars. */
function pieceWithTrack(): { project: Project; trackId: string } {
  const notes = [noteOf(1, 0, 60), noteOf(2, bar, 62), noteOf(3, bar * 2, 64)]
  const { project, track } = newTrack(
    { ...emptyProject('p', 'Piece', 0), nextSerial: 10 },
    {
      name: 'Lute',
      instrument: { kind: 'program', program: 24 },
      clips: [newClip('c', 'Played', notes)],
    },
  )
  return { project, trackId: track.id }
}

const withEffects = (...kinds: Parameters<typeof newSlot>[]) => {
  const { project, trackId } = pieceWithTrack()
  const slots = kinds.map((args) => newSlot(...args))
  return { project: setEffects(project, trackId, slots), trackId }
}
const trackOf = (project: Project, id: string) => project.tracks.find((track) => track.id === id)!
const keysOn = (project: Project, id: string) => soundingNotes(trackOf(project, id)).map((note) => note.key)

describe('printing a chain', () => {
  test('gives the notes that were heard, right below their source, which rests with its effects', () => {
    const { project, trackId } = withEffects(['transpose', 'a', { semitones: 12 }])
    const heard = resultOf(trackOf(project, trackId), contextOf(project), 0).notes
    const { project: next, printedTrackIds, leftOut } = printTracks(project, [trackId], whole)
    expect(leftOut).toBe(0)
    expect(next.tracks.map((track) => track.id)).toEqual([trackId, ...printedTrackIds])
    expect(keysOn(next, printedTrackIds[0]!)).toEqual(heard.map((note) => note.key))
    const source = trackOf(next, trackId)
    expect([source.isMuted, source.doEffectsRest, hasEffects(source)]).toEqual([true, true, false])
    // Nothing of the chain itself was changed.
    expect(source.effects).toEqual(trackOf(project, trackId).effects)
    expect(trackOf(next, printedTrackIds[0]!).madeFrom).toEqual({ trackIds: [trackId], by: 'printing' })
    // Each printed note knows the note it came from.
    expect(soundingNotes(trackOf(next, printedTrackIds[0]!)).map((note) => note.origin)).toEqual(
      [1, 2, 3].map((fromNoteId) => ({ kind: 'printed', fromNoteId })),
    )
  })

  test('of a stretch takes what begins in it, and of nothing prints nothing', () => {
    const { project, trackId } = withEffects(['transpose', 'a', { semitones: 1 }])
    const printed = printTracks(project, [trackId], {
      ...whole,
      stretch: { startTicks: bar, endTicks: bar * 2 },
    })
    expect(keysOn(printed.project, printed.printedTrackIds[0]!)).toEqual([63])
    const plain = pieceWithTrack()
    expect(printTracks(plain.project, [plain.trackId, 'nobody'], whole).project).toBe(plain.project)
  })

  test('splits by the channels that were dealt', () => {
    const { project, trackId } = withEffects(['chordInKey', 'a'], ['dealVoices', 'b', { voices: 3 }])
    const split = printTracks(project, [trackId], { stretch: null, isSplit: true })
    expect(split.printedTrackIds).toHaveLength(3)
    const names = split.printedTrackIds.map((id) => trackOf(split.project, id).name)
    expect(names).toEqual(['Lute, voice 1', 'Lute, voice 2', 'Lute, voice 3'])
    for (const id of split.printedTrackIds) {
      const track = trackOf(split.project, id)
      expect(new Set(soundingNotes(track).map((note) => note.channel))).toEqual(new Set([track.channel]))
      expect(soundingNotes(track)).toHaveLength(3)
    }
  })

  test('what was changed while it played is printed as it was heard, and comes back with the effects', () => {
    const { project, trackId } = withEffects(['transpose', 'a', { semitones: 12 }])
    const later = newSlot('transpose', 'a', { semitones: -12 })
    const played = changeTrack(project, trackId, (track) => ({
      ...track,
      effectChanges: [{ tick: bar, slots: [later] }],
    }))
    const { project: next, printedTrackIds } = printTracks(played, [trackId], whole)
    expect(keysOn(next, printedTrackIds[0]!)).toEqual([72, 50, 52])
    const back = trackOf(bringBack(next, trackId), trackId)
    expect(back.effectChanges).toHaveLength(1)
    expect(hasEffects(back)).toBe(true)
  })

  test('a second print of what has been printed prints nothing twice', () => {
    const { project, trackId } = withEffects(['transpose', 'a', { semitones: 12 }])
    const once = printTracks(project, [trackId], whole).project
    expect(printTracks(once, [trackId], whole).printedTrackIds).toEqual([])
  })
})

describe('after printing', () => {
  const { project, trackId } = withEffects(['transpose', 'a', { semitones: 12 }])
  const { project: printed, printedTrackIds } = printTracks(project, [trackId], whole)
  const printedId = printedTrackIds[0]!
  const heard = (each: Project) => each.tracks.filter((track) => !track.isMuted).map((track) => track.id)

  test('source and print are heard in turn, the effects at rest', () => {
    const source = hearInTurn(printed, trackId, 'sources')
    expect(heard(source)).toEqual([trackId])
    expect(hasEffects(trackOf(source, trackId))).toBe(false)
    expect(heard(hearInTurn(source, trackId, 'made'))).toEqual([printedId])
  })

  test('the source comes back with its effects, also when its print is gone', () => {
    const back = bringBack(printed, trackId)
    expect(heard(back)).toEqual([trackId])
    expect(hasEffects(trackOf(back, trackId))).toBe(true)
    const alone = bringBack(deleteTrack(printed, printedId), trackId)
    expect(hasEffects(trackOf(alone, trackId))).toBe(true)
    expect(trackOf(alone, trackId).isMuted).toBe(false)
  })

  test('bars can be taken and repeated; what was printed stays beside them', () => {
    const next = takeAndRepeat(printed, printedId, { startTicks: bar, endTicks: bar * 2 }, 3)
    const notes = soundingNotes(trackOf(next, printedId))
    expect(notes.map((note) => [note.onsetTicks, note.key])).toEqual([
      [bar, 74],
      [bar * 2, 74],
      [bar * 3, 74],
    ])
    expect(new Set(notes.map((note) => note.id)).size).toBe(3)
    expect(next.nextSerial).toBeGreaterThan(Math.max(...notes.map((note) => note.id)))
    expect(trackOf(next, printedId).clips.map((clip) => clip.isSounding)).toEqual([false, true])
    expect(takeAndRepeat(printed, 'nobody', { startTicks: 0, endTicks: bar }, 2)).toBe(printed)
  })
})

describe('printing generators', () => {
  test('gives a track for each stream, and the generator rests', () => {
    const { project, generator } = addGenerator(emptyProject('p', 'Piece', 0), 'accompaniment')
    const stretch = { startTicks: 0, endTicks: bar * 4 }
    const { project: next, printedTrackIds } = printGenerators(project, [generator.id], stretch)
    const printed = printedTrackIds.map((id) => trackOf(next, id))
    expect(printed.map((track) => track.channel)).toEqual([2, 10, 3])
    expect(printed[1]!.instrument).toEqual({ kind: 'drums' })
    for (const track of printed) {
      const notes = soundingNotes(track)
      expect(notes.length).toBeGreaterThan(3)
      expect(notes.every((note) => note.channel === track.channel && note.onsetTicks < bar * 4)).toBe(true)
    }
    expect(next.generators[0]!.isPlaying).toBe(false)
    const ids = printed.flatMap((track) => soundingNotes(track).map((note) => note.id))
    expect(new Set(ids).size).toBe(ids.length)
    expect(next.nextSerial).toBeGreaterThan(Math.max(...ids))
  })
})

describe('where playing ends', () => {
  test('with the last note, and with what effects make go on after it', () => {
    const plain = pieceWithTrack()
    expect(playingEndTicks(plain.project)).toBe(bar * 2 + 5040)
    const { project } = withEffects(['echo', 'a'])
    expect(playingEndTicks(project)).toBeGreaterThan(bar * 2 + 5040)
  })

  test('with a generator that ends; never with one that goes on', () => {
    const { project, generator } = addGenerator(emptyProject('p', 'Piece', 0), 'chords')
    // Four bars, repeated once, four choruses.
    expect(Math.ceil(playingEndTicks(project)! / bar)).toBe(32)
    const resting = changeGenerator(project, generator.id, (old) => ({ ...old, isPlaying: false }))
    expect(playingEndTicks(resting)).toBe(0)
    expect(playingEndTicks(addGenerator(project, 'lanes').project)).toBeNull()
  })
})
