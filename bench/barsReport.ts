import { barLinesMs } from '../src/core/beats/correctBars'
import { findBars } from '../src/core/beats/findBars'
import { freeScores, inventedForTwoHands } from '../src/core/beats/freeMusic.testing'
import { type FreeMusic, momentsF1, playFreely } from '../src/core/beats/freePlayer.testing'

/**
 * How well beats and bars are found in what was played without a click (F1 within 70 ms), on published scores and invented pieces (two
 * settings were chosen with the published ones in view, no weight was fitted on any), by a player whose tempo is a curve of its own.
 */

interface Piece {
  readonly title: string
  readonly music: FreeMusic
  readonly seeds: readonly number[]
}

const percent = (share: number) => `${(100 * share).toFixed(1)} %`.padStart(8)

function report(name: string, pieces: readonly Piece[]): void {
  let [beats, barLines, count] = [0, 0, 0]
  for (const { title, music, seeds } of pieces) {
    let [own, ownLines] = [0, 0]
    for (const seed of seeds) {
      const played = playFreely(music, seed)
      const found = findBars(played.notes)
      own += found ? momentsF1(found.beatsMs, played.beatsMs) : 0
      ownLines += found ? momentsF1(barLinesMs(found), played.barLinesMs) : 0
    }
    console.log(`${title.padEnd(48)}${percent(own / seeds.length)}${percent(ownLines / seeds.length)}`)
    beats += own
    barLines += ownLines
    count += seeds.length
  }
  console.log(
    `${`${name}, ${count} performances`.padEnd(48)}${percent(beats / count)}${percent(barLines / count)}\n`,
  )
}

console.log(`${''.padEnd(48)}   beats    bars`)
report(
  'published scores',
  freeScores.map(({ title, ...music }, index) => ({
    title,
    music,
    seeds: [1, 2, 3].map((seed) => seed * 7919 + index),
  })),
)
report(
  'two hands, invented',
  ([3, 4] as const).flatMap((beats) =>
    Array.from({ length: 11 }, (_, index): Piece => {
      const seed = index + 1
      const pickup = seed % 2
      return {
        title: `in ${beats}, no. ${seed}${pickup ? ', with a pickup' : ''}`,
        music: inventedForTwoHands(beats, seed * 97, 24, pickup),
        seeds: [100 * seed + beats],
      }
    }),
  ),
)
