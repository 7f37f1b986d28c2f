import type { Ticks } from '../time/units'
import { AccidentalKeeper } from './accidentals'
import { pitchAt, stepOf } from './pitchSteps'
import {
  type Articulation,
  type Clef,
  isUnpitched,
  keyAt,
  type Score,
  type ScoreElement,
  type ScorePart,
  type SpelledPitch,
  type VoiceInMeasure,
  type WrittenText,
} from './score'

/** After so many bars of rest a player wants to hear where the others are; after a long rest for two bars. (Common practice, no source.) */
const leastRestBars = 4
const longRestBars = 8
/** So far from the middle of its staff, in steps, small notes can still be read; others stand octaves nearer. */
const readableSteps = 10

/**
 * One part of a score, with what another plays in small notes before each entry after a long rest. Parts of drums have none.
 *
 * @param names of the parts, which stand above their cues
 */
export function withCues(score: Score, names: readonly string[], partIndex: number): ScorePart {
  const part = score.parts[partIndex]!
  if (isUnpitched(part)) return part
  const measures = [...part.measures]
  const texts: WrittenText[] = []
  for (const { from, to } of restsBeforeEntries(part)) {
    const first = to - (to - from >= longRestBars ? 2 : 1)
    const source = leadingPart(score, partIndex, first, to)
    if (source === null) continue
    const cue = new Cue(score, score.parts[source]!, part, first, to)
    for (let bar = first; bar < to; bar++) measures[bar] = cue.beside(measures[bar]!, bar)
    texts.push({
      tick: score.measures[first]!.startTicks,
      text: `${names[source] ?? ''}${octaveWords(cue.octaves)}`,
    })
  }
  if (texts.length === 0) return part
  return { ...part, measures, texts: [...part.texts, ...texts].sort((a, b) => a.tick - b.tick) }
}

function octaveWords(octaves: number): string {
  if (octaves === 0) return ''
  const count = Math.abs(octaves)
  return `, ${count === 1 ? 'an octave' : `${count} octaves`} ${octaves > 0 ? 'higher' : 'lower'}`
}

/** Bars of rest that end with an entry, `to` being its bar. */
function* restsBeforeEntries({ measures }: ScorePart): Generator<{ from: number; to: number }> {
  let from: number | null = null
  for (const [bar, voices] of measures.entries()) {
    if (voices.every(({ elements }) => elements.every(({ kind }) => kind === 'rest'))) from ??= bar
    else {
      if (from !== null && bar - from >= leastRestBars) yield { from, to: bar }
      from = null
    }
  }
}

/** The part that is heard before the others in some bars: of those that move, the highest; null where all rest. */
function leadingPart({ parts }: Score, exceptIndex: number, from: number, to: number): number | null {
  let best: { readonly index: number; readonly moves: boolean; readonly meanKey: number } | null = null
  for (const [index, part] of parts.entries()) {
    if (index === exceptIndex || isUnpitched(part)) continue
    const keys = part.measures.slice(from, to).flatMap((voices) =>
      (lineOf(voices)?.elements ?? []).flatMap((element) => {
        const top = element.kind === 'chord' ? element.notes.at(-1) : undefined
        return top && !top.tiesFromPrevious ? [top.key] : []
      }),
    )
    if (keys.length === 0) continue
    const meanKey = keys.reduce((sum, key) => sum + key, 0) / keys.length
    const moves = keys.length > to - from
    if (!best || (moves && !best.moves) || (moves === best.moves && meanKey > best.meanKey))
      best = { index, moves, meanKey }
  }
  return best?.index ?? null
}

/** The line of a bar that is given as a cue: the first that has notes. */
function lineOf(voices: readonly VoiceInMeasure[]): VoiceInMeasure | undefined {
  return voices.find(({ elements }) => elements.some(({ kind }) => kind === 'chord'))
}

/** What a part plays in some bars, as another player reads it. */
class Cue {
  /** It stands so much higher than it sounds (lower when negative) to that player. */
  readonly octaves: number
  private readonly clef: Clef

  constructor(
    private readonly score: Score,
    private readonly source: ScorePart,
    private readonly reader: ScorePart,
    private readonly from: number,
    private readonly to: number,
  ) {
    this.clef =
      reader.clefChanges.findLast(({ staff, bar }) => staff === 1 && bar <= from)?.clef ?? reader.clefs[0]!
    const places = this.bars().flatMap((bar) =>
      (lineOf(source.measures[bar]!)?.elements ?? []).flatMap((element) =>
        element.kind === 'chord' ? [stepOf(this.asRead(element.notes.at(-1)!, 0))] : [],
      ),
    )
    const middle = middleStep[this.clef]
    const furthest = Math.max(...places.map((place) => Math.abs(place - middle)))
    const mean = places.reduce((sum, place) => sum + place, 0) / places.length
    this.octaves = furthest > readableSteps ? Math.round((middle - mean) / 7) : 0
  }

  private bars(): number[] {
    return Array.from({ length: this.to - this.from }, (_, index) => this.from + index)
  }

  /** A bar of rest with the cue above it. */
  beside(voices: readonly VoiceInMeasure[], bar: number): readonly VoiceInMeasure[] {
    const line = lineOf(this.source.measures[bar]!)
    if (!line) return voices
    const keeper = new AccidentalKeeper(keyAt(this.reader.keys, this.score.measures[bar]!.startTicks))
    const elements = line.elements.map((element) => this.small(element, bar, keeper))
    const own = voices.map((voice) => ({ ...voice, voice: voice.voice + 1 }))
    return [{ voice: 1, staff: 1, elements, isCue: true }, ...own]
  }

  private small(element: ScoreElement, bar: number, keeper: AccidentalKeeper): ScoreElement {
    if (element.kind === 'rest') return { ...element, isHidden: false }
    const top = element.notes.at(-1)!
    const begins = bar === this.from && element.startTicks === 0
    const ends = bar === this.to - 1 && this.isLast(element, bar)
    const pitch = this.asRead(top, this.octaves)
    const tiesFromPrevious = top.tiesFromPrevious && !begins
    const note = {
      ...top,
      pitch,
      fingering: null,
      tiesFromPrevious,
      tiesToNext: top.tiesToNext && !ends,
      accidental: keeper.signFor(pitch, tiesFromPrevious),
    }
    const articulations = element.articulations.filter((sign) => signsOfCues.has(sign))
    return { ...element, notes: [note], articulations, crossesTo: null, graces: [], lyric: null }
  }

  private isLast({ startTicks, durationTicks }: { startTicks: Ticks; durationTicks: Ticks }, bar: number) {
    return startTicks + durationTicks >= this.score.measures[bar]!.lengthTicks
  }

  /** A pitch as the reader would play it, so many octaves higher. */
  private asRead({ pitch, key }: { readonly pitch: SpelledPitch; readonly key: number }, octaves: number) {
    const { semitones, steps } = this.reader.transposition
    const step = stepOf(pitch) - this.source.transposition.steps + steps + 7 * octaves
    return pitchAt(step, key + semitones + 12 * octaves)
  }
}

/** Signs by which a reader knows again what is heard; how it is bowed or ornamented is for those who play it. */
const signsOfCues: ReadonlySet<Articulation> = new Set<Articulation>([
  'staccato',
  'staccatissimo',
  'tenuto',
  'accent',
  'marcato',
  'fermata',
])

/** The step of each clef's middle line. */
const middleStep: Readonly<Record<Clef, number>> = {
  treble: 34,
  alto: 28,
  tenor: 26,
  bass: 22,
  'treble 8vb': 27,
  'bass 8vb': 15,
  percussion: 34,
}
