import { drawnNote } from '../event/notes.testing'
import { gaussian, randomSource } from '../event/randomSource.testing'
import { writeMusicXml } from '../formats/musicXml'
import { emptyProject, newClip, newTrack } from '../project/create'
import { headingsOf, scoreOf } from '../project/onPage'
import type { Project } from '../project/schema'
import { MeterMap } from '../time/meterMap'
import { findSwing, withoutSwing } from './swing'

const quarter = 10_080
/** A line of our own in eighths and quarters, 16 bars. */
const written = Array.from({ length: 16 }, (_, bar) => bar).flatMap((bar) =>
  [0, 0.5, 1, 1.5, 2, 3, 3.5]
    .map((at, index, all) => ({ at: bar * 4 + at, length: (all[index + 1] ?? 4) - at }))
    .map((note, index) => ({ ...note, key: 60 + ((bar * 5 + index * 3) % 14) })),
)

function played(secondAt: number, seed = 3): Project {
  const random = randomSource(seed)
  const swung = (quarters: number) => {
    const beat = Math.floor(quarters)
    return quarters - beat === 0.5 ? beat + secondAt : quarters
  }
  const notes = written.map(({ at, length, key }, index) => {
    const onset = swung(at) + 0.015 * gaussian(random)
    const end = swung(at + length) - 0.06
    return drawnNote({
      id: index + 1,
      onsetTicks: Math.max(0, Math.round(onset * quarter)),
      durationTicks: Math.round((end - onset) * quarter),
      key,
    })
  })
  const empty = { ...emptyProject('swing', 'Swing', 0), tempos: [{ tick: 0, tempoBpm: 130 }] }
  return newTrack(empty, {
    name: 'Line',
    instrument: { kind: 'program', program: 0 },
    staffSplitKey: null,
    clips: [newClip('c', 'c', notes)],
  }).project
}

const onsets = (project: Project) =>
  scoreOf(project)
    .parts[0]!.measures.flatMap((voices, bar) =>
      voices.flatMap(({ elements }) =>
        elements.flatMap((element) =>
          element.kind === 'chord' && !element.notes[0]!.tiesFromPrevious
            ? [bar * 4 + element.startTicks / quarter]
            : [],
        ),
      ),
    )
    .sort((a, b) => a - b)

const tuplets = (project: Project) =>
  scoreOf(project)
    .parts[0]!.measures.flat()
    .flatMap(({ elements }) => elements)
    .filter(({ tuplet }) => tuplet).length

test.each([
  [2 / 3, '2:1'],
  [0.6, '3:2'],
])('a piece that swings at %f is written in even eighths with a word, and no triplets', (secondAt, ratio) => {
  const project = played(secondAt)
  const score = scoreOf(project)
  expect(score.swing?.ratio).toBe(ratio)
  expect(onsets(project)).toEqual(written.map(({ at }) => at))
  expect(tuplets(project)).toBe(0)
  expect(writeMusicXml(score, headingsOf(project))).toContain(`swing, eighths ${ratio}`)
})

test('what is even does not swing, nor do triplets or dotted rhythms', () => {
  expect(scoreOf(played(0.5)).swing).toBeNull()
  expect(scoreOf(played(0.75)).swing).toBeNull()
  const triplets = Array.from({ length: 96 }, (_, index) =>
    drawnNote({ id: index + 1, onsetTicks: index * 3360, durationTicks: 3000, key: 60 }),
  )
  expect(findSwing([triplets], new MeterMap([{ tick: 0, numerator: 4, denominator: 4 }]))).toBeNull()
})

test('only meters that count plain quarters are made even', () => {
  const swing = { ratio: '2:1', secondAt: 2 / 3 } as const
  const notes = [0, 1, 2, 3, 4, 5].map((index) =>
    drawnNote({ id: index + 1, onsetTicks: index * 5040, durationTicks: 4800, key: 60 + index }),
  )
  const compound = new MeterMap([{ tick: 0, numerator: 6, denominator: 8 }])
  expect(withoutSwing(notes, swing, compound)).toEqual(notes)
})

test('switched off, its eighths are as uneven as they were played', () => {
  const project = played(2 / 3)
  const off = { ...project, scoreSettings: { ...project.scoreSettings, readsSwing: false } }
  expect(scoreOf(off).swing).toBeNull()
  expect(onsets(off)).not.toEqual(written.map(({ at }) => at))
})
