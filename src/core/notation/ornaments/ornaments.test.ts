import { writeMusicXml } from '../../formats/musicXml'
import { verovioReader } from '../../formats/verovioReader.testing'
import { isBalanced } from '../../ledger/ledger'
import { headingsOf, scoreOf } from '../../project/onPage'
import { proveMusicXml } from '../../proof/proveMusicXml'
import { after, chords, frame, piece } from './ornamentedPiece.testing'

const trill = piece(
  ...frame(),
  ...Array.from({ length: 14 }, (_, index) => [4, index * 85, 80, index % 2 === 0 ? 72 : 74] as const),
  [6, 0, 1100, 71],
  ...after,
)

test('a trill is one note with its sign, and keeps the notes it was played with', () => {
  const [first, second] = chords(trill)
  expect(first).toMatchObject({ at: 4, keys: [72], signs: ['trill'] })
  expect([...first!.ids].sort((a, b) => a - b)).toEqual(Array.from({ length: 14 }, (_, index) => index + 5))
  expect(second).toMatchObject({ at: 6, keys: [71] })
  const { ledger } = scoreOf(trill).parts[0]!
  expect(isBalanced(ledger)).toBe(true)
  expect(ledger.merged).toBe(13)
})

test('mordents up and down, and a turn', () => {
  const ornamented = piece(
    ...frame(),
    [4, 0, 60, 72],
    [4, 65, 60, 74],
    [4, 130, 420, 72],
    [5, 0, 60, 72],
    [5, 65, 60, 71],
    [5, 130, 420, 72],
    [6, 0, 60, 74],
    [6, 65, 60, 72],
    [6, 130, 60, 71],
    [6, 195, 900, 72],
    ...after,
  )
  expect(
    chords(ornamented).map(({ at, keys, signs }) => [at, keys, signs.filter((sign) => sign !== 'accent')]),
  ).toEqual([
    [4, [72], ['upper mordent']],
    [5, [72], ['lower mordent']],
    [6, [72], ['turn']],
  ])
})

test('a chord that is rolled upwards is a chord with its sign; broken chords in time are not', async () => {
  const rolled = piece(
    ...frame(),
    [4, 0, 1100, 60],
    [4, 55, 1045, 64],
    [4, 110, 990, 67],
    [4, 165, 940, 72],
    [6, 0, 70, 60],
    [6, 75, 70, 64],
    [6, 150, 70, 67],
    [6, 225, 400, 72],
    ...after,
  )
  const [chord, ...others] = chords(rolled)
  expect(chord).toMatchObject({ at: 4, keys: [60, 64, 67, 72] })
  expect(chord!.signs).toContain('rolled')
  expect(others.every(({ signs, keys }) => keys.length < 4 && !signs.includes('rolled'))).toBe(true)
  const written = writeMusicXml(scoreOf(rolled), headingsOf(rolled))
  expect(written.match(/<arpeggiate\/>/g)).toHaveLength(4)
  const proof = await proveMusicXml(written, scoreOf(rolled), headingsOf(rolled), await verovioReader())
  expect(proof.differences).toEqual([])
})

test('notes that were told to be of two voices are no ornament', () => {
  const twoVoices = {
    ...trill,
    tracks: trill.tracks.map((track) => ({
      ...track,
      clips: track.clips.map((clip) => ({
        ...clip,
        notes: clip.notes.map((note) => ({ ...note, voice: note.key === 74 ? 1 : 2 })),
      })),
    })),
  }
  expect(chords(twoVoices).some(({ signs }) => signs.includes('trill'))).toBe(false)
})

test('measured notes are written out, and so is everything when it is switched off', () => {
  const measured = piece(
    ...frame(),
    ...Array.from({ length: 16 }, (_, index) => [4 + index / 4, 0, 130, index % 2 === 0 ? 72 : 74] as const),
    ...after,
  )
  expect(chords(measured)).toHaveLength(16)
  const off = { ...trill, scoreSettings: { ...trill.scoreSettings, readsOrnaments: false } }
  expect(chords(off).every(({ signs }) => !signs.includes('trill'))).toBe(true)
})

test('in a file they are signs of the standard, and an independent reader finds the notes', async () => {
  const written = writeMusicXml(scoreOf(trill), headingsOf(trill))
  expect(written).toContain('<ornaments><trill-mark/></ornaments>')
  const proof = await proveMusicXml(written, scoreOf(trill), headingsOf(trill), await verovioReader())
  expect(proof.differences).toEqual([])
})
