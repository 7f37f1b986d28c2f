import type { Note } from '../../event/note'
import { composeKnownScore, type KnownNote, perform, rhythmVocabularies } from './performedScores.testing'
import { writeRhythm } from './rhythm'
import { playTouched, type TouchName, touches } from './touchingPlayer.testing'

const time = { tempos: [{ tick: 0, tempoBpm: 100 }], meters: [{ tick: 0, numerator: 4, denominator: 4 }] }
const settings = { smallestValue: 16, tuplets: true, chordWindowMs: 30, readsTouch: true }

const timeAt = (tempoBpm: number) => ({ ...time, tempos: [{ tick: 0, tempoBpm }] })

/** Share of notes whose written onset and length are exactly those of the known score. */
function exactShare(known: readonly KnownNote[], played: readonly Note[], tempoBpm = 100) {
  const written = new Map(
    writeRhythm(played, timeAt(tempoBpm), settings).written.map((each) => [each.note.id, each]),
  )
  let onsets = 0
  let both = 0
  for (const [index, note] of known.entries()) {
    const found = written.get(index + 1)!
    if (found.onsetTicks !== note.onsetTicks) continue
    onsets++
    if (found.endTicks === note.onsetTicks + note.durationTicks) both++
  }
  return { onsets: onsets / known.length, both: both / known.length }
}

/** Mean over pieces of every style, with and without chords. */
function study(deviationMs: number, gate: number) {
  const rows: { style: string; onsets: number; both: number }[] = []
  for (const style of Object.keys(rhythmVocabularies))
    for (const withChords of [false, true])
      for (const seed of [1, 2, 3, 4, 5]) {
        const known = composeKnownScore(style, 32, seed * 7919, withChords)
        const player = { deviationMs, tempoBpm: 100, gate, seed: seed * 104729 }
        const share = exactShare(known, perform(known, player))
        rows.push({ style: withChords ? `${style}, chords` : style, ...share })
      }
  const mean = (of: 'onsets' | 'both') => rows.reduce((sum, row) => sum + row[of], 0) / rows.length
  return { onsets: mean('onsets'), both: mean('both'), rows }
}

// Targets: the measure is the share of notes with exactly the written onset and length ("meter" and "value" of
// A. McLeod and M. Steedman, MV2H, 2018), on invented scores performed with Gaussian errors.
describe('finding the written rhythm of a performance', () => {
  for (const [deviationMs, target] of [
    [15, 0.99],
    [30, 0.93],
  ] as const)
    for (const gate of [1, 0.9])
      test(`errors of ${deviationMs} ms, notes held for ${gate * 100} % of their value`, () => {
        const result = study(deviationMs, gate)
        if (process.env.RHYTHM_REPORT) {
          const byStyle = new Map<string, number[]>()
          for (const row of result.rows)
            byStyle.set(row.style, [...(byStyle.get(row.style) ?? []), row.both, row.onsets])
          for (const [style, shares] of byStyle) {
            const at = (offset: number) =>
              shares.filter((_, i) => i % 2 === offset).reduce((a, b) => a + b, 0) / (shares.length / 2)
            process.stdout.write(
              `${deviationMs} ${gate} ${style}: onsets ${at(1).toFixed(4)} both ${at(0).toFixed(4)}\n`,
            )
          }
          process.stdout.write(
            `${deviationMs} ${gate} ALL: onsets ${result.onsets.toFixed(4)} both ${result.both.toFixed(4)}\n`,
          )
        }
        expect(result.both).toBeGreaterThanOrEqual(target)
      })
})

/** Without written rests inside a beat, which a short touch cannot be told from. */
const stylesToTouch = Object.keys(rhythmVocabularies).filter((style) => style !== 'rests')

