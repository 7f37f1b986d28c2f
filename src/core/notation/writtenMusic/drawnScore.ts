import { beatUnitTicks } from '../../time/meterMap'
import { withAccidentals } from '../accidentals'
import { addBeams } from '../beams'
import { keyAt, type Score } from '../score'

/** A score as it was told, with what is drawn by rule: beams within beats, and the signs before notes. */
export function drawnScore(score: Score): Score {
  return {
    ...score,
    parts: score.parts.map((part) => ({
      ...part,
      measures: part.measures.map((voices, index) => {
        const measure = score.measures[index]!
        const beamed = voices.map((voice) => ({
          ...voice,
          elements: addBeams(voice.elements, beatUnitTicks(measure), false),
        }))
        return withAccidentals(beamed, part.clefs, keyAt(part.keys, measure.startTicks))
      }),
    })),
  }
}
