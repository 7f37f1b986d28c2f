import {
  type ChordSymbol,
  chordSymbol,
  type PitchName,
  printedSymbol,
} from '../notation/chordSymbols/chordSymbol'
import type { Score, ScorePart, WrittenText } from '../notation/score'
import { wordsOfSwing } from '../notation/swing'
import { shortened } from '../text/bounded'
import { isCompound, type Measure } from '../time/meterMap'
import { TICKS_PER_QUARTER, type Ticks } from '../time/units'
import type { MusicXmlVersion } from './musicXmlOptions'
import { xmlText } from './xmlText'

/** Something said beside the notes of a measure. */
export interface Direction {
  /** From the bar line. */
  readonly offsetTicks: Ticks
  /** Stands with the notes of this staff. */
  readonly staff: number
  /** Stands behind the last voice of its staff: readers that go voice by voice would end it too early. */
  readonly isAfterAllVoices: boolean
  /** Put to the edge of the note it lies in, for what readers do not take between two notes. */
  readonly edge: 'own' | 'next' | null
  /** As it is written after the note before it, this much later. */
  xml(laterTicks: Ticks): string
}

/** What is written of a piece: all of it, or an excerpt. */
export interface Span {
  readonly startTicks: Ticks
  readonly endTicks: Ticks
}

export const measureEnd = ({ startTicks, lengthTicks }: Measure): Ticks => startTicks + lengthTicks

function isIn(measure: Measure, tick: Ticks): boolean {
  return tick >= measure.startTicks && tick < measureEnd(measure)
}

function direction(
  offsetTicks: Ticks,
  placement: 'above' | 'below',
  content: string,
  { staff = null as number | null, sound = '' } = {},
): Direction {
  const staffXml = staff === null ? '' : `<staff>${staff}</staff>`
  return {
    offsetTicks,
    staff: staff ?? 1,
    isAfterAllVoices: false,
    edge: null,
    xml: (laterTicks) =>
      `<direction placement="${placement}"><direction-type>${content}</direction-type>${laterTicks !== 0 ? `<offset${sound ? ' sound="yes"' : ''}>${laterTicks}</offset>` : ''}${staffXml}${sound}</direction>`,
  }
}

/** Rehearsal marks, where sections begin. */
function sectionDirections(score: Score, measure: Measure): Direction[] {
  return score.sections
    .filter(({ tick }) => isIn(measure, tick))
    .map(({ name }) => direction(0, 'above', `<rehearsal>${xmlText(name)}</rehearsal>`))
}

/** Letters of a text that have room above a line of a page; the file has all of it. */
const mostDrawnLetters = 60

/** Words above the staff, where they stand. */
function textDirections(texts: readonly WrittenText[], measure: Measure, isExcerpt: boolean): Direction[] {
  return texts
    .filter(({ tick }) => isIn(measure, tick))
    .map(({ tick, text }) =>
      direction(
        tick - measure.startTicks,
        'above',
        `<words font-style="italic">${xmlText(isExcerpt ? shortened(text, mostDrawnLetters) : text)}</words>`,
      ),
    )
}

/** Symbols of chords, where they stand; what cannot be read as one is words. */
function chordDirections(score: Score, measure: Measure, isExcerpt: boolean): Direction[] {
  return score.chordSymbols
    .filter(({ tick }) => isIn(measure, tick))
    .map(({ tick, text }) => {
      const symbol = chordSymbol(text)
      const offsetTicks = tick - measure.startTicks
      // The drawing sets a symbol's sharps and flats in a font of its own: an excerpt says it in words.
      if (!symbol || isExcerpt)
        return direction(
          offsetTicks,
          'above',
          `<words font-style="normal">${xmlText(shortened(printedSymbol(text), mostDrawnLetters))}</words>`,
        )
      return {
        ...direction(offsetTicks, 'above', ''),
        xml: (laterTicks: Ticks) => harmonyXml(symbol, laterTicks),
      }
    })
}

