import { tempoMarksOf } from './tempoMarks'

const quarter = 10_080
const printed = (...tempos: readonly (readonly [quarters: number, bpm: number])[]) =>
  tempoMarksOf(tempos.map(([quarters, tempoBpm]) => ({ tick: quarters * quarter, tempoBpm }))).flatMap(
    ({ tick, tempoBpm, print }) => (print ? [`${tick / quarter}: ${print} ${tempoBpm}`] : []),
  )

test('one mark where one is meant', () => {
  expect(printed([0, 120])).toEqual(['0: metronome 120'])
  expect(printed([0, 120], [8, 90], [16, 120])).toEqual([
    '0: metronome 120',
    '8: metronome 90',
    '16: metronome 120',
  ])
})

test('what is the same, or hardly another, is not said again; small steps add up', () => {
  expect(printed([0, 120], [8, 121], [16, 119.5])).toEqual(['0: metronome 120'])
  expect(printed([0, 120], [8, 122], [16, 124.5])).toEqual(['0: metronome 120', '16: metronome 124.5'])
})

test('a run of small changes is a word, and what comes back is a tempo', () => {
  expect(printed([0, 100], [12, 96], [13, 91], [14, 85], [15, 78], [16, 100])).toEqual([
    '0: metronome 100',
    '12: rit. 96',
    '16: a tempo 100',
  ])
})

test('a run that leads to another tempo ends with its mark', () => {
  expect(printed([0, 80], [8, 88], [9, 97], [10, 108], [12.5, 120])).toEqual([
    '0: metronome 80',
    '8: accel. 88',
    '12.5: metronome 120',
  ])
})

test('a tempo that wavers all the time is followed and hardly printed', () => {
  const wavering = Array.from({ length: 65 }, (_, bar) => [bar * 4, 100 + 2 * Math.sin(bar)] as const)
  expect(printed(...wavering).length).toBeLessThanOrEqual(2)
})

test('a tempo that was played, another at each beat, is one mark, and words where it is left', () => {
  const played = Array.from(
    { length: 96 },
    (_, beat) => [beat, 104 * (1 + 0.06 * Math.sin(beat / 3))] as const,
  )
  const marks = tempoMarksOf(played.map(([beat, tempoBpm]) => ({ tick: beat * quarter, tempoBpm })))
  expect(marks.filter(({ print }) => print).map(({ print, printedBpm }) => [print, printedBpm])).toEqual([
    ['metronome', expect.closeTo(104, -1)],
  ])
  const ending = [...played, ...[95, 88, 80, 71, 60].map((bpm, step) => [96 + step, bpm] as const)]
  expect(printed(...ending).map((mark) => mark.split(' ')[1])).toEqual(['metronome', 'rit.'])
  const breathing = [
    ...played.slice(0, 40),
    ...[95, 85, 75, 68].map((bpm, step) => [40 + step, bpm] as const),
    ...played.slice(44),
  ]
  expect(printed(...breathing).map((mark) => mark.replace(/^\S+ |\d.*$/g, '').trim())).toEqual([
    'metronome',
    'rit.',
    'a tempo',
  ])
})
