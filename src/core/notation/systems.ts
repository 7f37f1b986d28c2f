import { mostDrawnLetters } from './lyrics'
import type { Score } from './score'

/** One line of music across the page: measures `from` up to, not including, `to`. */
export interface ScoreSystem {
  readonly from: number
  readonly to: number
}

/** Width that a measure needs, in staff spaces: by the moments in it at which something begins, and by its signs. */
function measureWidth(score: Score, index: number): number {
  const moments = new Set<number>()
  let signs = 0
  let sung = 0
  for (const part of score.parts)
    for (const voice of part.measures[index] ?? [])
      for (const element of voice.elements) {
        if (element.kind === 'rest' && element.isWholeMeasure) continue
        moments.add(element.startTicks)
        if (element.kind !== 'chord') continue
        if (element.notes.some((note) => note.accidental)) signs++
        if (element.lyric) sung += lyricSpaces(element.lyric.text)
      }
  return Math.max(7, 2 + moments.size * 1.9 + Math.min(signs, moments.size) * 0.6, 2 + sung)
}

/** Width of a syllable with the space or hyphen behind it. */
function lyricSpaces(text: string): number {
  return 2.2 + Math.min(text.length, mostDrawnLetters) * 1.25
}

/**
 * Breaks a score into lines that fill the page without crowding it.
 *
 * @param lineSpaces width of a line in staff spaces
 */
export function breakIntoSystems(score: Score, lineSpaces: number): ScoreSystem[] {
  const systems: ScoreSystem[] = []
  const start = 8 + Math.max(...score.keys.map(({ fifths }) => Math.abs(fifths)))
  let from = 0
  let width = start + 10
  for (let index = 0; index < score.measures.length; index++) {
    const own = measureWidth(score, index)
    if (index > from && width + own > lineSpaces) {
      systems.push({ from, to: index })
      from = index
      width = start
    }
    width += own
  }
  if (score.measures.length > from) systems.push({ from, to: score.measures.length })
  return systems
}