function harmonyXml({ root, kind, suffix, bass }: ChordSymbol, laterTicks: Ticks): string {
  const pitch = (name: 'root' | 'bass', { step, alter }: PitchName) =>
    `<${name}><${name}-step>${step}</${name}-step>${alter === 0 ? '' : `<${name}-alter>${alter}</${name}-alter>`}</${name}>`
  // A symbol has a root in this standard, even one for no chord.
  const rootXml = pitch('root', root ?? { step: 'C', alter: 0 }).replace(
    '<root-step>',
    root ? '<root-step>' : '<root-step text="">',
  )
  const offset = laterTicks === 0 ? '' : `<offset>${laterTicks}</offset>`
  return `<harmony>${rootXml}<kind text="${xmlText(suffix)}">${kind}</kind>${bass ? pitch('bass', bass) : ''}${offset}</harmony>`
}

/** Levels and hairpins under the upper staff, above it where it is sung; a hairpin over the edge of what is written ends and begins there. */
function dynamicDirections(part: ScorePart, measure: Measure, span: Span): Direction[] {
  const staff = part.clefs.length > 1 ? 1 : null
  const found: Direction[] = []
  const add = (tick: Ticks, content: string, edge: Direction['edge'] = null) => {
    const isLastEnd = tick === span.endTicks && measureEnd(measure) === span.endTicks
    if (isIn(measure, tick) || isLastEnd)
      found.push({
        ...direction(tick - measure.startTicks, part.isSung ? 'above' : 'below', content, { staff }),
        edge,
      })
  }
  for (const { startTicks, endTicks, kind } of part.dynamics.hairpins) {
    if (endTicks <= span.startTicks || startTicks >= span.endTicks) continue
    add(Math.max(startTicks, span.startTicks), `<wedge type="${kind}"/>`, 'own')
    add(Math.min(endTicks, span.endTicks), '<wedge type="stop"/>', 'next')
  }
  // A hairpin ends before the level it leads to.
  found.sort((a, b) => a.offsetTicks - b.offsetTicks)
  for (const { tick, mark } of part.dynamics.levels) add(tick, `<dynamics><${mark}/></dynamics>`)
  return found
}

/** Octave lines: the notes under them are given as they sound, the line says how they are written. */
function octaveDirections(part: ScorePart, measure: Measure, span: Span): Direction[] {
  const isShared = (staff: number) =>
    (part.measures[measure.index] ?? []).filter((voice) => voice.staff === staff).length > 1
  return part.octaveLines.flatMap(({ staff: number, startTicks, endTicks, octaves }) => {
    if (endTicks <= span.startTicks || startTicks >= span.endTicks) return []
    const staff = part.clefs.length > 1 ? number : null
    const size = Math.abs(octaves) === 1 ? 8 : 15
    const placement = octaves > 0 ? 'above' : 'below'
    const add = (tick: Ticks, type: string, isEnd: boolean) => {
      const isHere = isEnd ? tick > measure.startTicks && tick <= measureEnd(measure) : isIn(measure, tick)
      const content = `<octave-shift type="${type}" size="${size}"/>`
      // Among several voices it ends with its bar: readers that go voice by voice take an end within it for one of another voice.
      const atTicks = isShared(number) ? (isEnd ? measure.lengthTicks : 0) : tick - measure.startTicks
      const found = direction(atTicks, placement, content, { staff })
      return isHere ? [{ ...found, isAfterAllVoices: isEnd && isShared(number) }] : []
    }
    return [
      ...add(Math.max(startTicks, span.startTicks), octaves > 0 ? 'down' : 'up', false),
      ...add(Math.min(endTicks, span.endTicks), 'stop', true),
    ]
  })
}

/** Tempi where they begin: printed, or only followed. */
function tempoDirections(score: Score, measure: Measure, isExcerpt: boolean): Direction[] {
  return score.tempos.flatMap(({ tick, tempoBpm, printedBpm, print }, index) => {
    const isHere = isIn(measure, tick)
    if (!isHere && !(measure.index === 0 && index === 0)) return []
    const offsetTicks = isHere ? tick - measure.startTicks : 0
    const tempo = `tempo="${rounded(tempoBpm)}"`
    if (print === null) return isExcerpt ? [] : [hiddenTempo(offsetTicks, tempo)]
    // Where dotted quarters are counted, their tempo is said.
    const isDotted = isCompound(measure)
    const perMinute = Math.round((printedBpm ?? tempoBpm) / (isDotted ? 1.5 : 1))
    const mark =
      print === 'rit.' || print === 'accel.'
        ? `<words font-style="italic">${print}</words>`
        : print === 'a tempo'
          ? '<words font-weight="bold" font-style="normal">a tempo</words>'
          : isExcerpt
            ? // An excerpt is drawn with plain text only, a file says the tempo in its own way.
              `<words font-weight="bold" font-style="normal">♩${isDotted ? '.' : ''} = ${perMinute}</words>`
            : `<metronome><beat-unit>quarter</beat-unit>${isDotted ? '<beat-unit-dot/>' : ''}<per-minute>${perMinute}</per-minute></metronome>`
    return [direction(offsetTicks, 'above', mark, { sound: `<sound ${tempo}/>` })]
  })
}

