import fc from 'fast-check'
import { createDemo } from '../demo/harbourEvening'
import { drawnNote } from '../event/notes.testing'
import { writeMusicXml } from '../formats/musicXml'
import { verovioToolkit } from '../formats/verovioReader.testing'
import { amend } from '../project/amend'
import { changeNotes } from '../project/commands'
import { newClip, newTrack } from '../project/create'
import { headingsOf, scoreOf } from '../project/onPage'
import type { Project } from '../project/schema'
import { withCues } from './cues'
import type { ScorePart } from './score'

const bar = 40_320
const demo = createDemo('demo', 0, 'computer-keyboard').project

/** Players are early, sometimes. */
const early = 1000

/** The demo with a track that rests in some bars, the last not included. */
function resting(trackIndex: number, from: number, to: number): Project {
  return changeNotes(demo, demo.tracks[trackIndex]!.id, (notes) =>
    notes.filter(({ onsetTicks }) => onsetTicks < from * bar - early || onsetTicks >= to * bar - early),
  )
}

const cuesOf = (project: Project, partIndex: number) => {
  const names = headingsOf(project).parts.map(({ name }) => name)
  return withCues(scoreOf(project), names, partIndex)
}

const cueBars = ({ measures }: ScorePart) =>
  measures.flatMap((voices, index) => (voices.some(({ isCue }) => isCue) ? [index] : []))

test('before an entry after seven bars of rest one bar of the leading part is given, after eight two', () => {
  const seven = cuesOf(resting(2, 3, 10), 2)
  expect(cueBars(seven)).toEqual([9])
  expect(seven.texts).toEqual([{ tick: 9 * bar, text: 'Orla’s flute' }])
  expect(cueBars(cuesOf(resting(2, 2, 10), 2))).toEqual([8, 9])
  expect(cueBars(cuesOf(resting(2, 2, 5), 2))).toEqual([])
  // Nobody enters after it.
  expect(cueBars(cuesOf(resting(2, 2, 16), 2))).toEqual([])
})

test('a cue is what the other plays there, beside the rest of one’s own', () => {
  const project = resting(2, 2, 9)
  const flute = scoreOf(project).parts[0]!
  const [cue, own] = cuesOf(project, 2).measures[8]!
  const pitchesOf = (voice: typeof cue) =>
    voice!.elements.flatMap((element) => (element.kind === 'chord' ? [element.notes[0]!.pitch] : []))
  expect(pitchesOf(cue)).toEqual(pitchesOf(flute.measures[8]![0]))
  expect(own).toMatchObject({ voice: 2, elements: [{ kind: 'rest' }] })
})

test('a cue has the signs by which it is known again, and none of how it is bowed', () => {
  const project = resting(2, 2, 9)
  const [first] = scoreOf(project).parts[0]!.measures[8]![0]!.elements
  const noteId = first!.kind === 'chord' ? first!.notes[0]!.noteIds[0]! : 0
  const signed = amend(project, [
    { aspect: 'sign', noteId, sign: 'accent', isOn: true },
    { aspect: 'sign', noteId, sign: 'down bow', isOn: true },
  ])
  const [cue] = cuesOf(signed, 2).measures[8]!
  const [given] = cue!.elements
  expect(given!.kind === 'chord' && given!.articulations).toEqual(expect.arrayContaining(['accent']))
  expect(given!.kind === 'chord' && given!.articulations).not.toContain('down bow')
})

test('a cue is written for its reader: transposed, and octaves nearer where it would be far from the staff', () => {
  const withReader = (name: string, program: number, key: number) =>
    newTrack(demo, {
      name,
      instrument: { kind: 'program', program },
      clips: [
        newClip('c', 'c', [
          drawnNote({ id: 90_001, onsetTicks: 0, durationTicks: bar, key }),
          drawnNote({ id: 90_002, onsetTicks: 12 * bar, durationTicks: bar, key }),
        ]),
      ],
    }).project
  const clarinet = cuesOf(withReader('Clarinet in B♭', 71, 62), 3)
  const soundsOf = (part: ScorePart) =>
    part.measures.flatMap((voices) =>
      voices
        .filter(({ isCue }) => isCue)
        .flatMap(({ elements }) =>
          elements.flatMap((each) =>
            each.kind === 'chord' ? each.notes.map(({ key, pitch }) => ({ key, pitch })) : [],
          ),
        ),
    )
  const semitones = [0, 2, 4, 5, 7, 9, 11]
  const written = ({ step, alter, octave }: { step: string; alter: number; octave: number }) =>
    12 * (octave + 1) + semitones['CDEFGAB'.indexOf(step)]! + alter
  for (const { key, pitch } of soundsOf(clarinet)) expect(written(pitch)).toBe(key + 2)
  const tuba = cuesOf(withReader('Tuba', 58, 36), 3)
  expect(tuba.texts.some(({ text }) => /^Orla’s flute, (an octave|2 octaves) lower$/.test(text))).toBe(true)
  for (const { key, pitch } of soundsOf(tuba)) expect((key - written(pitch)) % 12).toBe(0)
})

test('whatever rests, nothing of one’s own is changed, bars stay whole, and the page is drawn with small notes', async () => {
  const toolkit = await verovioToolkit()
  let drawn = 0
  fc.assert(
    fc.property(
      fc.integer({ min: 0, max: 2 }),
      fc.integer({ min: 0, max: 8 }),
      fc.integer({ min: 4, max: 12 }),
      (trackIndex, from, length) => {
        const project = resting(trackIndex, from, Math.min(15, from + length))
        const score = scoreOf(project)
        const headings = headingsOf(project)
        const names = headings.parts.map(({ name }) => name)
        const part = withCues(score, names, trackIndex)
        for (const [index, voices] of part.measures.entries()) {
          const own = voices.filter(({ isCue }) => !isCue)
          const before = score.parts[trackIndex]!.measures[index]!
          expect(own.map(({ elements }) => elements)).toEqual(before.map(({ elements }) => elements))
          for (const { elements } of voices)
            expect(elements.reduce((sum, { durationTicks }) => sum + durationTicks, 0)).toBe(
              score.measures[index]!.lengthTicks,
            )
        }
        const written = writeMusicXml(
          { ...score, parts: [part] },
          { ...headings, parts: [headings.parts[trackIndex]!] },
          { measures: { from: 0, to: score.measures.length } },
        )
        expect(written.includes('<cue/>')).toBe(cueBars(part).length > 0)
        if (drawn++ < 3) expect(toolkit.loadData(written)).toBeTruthy()
      },
    ),
    { numRuns: 30 },
  )
})
