import fc from 'fast-check'
import { createDemo } from '../demo/harbourEvening'
import { newSlot } from '../effects/catalogue'
import type { Note, NoteOrigin } from '../event/note'
import { unpackNotes } from '../event/noteColumns'
import { TICKS_PER_QUARTER } from '../time/units'
import {
  addSource,
  addTrack,
  changeControllers,
  changeNotes,
  changeTrack,
  chooseClip,
  deleteTrack,
  drawNote,
  duplicateTrack,
  removeSource,
  setEffects,
} from './commands'
import { contentOf, headOf, joinProject, readClipContent } from './content'
import { newClip } from './create'
import { misfit } from './fit'
import { addGenerator, changeGenerator, removeGenerator } from './generatorCommands'
import { readProjectHead } from './migrate'
import { printTracks } from './printing'
import type { Project } from './schema'

const demo = createDemo('demo', 1000, 'computer-keyboard').project

/** What storage gives back of a project: through JSON and columns, as it is written. */
function readBack(project: Project): Project {
  const contents = new Map(
    project.tracks.flatMap((track) => track.clips.map((clip) => [clip.id, contentOf(clip)] as const)),
  )
  const read = joinProject(readProjectHead(JSON.parse(JSON.stringify(headOf(project)))), (clipId, name) =>
    readClipContent(name, contents.get(clipId)!),
  )
  expect(read.aside).toEqual([])
  return read.project
}

const text = fc.oneof(
  fc.string({ maxLength: 20 }),
  fc.string({ minLength: 190, maxLength: 260 }),
  fc.constant('🎻'.repeat(150)),
)
const pick = fc.nat(1000)
const number = fc.oneof(
  fc.integer({ min: -200_000, max: 3_000_000_000 }),
  fc.integer({ min: -300, max: 300 }),
)
const origin: fc.Arbitrary<NoteOrigin> = fc.oneof(
  fc.record({ kind: fc.constant('played' as const), takeSerial: fc.nat(), eventIndex: fc.nat() }),
  fc.record({ kind: fc.constant('printed' as const), fromNoteId: fc.nat() }),
  fc.record({ kind: fc.constant('imported' as const), eventIndex: fc.nat() }),
  fc.constant({ kind: 'drawn' as const }),
  fc.constant({ kind: 'generated' as const }),
)

type Change = (project: Project) => Project
const trackOf = (project: Project, n: number) =>
  project.tracks[n % Math.max(1, project.tracks.length)]?.id ?? ''

const change: fc.Arbitrary<Change> = fc.oneof(
  fc.tuple(pick).map(
    ([n]): Change =>
      (project) =>
        duplicateTrack(project, trackOf(project, n)),
  ),
  fc.tuple(pick).map(
    ([n]): Change =>
      (project) =>
        deleteTrack(project, trackOf(project, n)),
  ),
  fc.tuple(text).map(
    ([name]): Change =>
      (project) =>
        addTrack(project, { name, instrument: { kind: 'drums' } }),
  ),
  fc.tuple(pick, text).map(
    ([n, name]): Change =>
      (project) =>
        changeTrack(project, trackOf(project, n), (track) => ({ ...track, name })),
  ),
  fc.tuple(text, text).map(
    ([id, name]): Change =>
      (project) =>
        addSource(
          project,
          {
            id: `source ${id}`,
            name,
            kind: 'midiPort',
            address: { portId: id || 'p', channel: 3 },
            description: '',
            portName: name,
            group: '',
            compensationMs: 0,
            soundInput: null,
            effects: [],
          },
          { kind: 'none' },
        ),
  ),
  fc.tuple(pick).map(
    ([n]): Change =>
      (project) =>
        removeSource(project, project.sources[n % Math.max(1, project.sources.length)]?.id ?? ''),
  ),
  fc.tuple(pick, number, number, number).map(
    ([n, onsetTicks, durationTicks, key]): Change =>
      (project) =>
        drawNote(project, trackOf(project, n), { onsetTicks, durationTicks, key, velocity: 80 }).project,
  ),
  fc.tuple(pick, number).map(
    ([n, by]): Change =>
      (project) =>
        changeNotes(project, trackOf(project, n), (notes) =>
          notes.map((note) => ({ ...note, onsetTicks: note.onsetTicks + by })),
        ),
  ),
  fc.tuple(pick, fc.array(origin, { minLength: 1, maxLength: 5 })).map(
    ([n, origins]): Change =>
      (project) =>
        changeTrack(
          { ...project, nextSerial: project.nextSerial + 1 + origins.length },
          trackOf(project, n),
          (track) => ({
            ...track,
            clips: [
              ...track.clips,
              newClip(
                `clip-${project.nextSerial}`,
                'Put in',
                origins.map(
                  (each, index): Note => ({
                    id: project.nextSerial + 1 + index,
                    onsetTicks: index * TICKS_PER_QUARTER,
                    durationTicks: 100,
                    key: 60,
                    velocity: 64,
                    releaseVelocity: 64,
                    channel: 1,
                    origin: each,
                  }),
                ),
              ),
            ],
          }),
        ),
  ),
  fc.tuple(pick, number).map(
    ([n, value]): Change =>
      (project) =>
        changeControllers(project, trackOf(project, n), (old) => [
          ...old,
          { tick: 0, channel: 1, kind: 'controller', number: 64, value },
        ]),
  ),
  fc.tuple(pick, fc.integer({ min: 0, max: 40 })).map(
    ([n, count]): Change =>
      (project) =>
        setEffects(
          project,
          trackOf(project, n),
          Array.from({ length: count }, (_, k) => newSlot('octaves', `slot-${k}`)),
        ),
  ),
  fc.tuple(pick).map(
    ([n]): Change =>
      (project) => {
        const { project: printed } = printTracks(project, [trackOf(project, n)], {
          stretch: null,
          isSplit: false,
        })
        return printed
      },
  ),
  fc.tuple(pick, pick).map(
    ([n, m]): Change =>
      (project) => {
        const track = project.tracks[n % Math.max(1, project.tracks.length)]
        const clip = track?.clips[m % Math.max(1, track.clips.length)]
        return track && clip ? chooseClip(project, track.id, clip.id) : project
      },
  ),
  fc.constantFrom('lanes', 'chords', 'accompaniment', 'typed').map(
    (kind): Change =>
      (project) =>
        addGenerator(project, kind as 'lanes').project,
  ),
  fc.tuple(pick, text).map(
    ([n, name]): Change =>
      (project) =>
        changeGenerator(
          project,
          project.generators[n % Math.max(1, project.generators.length)]?.id ?? '',
          (generator) => ({
            ...generator,
            name,
          }),
        ),
  ),
  fc.tuple(pick).map(
    ([n]): Change =>
      (project) =>
        removeGenerator(project, project.generators[n % Math.max(1, project.generators.length)]?.id ?? ''),
  ),
)

