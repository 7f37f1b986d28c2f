import fc from 'fast-check'
import type { Note } from '../event/note'
import { inventedMusic } from '../notation/writtenMusic/inventedMusic.testing'
import { amend } from '../project/amend'
import { insertBars } from '../project/bars'
import { bringInto } from '../project/bringInto'
import { changeTrack, duplicateTrack } from '../project/commands'
import { emptyProject, soundingNotes } from '../project/create'
import { readAnew, scoreOf } from '../project/onPage'
import type { Project } from '../project/schema'
import { readProjectFile, writeProjectFile } from './projectFile'
import { sayingOf } from './roundTrip.testing'
import { scoreToProject } from './scoreToProject'

const identity = { id: 'p', name: 'p', nowMs: 0 }
const bar = 4 * 10_080
const open = (music: Parameters<typeof scoreToProject>[0]) => scoreToProject(music, identity).project
const says = (project: Project) => sayingOf(scoreOf(project), { withBeams: false })
const withNotes = (project: Project, change: (notes: readonly Note[]) => readonly Note[]): Project =>
  changeTrack(project, project.tracks[0]!.id, (track) => ({
    ...track,
    clips: track.clips.map((clip) => ({ ...clip, notes: change(clip.notes) })),
  }))
const barsOf = (project: Project) => (says(project) as { parts: { bars: unknown[] }[] }).parts[0]!.bars
const isBalanced = (project: Project) =>
  scoreOf(project).parts.every(
    ({ ledger }) =>
      ledger.captured ===
      ledger.written + ledger.merged + ledger.filtered.reduce((sum, { count }) => sum + count, 0),
  )

describe('pages that a file wrote, when their notes are worked on', () => {
  test('they are stored with the project, and read from it as they were', () => {
    fc.assert(
      fc.property(inventedMusic, (music) => {
        const project = open(music)
        const file = writeProjectFile({ project, takes: [], assets: [], sounds: [] })
        expect(says(readProjectFile(file).project)).toEqual(says(project))
      }),
      { numRuns: 10, endOnFailure: true },
    )
  })

  test('what is deleted, moved or drawn changes its own bar, and every note is accounted for', () => {
    fc.assert(
      fc.property(inventedMusic, fc.nat(), fc.integer({ min: 36, max: 90 }), (music, which, key) => {
        const project = open(music)
        const notes = soundingNotes(project.tracks[0]!)
        // What is tied over a bar line belongs to both bars: notes of the last bar change nothing before it.
        const last = notes.filter(({ onsetTicks }) => onsetTicks >= 2 * bar)
        fc.pre(last.length > 0)
        const chosen = last[which % last.length]!
        // Small notes lie before the bar line, and stay where they are played without what they lead to.
        const { graces } = project.tracks[0]!.clips[0]!.manuscript!
        fc.pre(graces.every(({ ids }) => !ids.includes(chosen.id)))
        const before = barsOf(project).slice(0, 2)
        const deleted = withNotes(project, (all) => all.filter(({ id }) => id !== chosen.id))
        const moved = withNotes(project, (all) =>
          all.map((note) => (note.id === chosen.id ? { ...note, key } : note)),
        )
        const drawn = withNotes(project, (all) => [
          ...all,
          { ...chosen, id: 999_999, onsetTicks: 2 * bar + 10_080, durationTicks: 9000, key, voice: 7 },
        ])
        for (const changed of [deleted, moved, drawn]) {
          expect(barsOf(changed).slice(0, 2)).toEqual(before)
          expect(isBalanced(changed)).toBe(true)
        }
      }),
      { numRuns: 25, endOnFailure: true },
    )
  })

  test('bars that are put in before them move them along', () => {
    fc.assert(
      fc.property(inventedMusic, (music) => {
        const project = open(music)
        fc.pre(soundingNotes(project.tracks[0]!)[0]!.onsetTicks < bar)
        const { project: later } = insertBars(project, 1, 2)
        expect(barsOf(later).slice(2)).toEqual(barsOf(project))
      }),
      { numRuns: 10, endOnFailure: true },
    )
  })

  test('a copy of a track is written as its original', () => {
    fc.assert(
      fc.property(inventedMusic, (music) => {
        const project = open(music)
        const { parts } = says(duplicateTrack(project, project.tracks[0]!.id)) as { parts: unknown[] }
        expect(parts[1]).toEqual(parts[0])
      }),
      { numRuns: 10, endOnFailure: true },
    )
  })

  test('a sign that is put by hand stands over what the file wrote, and read anew the track has no page of its own', () => {
    const [music] = fc.sample(inventedMusic, { numRuns: 1, seed: 5 })
    const project = open(music!)
    const { noteIds } = scoreOf(project)
      .parts[0]!.measures.flat()
      .flatMap(({ elements }) => elements)
      .flatMap((element) => (element.kind === 'chord' ? element.notes : []))[0]!
    const signed = amend(project, [{ aspect: 'sign', noteId: noteIds[0]!, sign: 'marcato', isOn: true }])
    expect(JSON.stringify(says(signed))).toContain('marcato')
    expect(scoreOf(signed).parts[0]!.misfits).toEqual([])
    const anew = changeTrack(project, project.tracks[0]!.id, readAnew)
    expect(anew.tracks[0]!.clips[0]!.manuscript).toBeUndefined()
    expect(isBalanced(anew)).toBe(true)
  })
})

test('brought into an open piece, a page of a file is as it was, from the bar it was put at', () => {
  fc.assert(
    fc.property(inventedMusic, fc.integer({ min: 1, max: 4 }), (music, atBar) => {
      const brought = open(music)
      fc.pre(soundingNotes(brought.tracks[0]!)[0]!.onsetTicks < bar)
      const empty = { ...emptyProject('host', 'Host', 0), nextSerial: 50 }
      const next = bringInto(empty, brought, { atBar, time: 'file', inPlaceOf: null })
      if ('problem' in next) throw new Error(next.problem)
      expect(barsOf(next).slice(atBar - 1)).toEqual(barsOf(brought))
    }),
    { numRuns: 10, endOnFailure: true },
  )
})
