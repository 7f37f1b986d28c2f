import { writeMusicXml } from '../../formats/musicXml'
import { verovioReader } from '../../formats/verovioReader.testing'
import { isBalanced } from '../../ledger/ledger'
import { headingsOf, scoreOf } from '../../project/onPage'
import type { Project } from '../../project/schema'
import { proveMusicXml } from '../../proof/proveMusicXml'
import { after, chords, frame, type PlayedNote, piece, pieceFor } from './ornamentedPiece.testing'

const drums = { kind: 'drums' } as const
const kick = (beats: readonly number[]): PlayedNote[] => beats.map((beat) => [beat, 0, 50, 36, 90])

async function expectReadBack(project: Project): Promise<string> {
  const written = writeMusicXml(scoreOf(project), headingsOf(project))
  const proof = await proveMusicXml(written, scoreOf(project), headingsOf(project), await verovioReader())
  expect(proof.differences).toEqual([])
  expect(isBalanced(scoreOf(project).parts[0]!.ledger)).toBe(true)
  return written
}

test('a short note just before a longer one is a grace note, before the beat or on it', async () => {
  const graced = piece(
    ...frame(),
    [4, -70, 65, 73],
    [4, 0, 550, 74],
    [6, 0, 60, 71],
    [6, 68, 520, 72],
    ...after,
  )
  expect(chords(graced).map(({ at, keys, graces }) => [at, keys, graces])).toEqual([
    [4, [74], [73]],
    [6, [72], [71]],
  ])
  const written = await expectReadBack(graced)
  expect(written.match(/<grace slash="yes"\/>/g)).toHaveLength(2)
  expect(scoreOf(graced).parts[0]!.ledger).toMatchObject({ captured: 12, written: 12, merged: 0 })
})

test('several of them are beamed, and are named as they lead on', async () => {
  const graced = piece(...frame(), [4, 0, 60, 70], [4, 60, 60, 71], [4, 120, 1000, 72], ...after)
  const [chord] = chords(graced)
  expect(chord).toMatchObject({ at: 4, keys: [72], graces: [70, 71] })
  const written = await expectReadBack(graced)
  expect(written).toMatch(/<grace\/>.*<beam number="1">begin<\/beam>/)
})

test('with a chord of the other hand a grace note is one all the same, and what is held is of the chord', () => {
  const graced = pieceFor(
    { kind: 'program', program: 0 },
    ...frame(),
    [4, 0, 1100, 48],
    [4, 0, 62, 77],
    [4, 66, 1000, 79],
    [6, 0, 1000, 72],
    [6, 40, 950, 76],
    ...after,
  )
  expect(chords(graced).flatMap(({ graces }) => graces)).toEqual([77])
})

test('sixteenths before a long note, and a quick passage, have their place in the bar', () => {
  const sixteenths = piece(
    ...frame(),
    [4.75, 0, 130, 71],
    [5, 0, 1100, 72],
    [6.5, 0, 140, 74],
    [6.75, 0, 140, 76],
    [7, 0, 500, 77],
    ...after,
  )
  expect(chords(sixteenths).flatMap(({ graces }) => graces)).toEqual([])
  const passage = piece(
    ...frame(),
    ...Array.from({ length: 8 }, (_, index) => [4, index * 75, 70, 60 + 2 * index] as const),
    [5, 0, 1100, 76],
    ...after,
  )
  expect(chords(passage).flatMap(({ graces }) => graces)).toEqual([])
})

describe('a slide over the keys', () => {
  const whites = [60, 62, 64, 65, 67, 69, 71, 72, 74, 76, 77, 79]
  const slide = piece(
    ...frame(),
    ...whites.map((key, index) => [4, index * 50, 48, key] as const),
    [5, 60, 500, 81],
    ...after,
  )

  test('is its first note until the last, and a line', async () => {
    expect(chords(slide)).toHaveLength(2)
    const [first, last] = chords(slide)
    expect(first).toMatchObject({ at: 4, keys: [60] })
    expect(first!.ids).toHaveLength(12)
    expect(last).toMatchObject({ at: 5, keys: [81] })
    expect(scoreOf(slide).parts[0]!.glissandi).toHaveLength(1)
    const written = await expectReadBack(slide)
    expect(written.match(/<glissando /g)).toHaveLength(2)
  })

  test('a scale in time is none', () => {
    const scale = piece(
      ...frame(),
      ...whites.map((key, index) => [4 + index / 4, 0, 140, key] as const),
      ...after,
    )
    expect(scoreOf(scale).parts[0]!.glissandi).toEqual([])
    expect(chords(scale)).toHaveLength(12)
  })
})

describe('what is struck', () => {
  const beats = kick([0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11])

  test('a roll is one note with a tremolo, as long as it was played', async () => {
    const rolled = pieceFor(
      drums,
      ...[
        ...beats,
        ...Array.from({ length: 17 }, (_, index) => [4, index * 75, 40, 38, 70 + (index % 2)] as const),
      ].sort((a, b) => a[0] * 600 + a[1] - b[0] * 600 - b[1]),
    )
    const roll = chords(rolled).filter(({ keys }) => keys.includes(38))
    expect(roll).toHaveLength(1)
    expect(roll[0]).toMatchObject({ at: 4, signs: ['tremolo'] })
    expect(roll[0]!.ids).toHaveLength(17)
    const written = await expectReadBack(rolled)
    expect(written).toContain('<type>half</type>')
    expect(written).toContain('<tremolo type="single">3</tremolo>')
  })

  test('a roll that leads to a hard stroke ends before it', () => {
    const rolled = pieceFor(
      drums,
      ...kick([0, 1, 2, 3]),
      ...Array.from({ length: 8 }, (_, index) => [4, index * 75, 40, 38, 60] as const),
      [5, 0, 40, 38, 110],
    )
    const strokes = chords(rolled).filter(({ keys }) => keys.includes(38))
    expect(strokes.map(({ at }) => at)).toEqual([4, 5])
    expect(strokes[0]!.ids).toHaveLength(8)
  })

  test('soft strokes just before a hard one are a flam or a drag', async () => {
    const flams = pieceFor(
      drums,
      ...kick([0, 1, 2, 3]),
      [4, 0, 40, 36, 90],
      [5, -24, 30, 38, 45],
      [5, 0, 40, 38, 100],
      [6, 0, 40, 36, 90],
      [7, -70, 30, 38, 40],
      [7, -35, 30, 38, 45],
      [7, 0, 40, 38, 100],
      ...kick([8]),
    )
    const graced = chords(flams).filter(({ keys }) => keys.includes(38))
    expect(graced.map(({ at, graces }) => [at, graces])).toEqual([
      [5, [38]],
      [7, [38, 38]],
    ])
    await expectReadBack(flams)
  })

  test('two strokes of one trigger are one, and written strokes stay what they are', () => {
    const doubled = pieceFor(
      drums,
      ...kick([0, 1, 2, 3]),
      [4, 0, 40, 38, 100],
      [4, 6, 40, 38, 50],
      [5, 0, 40, 38, 80],
      [5.25, 0, 40, 38, 80],
      [5.5, 0, 40, 38, 80],
      ...kick([8]),
    )
    const strokes = chords(doubled).filter(({ keys }) => keys.includes(38))
    expect(strokes.map(({ at, graces }) => [at, graces])).toEqual([
      [4, []],
      [5, []],
      [5.25, []],
      [5.5, []],
    ])
  })
})
