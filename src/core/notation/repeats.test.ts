import { drawnNote } from '../event/notes.testing'
import { writeMusicXml } from '../formats/musicXml'
import { verovioReader } from '../formats/verovioReader.testing'
import { isBalanced } from '../ledger/ledger'
import { emptyProject, newClip, newTrack } from '../project/create'
import { headingsOf, scoreOf } from '../project/onPage'
import type { Project } from '../project/schema'
import { proveMusicXml } from '../proof/proveMusicXml'
import { TICKS_PER_QUARTER as quarter } from '../time/units'
import { foldRepeats, writtenTickOf } from './repeats'

/** A bar of quarters for each number; force rises all the time, so that no two bars are played alike. */
function bars(kinds: readonly number[], heldOver: readonly number[] = []): Project {
  let id = 1
  const notes = kinds.flatMap((kind, bar) =>
    [0, 1, 2, 3].map((beat) =>
      drawnNote({
        id: id++,
        onsetTicks: (bar * 4 + beat) * quarter,
        durationTicks: (beat === 3 && heldOver.includes(bar) ? 2 : 1) * quarter,
        key: 60 + kind * 2 + beat,
        velocity: 60 + bar,
      }),
    ),
  )
  const empty = emptyProject('twice', 'Twice', 0)
  const project = newTrack(empty, {
    name: 'Flute',
    instrument: { kind: 'program', program: 73 },
    clips: [newClip('c', 'c', notes)],
  }).project
  return { ...project, scoreSettings: { ...project.scoreSettings, foldsRepeats: true } }
}

test('a passage that is the same twice is written once, and every note of both times is in it', async () => {
  const project = bars([1, 2, 3, 4, 1, 2, 3, 4, 5])
  const score = scoreOf(project)
  expect(score.repeats).toEqual([{ from: 0, to: 4, times: 2 }])
  expect(score.returns).toEqual([
    { againFromTicks: 16 * quarter, againToTicks: 32 * quarter, writtenFromTicks: 0 },
  ])
  expect(score.measures.map(({ index }) => index)).toEqual([0, 1, 2, 3, 8])
  const { ledger, measures } = score.parts[0]!
  expect(ledger).toMatchObject({ captured: 36, written: 20, merged: 16 })
  expect(isBalanced(ledger)).toBe(true)
  const [first] = measures[0]![0]!.elements
  expect(first!.kind === 'chord' && first!.notes[0]!.noteIds).toEqual([1, 17])
  const written = writeMusicXml(score, headingsOf(project))
  expect(written.match(/<repeat direction="(forward|backward)"\/>/g)).toHaveLength(2)
  const proof = await proveMusicXml(written, score, headingsOf(project), await verovioReader())
  expect(proof.differences).toEqual([])
})

test('the longest passage is taken, and several may follow each other', () => {
  expect(scoreOf(bars([1, 2, 1, 2, 1, 2, 1, 2])).repeats).toMatchObject([{ from: 0, to: 4 }])
  expect(scoreOf(bars([9, 1, 2, 1, 2, 3, 4, 3, 4])).repeats).toMatchObject([
    { from: 1, to: 3 },
    { from: 3, to: 5 },
  ])
})

test('one bar twice is written out, and so is what is tied over', () => {
  expect(scoreOf(bars([1, 1, 2, 2, 3])).repeats).toEqual([])
  expect(scoreOf(bars([1, 2, 1, 2, 3], [3])).repeats).toEqual([])
})

test('only when it is asked for', () => {
  const project = bars([1, 2, 3, 1, 2, 3])
  const off = { ...project, scoreSettings: { ...project.scoreSettings, foldsRepeats: false } }
  expect(scoreOf(off).measures).toHaveLength(6)
  expect(foldRepeats(scoreOf(off))).toEqual(scoreOf(project))
})

test('what is played again is written where it was played first', () => {
  const { returns } = scoreOf(bars([9, 1, 2, 1, 2, 3]))
  expect([0, 4, 12, 19.5, 20].map((at) => writtenTickOf(returns, at * quarter) / quarter)).toEqual([
    0, 4, 4, 11.5, 20,
  ])
})
