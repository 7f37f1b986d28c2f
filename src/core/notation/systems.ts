import { type GatheredRests, nothingGathered } from './gatheredRests'
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

/** Width that the music of a line needs, without what stands at its beginning, in staff spaces. */
export function musicSpaces(
  score: Score,
  { from, to }: ScoreSystem,
  gathered: GatheredRests = nothingGathered,
): number {
  let width = 0
  for (let index = from; index < to; index++) {
    const rest = gathered.get(index)
    width += rest === undefined ? measureWidth(score, index) : gatheredSpaces
    if (rest !== undefined) index += rest - 1
  }
  return width
}

/** How lines are broken, besides by their width. */
export interface LineBreaking {
  /** Rests of several bars that are one sign. */
  readonly gathered: GatheredRests
  readonly mostBars: number | null
  /** Somebody wants a line to begin with this bar. */
  readonly beginsLine: (bar: number) => boolean
}

const usualBreaking: LineBreaking = {
  gathered: nothingGathered,
  mostBars: null,
  beginsLine: () => false,
}

/** Width of a rest of several bars. */
const gatheredSpaces = 14

/**
 * Breaks a score into lines that fill the page without crowding it.
 *
 * @param lineSpaces width of a line in staff spaces
 */
export function breakIntoSystems(
  score: Score,
  lineSpaces: number,
  { gathered, mostBars, beginsLine }: LineBreaking = usualBreaking,
): ScoreSystem[] {
  const systems: ScoreSystem[] = []
  let bars = 0
  const start = 8 + Math.max(...score.keys.map(({ fifths }) => Math.abs(fifths)))
  let from = 0
  let width = start + 10
  for (let index = 0; index < score.measures.length; index++) {
    const rest = gathered.get(index)
    const own = rest === undefined ? measureWidth(score, index) : gatheredSpaces
    const isFull = width + own > lineSpaces || (mostBars !== null && bars >= mostBars)
    if (index > from && (isFull || beginsLine(index))) {
      systems.push({ from, to: index })
      from = index
      width = start
      bars = 0
    }
    width += own
    bars++
    // Gathered bars are never torn.
    if (rest !== undefined) index += rest - 1
  }
  if (score.measures.length > from) systems.push({ from, to: score.measures.length })
  return systems
}
