import fc from 'fast-check'
import { createDemo } from '../demo/harbourEvening'
import { addTakes, deleteTakes, keepBeside } from './commands'
import { soundingNotes } from './create'
import { misfit } from './fit'
import { type Project, takeWays } from './schema'
import { layTake, liesAmongOthers, wayOfTake } from './takeWays'

const demo = createDemo('demo', 0, 'computer-keyboard').project
const harp = demo.tracks[2]!
const piano = demo.tracks[1]!
const bar = 40_320
const serial = 9000

/** Two bars played on the harp and the piano, over the music that is there. */
function recorded(mode: 'fresh' | 'layered' = 'fresh'): Project {
  const take = {
    ...demo.takes[0]!,
    serial,
    name: 'Second thought',
    startTicks: bar * 4,
    durationMs: (8 * 60_000) / 92,
    listeners: [harp, piano].map(({ id }) => ({ trackId: id, routes: [] })),
  }
  const tracks = [harp, piano].map((track, index) => ({
    trackId: track.id,
    notes: [0, 1, 2].map((place) => ({
      ...soundingNotes(track)[0]!,
      id: 9100 + index * 10 + place,
      key: 72 + place,
      onsetTicks: bar * 4 + place * 10_080,
      origin: { kind: 'played' as const, takeSerial: serial, eventIndex: index * 10 + place },
    })),
    controllers: [],
  }))
  return addTakes(demo, [{ take, tracks }], 9200, mode)
}

const playedOf = (project: Project) =>
  project.tracks
    .flatMap((track) => soundingNotes(track))
    .filter(({ id }) => id >= 9100 && id < 9200)
    .map(({ id }) => id)
    .sort((a, b) => a - b)

const soundsOf = (track: Project['tracks'][number]) => soundingNotes(track).map(({ id }) => id)

const namesOf = (project: Project) => project.tracks.map(({ name }) => name)

test('as another take, what was there rests in its stretch; over it, both sound', () => {
  const fresh = recorded()
  expect(wayOfTake(fresh, serial)).toBe('fresh')
  const layered = layTake(fresh, serial, 'layered')
  expect(wayOfTake(layered, serial)).toBe('layered')
  expect(soundingNotes(layered.tracks[2]!)).toHaveLength(soundingNotes(harp).length + 3)
  expect(layTake(layered, serial, 'fresh')).toEqual(fresh)
})

test('as a voice, it sounds with what is there and is a line of its own; nothing else is told a voice', () => {
  const voice = layTake(recorded(), serial, 'voice')
  expect(wayOfTake(voice, serial)).toBe('voice')
  const heard = soundingNotes(voice.tracks[2]!)
  expect(heard.filter((note) => note.voice === 2).map(({ id }) => id)).toEqual([9100, 9101, 9102])
  expect(heard.filter((note) => note.voice !== 2)).toEqual([...soundingNotes(harp)])
})

test('on a staff, it has a part beneath the one it was recorded on, which is as it was', () => {
  const staff = layTake(recorded(), serial, 'staff')
  expect(wayOfTake(staff, serial)).toBe('staff')
  expect(namesOf(staff)).toEqual(
    demo.tracks.flatMap(({ id, name }) =>
      id === harp.id || id === piano.id ? [name, `${name} Second thought`] : [name],
    ),
  )
  const own = staff.tracks[namesOf(staff).indexOf(`${harp.name} Second thought`)]!
  expect(soundingNotes(own).map(({ id }) => id)).toEqual([9100, 9101, 9102])
  expect(own).toMatchObject({ instrument: harp.instrument, routes: [] })
  expect(demo.tracks.map(({ channel }) => channel)).not.toContain(own.channel)
  const beside = staff.tracks.find(({ id }) => id === harp.id)!
  expect(soundingNotes(beside)).toEqual(soundingNotes(harp))
})

test('a take on a staff of its own that is deleted leaves no empty track behind', () => {
  const staff = layTake(recorded(), serial, 'staff')
  expect(namesOf(deleteTakes(staff, [serial]))).toEqual(namesOf(demo))
  // A track that heard it stays, though it was all there was.
  const first = demo.takes[0]!.serial
  expect(namesOf(deleteTakes(demo, [first]))).toEqual(namesOf(demo))
})

test('a take that lies there as it was played too is laid as what was made of it, once', () => {
  const fresh = recorded()
  const { take, tracks } = {
    take: fresh.takes.at(-1)!,
    tracks: [
      {
        trackId: harp.id,
        notes: [{ ...soundingNotes(harp)[0]!, id: 9300, key: 40, onsetTicks: bar * 4 }],
        controllers: [],
      },
    ],
  }
  const beside = keepBeside(fresh, [{ take, tracks }])
  for (const way of takeWays) {
    const laid = layTake(beside, serial, way)
    expect(wayOfTake(laid, serial)).toBe(way)
    expect(playedOf(laid)).toEqual([9100, 9101, 9102, 9110, 9111, 9112])
    expect(laid.tracks.flatMap((track) => soundingNotes(track)).some(({ id }) => id === 9300)).toBe(false)
  }
})

test('however a take is laid and laid again, it is all there, fits, and nothing that was there before is changed', () => {
  fc.assert(
    fc.property(
      fc.constantFrom('fresh' as const, 'layered' as const),
      fc.array(fc.constantFrom(...takeWays), { minLength: 1, maxLength: 6 }),
      (mode, ways) => {
        const start = recorded(mode)
        let project = start
        for (const way of ways) {
          project = layTake(project, serial, way)
          expect(wayOfTake(project, serial)).toBe(way)
          expect(playedOf(project)).toEqual([9100, 9101, 9102, 9110, 9111, 9112])
          for (const before of demo.tracks) {
            const track = project.tracks.find(({ id }) => id === before.id)!
            expect(track.clips[0]?.notes).toBe(before.clips[0]?.notes)
            if (way !== 'fresh')
              expect(soundingNotes(track).filter(({ id }) => id < 9100)).toEqual([...soundingNotes(before)])
          }
          expect(misfit(project, start)).toBeNull()
        }
        const back = layTake(layTake(project, serial, 'layered'), serial, 'fresh')
        expect(namesOf(back)).toEqual(namesOf(demo))
        expect(back.tracks.map(soundsOf)).toEqual(recorded().tracks.map(soundsOf))
      },
    ),
  )
})

test('a take that is alone, or not there, stays as it is', () => {
  const first = demo.takes[0]!.serial
  for (const way of takeWays) {
    expect(soundingNotes(layTake(demo, first, way).tracks[2]!)).toEqual(soundingNotes(harp))
    expect(layTake(demo, 77, way)).toBe(demo)
  }
  expect(liesAmongOthers(demo, first)).toBe(false)
  expect(liesAmongOthers(recorded(), first)).toBe(true)
  expect(liesAmongOthers(layTake(recorded(), serial, 'staff'), serial)).toBe(true)
})