test('whatever is done in whatever order, what is accepted reads back equal, every origin included', () => {
  let accepted = 0
  let refused = 0
  fc.assert(
    fc.property(fc.array(change, { minLength: 1, maxLength: 14 }), (changes) => {
      let project = demo
      for (const each of changes) {
        const next = each(project)
        const problem = misfit(next, project)
        if (problem) {
          refused++
          expect(problem).toMatch(/^[A-Z].*\.$/)
          continue
        }
        accepted++
        project = next
      }
      // Looked at as a whole it is no other than looked at change by change.
      expect(misfit(project, null)).toBeNull()
      expect(readBack(project)).toEqual(project)
    }),
    { numRuns: 60 },
  )
  expect(accepted).toBeGreaterThan(120)
  expect(refused).toBeGreaterThan(8)
})

test('names that grow are cut where they are made, never in the middle of a letter', () => {
  const named = changeTrack(demo, demo.tracks[0]!.id, (track) => ({ ...track, name: '🎻'.repeat(100) }))
  const copied = duplicateTrack(named, demo.tracks[0]!.id)
  const { name } = copied.tracks[1]!
  expect(name.endsWith(' copy')).toBe(true)
  expect(name.length).toBeLessThanOrEqual(200)
  expect(name).not.toMatch(/[\ud800-\udbff](?![\udc00-\udfff])/)
  expect(misfit(copied, named)).toBeNull()
})

test.each<[string, Change, RegExp]>([
  [
    '33 effects',
    (project) =>
      setEffects(
        project,
        project.tracks[0]!.id,
        Array.from({ length: 33 }, (_, n) => newSlot('echo', `e${n}`)),
      ),
    /^A chain can hold up to 32 effects\.$/,
  ],
  [
    '65 generators',
    (project) =>
      Array.from({ length: 65 }).reduce<Project>((next) => addGenerator(next, 'chords').project, project),
    /^A piece can hold up to 64 generators\.$/,
  ],
  [
    'a chart of 209,000 letters',
    (project) => {
      const { project: next, generator } = addGenerator(project, 'chords')
      return changeGenerator(next, generator.id, (old) => ({
        ...old,
        work: { ...old.work, chart: 'Dm7 | G7'.repeat(26_125) } as typeof old.work,
      }))
    },
    /^A chord chart can hold up to 200,000 letters\.$/,
  ],
  [
    'a note beyond the last position',
    (project) =>
      drawNote(project, project.tracks[0]!.id, {
        onsetTicks: 2_500_000_000,
        durationTicks: 1,
        key: 60,
        velocity: 1,
      }).project,
    /begin at 2500000000/,
  ],
])('%s are refused with a sentence', (_, make, sentence) => {
  const next = make(demo)
  expect(misfit(next, demo)).toMatch(sentence)
})

test('columns hold what the check lets through', () => {
  const note = demo.tracks[0]!.clips[0]!.notes[0]!
  const far = { ...note, onsetTicks: 2_000_000_000, durationTicks: 147_483_647 }
  const { notes } = contentOf(newClip('c', 'c', [far]))
  expect(unpackNotes(notes)).toEqual([far])
})
