import { drawnNote } from '../event/notes.testing'
import { emptyProject, newClip, newTrack } from '../project/create'
import { scoreOf } from '../project/onPage'
import type { Track } from '../project/schema'
import { transpositions, usualTransposition, writtenKey } from './transposition'

const program = (number: number) => ({ kind: 'program' as const, program: number })

test('a part is written by what it is called, else by what it sounds as', () => {
  for (const [name, number, expected] of [
    ['Clarinet', 71, 'in B♭'],
    ['Clarinet in A', 71, 'in A'],
    ['Trumpet in C', 56, 'as it sounds'],
    ['Bb trumpet', 0, 'in B♭'],
    ['Horn (F)', 0, 'in F'],
    ['Tenor Sax', 0, 'in B♭, a ninth'],
    ['Alto saxophone', 66, 'in E♭'],
    ['Piccolo', 73, 'an octave lower'],
    ['Double bass', 0, 'an octave higher'],
    ['Flute', 73, 'as it sounds'],
    ['Ada’s piano', 0, 'as it sounds'],
  ] as const)
    expect([name, usualTransposition(program(number), name)]).toEqual([name, expected])
  expect(usualTransposition({ kind: 'drums' }, 'Horn in F')).toBe('as it sounds')
})

test('every way of writing has the steps that its semitones are written with', () => {
  const steps = [0, 1, 1, 2, 2, 3, 3, 4, 5, 5, 6, 6]
  for (const { semitones, steps: written } of Object.values(transpositions)) {
    const size = Math.abs(semitones)
    expect(Math.abs(written)).toBe(Math.floor(size / 12) * 7 + steps[size % 12]!)
    expect(Math.sign(written)).toBe(Math.sign(semitones))
  }
})

test('a part has the key it is written in, and no more signs than seven', () => {
  const key = (fifths: number) => ({ fifths, mode: 'major' as const })
  expect(writtenKey(key(0), transpositions['in B♭'])).toEqual(key(2))
  expect(writtenKey(key(-1), transpositions['in A'])).toEqual(key(-4))
  expect(writtenKey(key(0), transpositions['in E♭'])).toEqual(key(3))
  expect(writtenKey(key(5), transpositions['in E♭'])).toEqual(key(-4))
  expect(writtenKey(key(-5), transpositions['an octave higher'])).toEqual(key(-5))
  for (let fifths = -7; fifths <= 7; fifths++)
    for (const transposition of Object.values(transpositions))
      expect(Math.abs(writtenKey(key(fifths), transposition).fifths)).toBeLessThanOrEqual(7)
})

test('the page has written pitch, spelled in its own key; concert pitch on request; and the choice wins', () => {
  const scale = [0, 2, 4, 5, 7, 9, 11, 12].map((step, index) =>
    drawnNote({ id: index + 1, onsetTicks: index * 10_080, key: 58 + step }),
  )
  const { project } = newTrack(emptyProject('x', 'x', 0), {
    name: 'Clarinet',
    instrument: program(71),
    clips: [newClip('c', 'c', scale)],
  })
  const pitches = (of: typeof project) =>
    scoreOf(of)
      .parts[0]!.measures.flat()
      .flatMap(({ elements }) =>
        elements.flatMap((element) =>
          element.kind === 'chord'
            ? element.notes.map(({ pitch }) => `${pitch.step}${pitch.alter}${pitch.octave}`)
            : [],
        ),
      )
  // B flat major sounds, C major is written.
  expect(pitches(project)).toEqual(['C04', 'D04', 'E04', 'F04', 'G04', 'A04', 'B04', 'C05'])
  expect(scoreOf(project).parts[0]!.keys[0]!.fifths).toBe(0)
  const concert = { ...project, scoreSettings: { ...project.scoreSettings, isConcertPitch: true } }
  expect(pitches(concert)[0]).toBe('B-13')
  const veryHigh = {
    ...project,
    tracks: project.tracks.map(
      (track): Track => ({
        ...track,
        writtenAs: 'in B♭, a ninth',
        clips: track.clips.map((clip) => ({
          ...clip,
          notes: clip.notes.map((note) => ({ ...note, key: note.key + 57 })),
        })),
      }),
    ),
  }
  expect(scoreOf(veryHigh).parts[0]!.transposition.semitones).toBe(0)
  const chosen = {
    ...project,
    tracks: project.tracks.map((track): Track => ({ ...track, writtenAs: 'in A' })),
  }
  expect(pitches(chosen)[0]).toBe('D-14')
})
