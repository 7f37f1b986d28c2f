import { composeKnownScore, type KnownNote, perform, rhythmVocabularies } from './performedScores.testing'
import { writeRhythm } from './rhythm'

const time = { tempos: [{ tick: 0, tempoBpm: 100 }], meters: [{ tick: 0, numerator: 4, denominator: 4 }] }
const settings = { smallestValue: 16, tuplets: true, chordWindowMs: 30 }

/** Share of notes whose written onset and length are exactly those of the known score. */
function exactShare(known: readonly KnownNote[], player: Parameters<typeof perform>[1]) {
  const written = new Map(
    writeRhythm(perform(known, player), time, settings).map((each) => [each.note.id, each]),
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
        const share = exactShare(known, { deviationMs, tempoBpm: 100, gate, seed: seed * 104729 })
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