// The player of these shares no assumption with the reading, and nothing was fitted on these pieces.
describe('values are written whatever the touch', () => {
  for (const touch of Object.keys(touches) as TouchName[])
    for (const [tempoBpm, errorMs] of [
      [60, 20],
      [100, 15],
      [160, 12],
    ] as const)
      test(`${touch}, ${tempoBpm} to the minute`, () => {
        const shares = stylesToTouch.map((style, index) => {
          const known = composeKnownScore(style, 24, 31 + index, index % 2 === 0)
          const player = { touch, tempoBpm, errorMs, chordSpreadMs: 8, seed: 977 * (index + 1) }
          return exactShare(known, playTouched(known, player), tempoBpm).both
        })
        expect(shares.reduce((sum, share) => sum + share, 0) / shares.length).toBeGreaterThan(0.95)
      })

  test('quarters played short are quarters with a dot, and even playing has none', () => {
    const known = composeKnownScore('straight', 24, 6)
    const shortOf = (touch: TouchName) => {
      const played = playTouched(known, { touch, tempoBpm: 100, errorMs: 15, seed: 3 })
      const { written } = writeRhythm(played, time, settings)
      return written.filter(({ isShort }) => isShort).length / written.length
    }
    expect(shortOf('staccato')).toBeGreaterThan(0.9)
    expect(shortOf('even')).toBe(0)
    expect(shortOf('every fourth short')).toBeGreaterThan(0.2)
    expect(shortOf('every fourth short')).toBeLessThan(0.3)
  })

  test('where most notes are held, a silence is a rest', () => {
    const known = composeKnownScore('rests', 32, 8)
    const played = playTouched(known, { touch: 'even', tempoBpm: 100, errorMs: 15, seed: 4 })
    expect(exactShare(known, played).both).toBeGreaterThan(0.97)
  })
})

// Shifts of up to 0.4 of a sixteenth either way, at tempi at which they were read as sextuplets before.
describe('a player who is late or early throughout is written on the beat', () => {
  for (const tempoBpm of [90, 140])
    for (const sixteenths of [-0.4, 0.25, 0.4])
      test(`by ${sixteenths} of a sixteenth at ${tempoBpm}`, () => {
        const lateMs = (sixteenths * 15_000) / tempoBpm
        let [notes, right, falseTuplets] = [0, 0, 0]
        for (const [index, style] of ['straight', 'dotted', 'rests', 'ties over the bar'].entries()) {
          const known = composeKnownScore(style, 24, 71 + index, index % 2 === 1)
          const played = playTouched(known, {
            touch: 'even',
            tempoBpm,
            errorMs: 15,
            lateMs,
            seed: 13 + index,
          })
          const rhythm = writeRhythm(played, timeAt(tempoBpm), settings)
          expect(Math.abs(rhythm.lateMs - lateMs)).toBeLessThan(12)
          for (const { note, onsetTicks } of rhythm.written) {
            notes++
            if (onsetTicks === known[note.id - 1]!.onsetTicks) right++
            if (onsetTicks % 2520 !== 0) falseTuplets++
          }
        }
        expect(right / notes).toBeGreaterThanOrEqual(0.99)
        expect(falseTuplets / notes).toBeLessThanOrEqual(0.01)
      })

  test('also by more than that, where the music has strong places', () => {
    const known = composeKnownScore('straight', 24, 9)
    const played = playTouched(known, { touch: 'even', tempoBpm: 100, errorMs: 15, lateMs: 110, seed: 2 })
    expect(exactShare(known, played).onsets).toBeGreaterThan(0.99)
  })

  test('a part that is always off the beat is not late', () => {
    const offBeats: KnownNote[] = Array.from({ length: 64 }, (_, beat) => ({
      onsetTicks: beat * 10_080 + 2520,
      durationTicks: 2520,
      key: 60 + (beat % 5),
    }))
    const played = playTouched(offBeats, { touch: 'even', tempoBpm: 110, errorMs: 12, seed: 6 })
    expect(exactShare(offBeats, played, 110).onsets).toBeGreaterThan(0.98)
    const put = perform(offBeats, { deviationMs: 0, tempoBpm: 110, seed: 1 })
    expect(writeRhythm(put, timeAt(110), settings).lateMs).toBe(0)
  })
})
