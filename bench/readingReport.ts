import {
  composeKnownScore,
  type KnownNote,
  rhythmVocabularies,
} from '../src/core/notation/rhythm/performedScores.testing'
import { writeRhythm } from '../src/core/notation/rhythm/rhythm'
import {
  playTouched,
  type TouchingPlayer,
  type TouchName,
  touches,
} from '../src/core/notation/rhythm/touchingPlayer.testing'

/** How exactly rhythm is written, by touch and by lateness, on pieces and by a player that nothing was fitted to. */

const styles = Object.keys(rhythmVocabularies)
const seeds = [41, 42]
const percent = (share: number) => `${(share * 100).toFixed(1)} %`.padStart(9)

interface Exactness {
  readonly onsets: number
  readonly values: number
  readonly falseTuplets: number
}

function exactness(known: readonly KnownNote[], player: TouchingPlayer): Exactness {
  const { tempoBpm } = player
  const { written } = writeRhythm(
    playTouched(known, player),
    { tempos: [{ tick: 0, tempoBpm }], meters: [{ tick: 0, numerator: 4, denominator: 4 }] },
    { smallestValue: 16, tuplets: true, chordWindowMs: 30, readsTouch: true },
  )
  let [onsets, values, falseTuplets] = [0, 0, 0]
  for (const { note, onsetTicks, endTicks } of written) {
    const meant = known[note.id - 1]!
    if (onsetTicks % 2520 !== 0 && meant.onsetTicks % 2520 === 0) falseTuplets++
    if (onsetTicks !== meant.onsetTicks) continue
    onsets++
    if (endTicks === meant.onsetTicks + meant.durationTicks) values++
  }
  return {
    onsets: onsets / known.length,
    values: values / known.length,
    falseTuplets: falseTuplets / known.length,
  }
}

function mean(of: readonly Exactness[], figure: keyof Exactness): number {
  return of.reduce((sum, each) => sum + each[figure], 0) / of.length
}

const piecesOf = (style: string) =>
  seeds.map((seed) => composeKnownScore(style, 32, seed * 6133, seed % 2 === 0))

console.log('exact values, by touch')
console.log(
  `${''.padEnd(20)} bpm ${styles.map((style) => style.slice(0, 8).padStart(9)).join('')}      all  onsets`,
)
for (const touch of Object.keys(touches) as TouchName[])
  for (const [tempoBpm, errorMs] of [
    [60, 20],
    [100, 15],
    [160, 12],
  ] as const) {
    const byStyle = styles.map((style) =>
      piecesOf(style).map((known, index) =>
        exactness(known, { touch, tempoBpm, errorMs, chordSpreadMs: 8, seed: 15_013 * (index + 1) }),
      ),
    )
    const all = byStyle.flat()
    console.log(
      `${touch.padEnd(20)} ${String(tempoBpm).padStart(3)} ${byStyle.map((each) => percent(mean(each, 'values'))).join('')}${percent(mean(all, 'values'))}${percent(mean(all, 'onsets'))}`,
    )
  }

console.log('\nlate or early throughout: exact onsets, and onsets that became tuplets')
for (const tempoBpm of [90, 115, 140])
  for (const sixteenths of [-0.4, -0.2, 0, 0.2, 0.4, 0.7]) {
    const lateMs = (sixteenths * 15_000) / tempoBpm
    const all = styles.flatMap((style) =>
      piecesOf(style).map((known, index) =>
        exactness(known, { touch: 'even', tempoBpm, errorMs: 15, lateMs, seed: 9001 * (index + 1) }),
      ),
    )
    console.log(
      `${String(tempoBpm).padStart(3)} bpm ${lateMs.toFixed(0).padStart(5)} ms ${percent(mean(all, 'onsets'))}${percent(mean(all, 'falseTuplets'))}`,
    )
  }