/** MusicXML 3.0 has words for swing; 4.0 says besides how it sounds (`swing`). */
function swingDirection({ swing }: Score, { index }: Measure, version: MusicXmlVersion): Direction[] {
  if (!swing || index > 0) return []
  const [first, second] = swing.ratio.split(':')
  const sound =
    version === '3.0'
      ? ''
      : `<sound><swing><first>${first}</first><second>${second}</second><swing-type>eighth</swing-type></swing></sound>`
  return [direction(0, 'above', `<words font-style="italic">${wordsOfSwing(swing)}</words>`, { sound })]
}

function hiddenTempo(offsetTicks: Ticks, tempo: string): Direction {
  return {
    offsetTicks,
    staff: 1,
    isAfterAllVoices: false,
    edge: null,
    xml: (laterTicks) =>
      laterTicks !== 0 ? `<sound ${tempo}><offset>${laterTicks}</offset></sound>` : `<sound ${tempo}/>`,
  }
}
/** What a sign needs before a bar line. */
const roomTicks: Ticks = TICKS_PER_QUARTER / 2

/** The pedal goes down and up: signs, no lines, so that none is cut where a line of music ends. */
function pedalDirections(part: ScorePart, measure: Measure, isExcerpt: boolean): Direction[] {
  const staff = part.clefs.length
  const sign = (tick: Ticks, type: 'start' | 'stop') =>
    direction(tick - measure.startTicks, 'below', `<pedal type="${type}" line="no"/>`, { staff })
  return part.pedals.flatMap(({ startTicks, endTicks }, index) => {
    const isUpHere = endTicks > measure.startTicks && endTicks <= measureEnd(measure)
    // On the page a new sign says that the one before has ended, and at the bar line there is no room for one.
    const isChange = isExcerpt && part.pedals[index + 1]?.startTicks === endTicks
    const upTicks = isExcerpt && endTicks === measureEnd(measure) ? endTicks - roomTicks : endTicks
    return [
      ...(isIn(measure, startTicks) ? [sign(startTicks, 'start')] : []),
      // At the bar line it goes up at the end of the bar before.
      ...(isUpHere && !isChange ? [sign(Math.max(measure.startTicks, startTicks, upTicks), 'stop')] : []),
    ]
  })
}

/** All that is said beside the notes of a measure of a part, in order; what holds for the whole piece stands with the first part. */
export function directionsOf(
  score: Score,
  part: ScorePart,
  measure: Measure,
  span: Span,
  {
    isFirstPart,
    isExcerpt,
    version,
  }: { readonly isFirstPart: boolean; readonly isExcerpt: boolean; readonly version: MusicXmlVersion },
): Direction[] {
  const ofThePiece = isFirstPart
    ? [
        ...sectionDirections(score, measure),
        ...tempoDirections(score, measure, isExcerpt),
        ...swingDirection(score, measure, version),
        ...textDirections(score.texts, measure, isExcerpt),
        ...chordDirections(score, measure, isExcerpt),
      ]
    : []
  return [
    ...ofThePiece,
    ...textDirections(part.texts, measure, isExcerpt),
    ...dynamicDirections(part, measure, span),
    ...octaveDirections(part, measure, span),
    ...pedalDirections(part, measure, isExcerpt),
  ].sort((a, b) => a.offsetTicks - b.offsetTicks)
}

/** To a hundredth. */
export function rounded(value: number): number {
  return Math.round(value * 100) / 100
}
