import type { ScoreHeadings } from '../notation/headings'
import {
  type Clef,
  type ClefChange,
  isUnpitched,
  keyAt,
  type Score,
  type ScoreElement,
  type ScorePart,
  type WrittenBarLine,
} from '../notation/score'
import { stemDirections } from '../notation/stems'
import type { Meter } from '../time/meterMap'
import { TICKS_PER_QUARTER, type Ticks } from '../time/units'
import { type Direction, directionsOf, measureEnd } from './musicXmlDirections'
import { writeElement } from './musicXmlElements'
import { pageDefaults } from './musicXmlLayout'
import { type SlurEnds, slurEnds } from './musicXmlNotations'
import type { MusicXmlOptions } from './musicXmlOptions'
import { partList } from './musicXmlPartList'
import { xmlText } from './xmlText'

/**
 * Writes a score as MusicXML, valid against version 3.0 of the schema (and so readable by everything newer); as 4.0 on request, with
 * what only that version has.
 *
 * Source: MusicXML 3.0 and 4.0, W3C Music Notation Community Group.
 */
export function writeMusicXml(score: Score, headings: ScoreHeadings, options: MusicXmlOptions = {}): string {
  const { version = '3.0', writtenOn } = options
  const out: string[] = [
    '<?xml version="1.0" encoding="UTF-8" standalone="no"?>',
    `<!DOCTYPE score-partwise PUBLIC "-//Recordare//DTD MusicXML ${version} Partwise//EN" "http://www.musicxml.org/dtds/partwise.dtd">`,
    `<score-partwise version="${version}">`,
  ]
  if (!options.measures) {
    out.push(`<work><work-title>${xmlText(headings.title)}</work-title></work>`)
    if (headings.subtitle) out.push(`<movement-title>${xmlText(headings.subtitle)}</movement-title>`)
    const composer = headings.composer
      ? `<creator type="composer">${xmlText(headings.composer)}</creator>`
      : ''
    const arranger = headings.arranger
      ? `<creator type="arranger">${xmlText(headings.arranger)}</creator>`
      : ''
    const rights = headings.rights ? `<rights>${xmlText(headings.rights)}</rights>` : ''
    out.push(
      `<identification>${composer}${arranger}${rights}<encoding><software>Unbroken Voice</software>${writtenOn ? `<encoding-date>${writtenOn}</encoding-date>` : ''}</encoding></identification>`,
    )
    if (options.page) out.push(pageDefaults(options.page, score.parts.length === 1))
  }
  const shown = options.parts ?? score.parts.map((_, index) => index)
  out.push(partList(score, headings, shown))
  const from = options.measures?.from ?? 0
  const to = Math.min(options.measures?.to ?? score.measures.length, score.measures.length)
  for (const index of shown) {
    const part = score.parts[index]!
    out.push(`<part id="P${index + 1}">`)
    const slurs = slurEnds(part, score.measures.slice(from, to), from)
    for (let bar = from; bar < to; bar++) writeMeasure(out, score, part, index, bar, from, options, slurs)
    out.push('</part>')
  }
  if (score.parts.length === 0)
    out.push(
      '<part id="P1"><measure number="1"><note><rest measure="yes"/><duration>4</duration></note></measure></part>',
    )
  out.push('</score-partwise>')
  return out.join('\n')
}

function writeMeasure(
  out: string[],
  score: Score,
  part: ScorePart,
  partIndex: number,
  bar: number,
  from: number,
  options: MusicXmlOptions,
  slurs: SlurEnds,
): void {
  const measure = score.measures[bar]!
  const previous = score.measures[bar - 1]
  const isPickup = (bar === 0 && hasPickup(score)) || measure.writtenIn !== undefined
  out.push(`<measure number="${bar + 1}"${isPickup ? ' implicit="yes"' : ''}>`)
  out.push(leftLine(score, bar))
  const isFirst = bar === from
  // An excerpt is one line of music: the engraver breaks lines where it is told to, and this is the only place.
  if (isFirst && options.measures) out.push('<print new-system="yes"/>')
  // A short first bar is a pickup to the meter that follows.
  const meter = bar === 0 && hasPickup(score) ? score.measures[1]! : (measure.writtenIn ?? measure)
  const before = previous?.writtenIn ?? previous
  const meterChanges =
    bar === 1 && hasPickup(score) ? false : !before || !isSameMeter(before, measure.writtenIn ?? measure)
  const newClefs = isFirst
    ? []
    : part.clefChanges.filter((change) => change.bar === bar && !change.offsetTicks)
  const key = keyAt(part.keys, measure.startTicks)
  const keyChanges = isFirst || (key.tick === measure.startTicks && bar > 0 && !isUnpitched(part))
  if (isFirst || meterChanges || keyChanges || newClefs.length > 0) {
    out.push('<attributes>')
    if (isFirst) out.push(`<divisions>${TICKS_PER_QUARTER}</divisions>`)
    if (keyChanges)
      out.push(`<key><fifths>${isUnpitched(part) ? 0 : key.fifths}</fifths><mode>${key.mode}</mode></key>`)
    if (meterChanges)
      out.push(`<time><beats>${meter.numerator}</beats><beat-type>${meter.denominator}</beat-type></time>`)
    if (isFirst) {
      if (part.clefs.length > 1) out.push(`<staves>${part.clefs.length}</staves>`)
      for (const [index] of part.clefs.entries())
        out.push(clefXml(clefAt(part, index + 1, bar), part, index + 1))
    }
    if (isFirst) out.push(transposeXml(part))
    for (const { clef, staff } of newClefs) out.push(clefXml(clef, part, staff))
    out.push('</attributes>')
  }
  const to = Math.min(options.measures?.to ?? score.measures.length, score.measures.length)
  const span = { startTicks: score.measures[from]!.startTicks, endTicks: measureEnd(score.measures[to - 1]!) }
  const directions = [
    ...part.clefChanges.flatMap((change) => (change.bar === bar ? clefWithin(change, part) : [])),
    ...directionsOf(score, part, measure, span, {
      isFirstPart: partIndex === (options.parts?.[0] ?? 0),
      isExcerpt: options.measures !== undefined,
      version: options.version ?? '3.0',
    }),
  ].sort((a, b) => a.offsetTicks - b.offsetTicks)
  const voices = part.measures[bar] ?? []
  const stems = stemDirections(voices, isUnpitched(part))
  const gathered = options.gathered?.get(bar)
  let position = 0
  const said = new Set<Direction>()
  /** Directions stand before the note they begin with; one between two notes says how far it is from the first. */
  const direct = (staff: number, untilTicks: Ticks, isLastVoice = false) => {
    for (const direction of directions) {
      const { offsetTicks, xml, edge } = direction
      if (direction.staff !== staff || offsetTicks >= untilTicks || said.has(direction)) continue
      if (direction.isAfterAllVoices && !isLastVoice) continue
      if (edge === 'next' && offsetTicks > position && Number.isFinite(untilTicks)) continue
      // What lies too far behind this note is said after it, and counted back.
      if (offsetTicks - position > longestOffset) continue
      said.add(direction)
      out.push(xml(edge === null ? offsetTicks - position : 0))
    }
  }
  for (const [index, voice] of voices.entries()) {
    const isFirstOfStaff = voices[index - 1]?.staff !== voice.staff
    if (position > 0) out.push(`<backup><duration>${position}</duration></backup>`)
    position = 0
    for (const element of voice.elements) {
      position = element.startTicks
      if (isFirstOfStaff) direct(voice.staff, element.startTicks + element.durationTicks)
      // Behind what is said at the beginning of the bar: a reader takes what stands behind it for part of the rest.
      if (gathered !== undefined && index === 0)
        out.push(
          `<attributes><measure-style><multiple-rest>${gathered}</multiple-rest></measure-style></attributes>`,
        )
      writeElement(
        out,
        part,
        partIndex,
        voice,
        element,
        options,
        measure,
        stemOf(element, stems.get(voice.voice)),
        slurs,
      )
      position = element.startTicks + element.durationTicks
    }
    if (voices[index + 1]?.staff !== voice.staff) direct(voice.staff, Number.POSITIVE_INFINITY, true)
    else if (isFirstOfStaff) direct(voice.staff, Number.POSITIVE_INFINITY)
  }
  for (const [index] of part.clefs.entries()) direct(index + 1, Number.POSITIVE_INFINITY, true)
  out.push(rightLine(score, bar, options.goesOn ?? false))
  out.push('</measure>')
}

/** Repeats and endings that begin with a bar. */
function leftLine({ repeats, endings }: Score, bar: number): string {
  const isRepeat = repeats.some(({ from }) => from === bar)
  const ending = endings.find(({ from }) => from === bar)
  if (!isRepeat && !ending) return ''
  const style = isRepeat ? '<bar-style>heavy-light</bar-style>' : ''
  const begins = ending ? `<ending number="${ending.time}" type="start">${ending.time}.</ending>` : ''
  return `<barline location="left">${style}${begins}${isRepeat ? '<repeat direction="forward"/>' : ''}</barline>`
}

const barStyles: Readonly<Record<WrittenBarLine['style'], string>> = {
  double: 'light-light',
  final: 'light-heavy',
  dashed: 'dashed',
  dotted: 'dotted',
}

/** How a bar ends, where that is not with a plain line. */
function rightLine({ measures, repeats, endings, barLines }: Score, bar: number, goesOn: boolean): string {
  const repeat = repeats.find(({ to }) => to - 1 === bar)
  const isRepeat = repeat !== undefined
  const told = barLines.find((line) => line.bar === bar)
  const ending = endings.find(({ to }) => to - 1 === bar)
  const style = isRepeat
    ? 'light-heavy'
    : told
      ? barStyles[told.style]
      : bar === measures.length - 1 && !goesOn
        ? 'light-heavy'
        : null
  if (style === null && !ending) return ''
  const ends = ending
    ? `<ending number="${ending.time}" type="${ending.time === 1 ? 'stop' : 'discontinue'}"/>`
    : ''
  return `<barline location="right">${style === null ? '' : `<bar-style>${style}</bar-style>`}${ends}${repeat ? `<repeat direction="backward"${repeat.times > 2 ? ` times="${repeat.times}"` : ''}/>` : ''}</barline>`
}

/** What has reached over has its stem towards its own staff. */
function stemOf(element: ScoreElement, usual: 'up' | 'down' | undefined): 'up' | 'down' | undefined {
  if (element.kind === 'rest' || element.crossesTo === null) return usual
  return element.crossesTo === 2 ? 'up' : 'down'
}

/** Readers keep offsets in sixteen bits. */
const longestOffset: Ticks = 2 ** 15 - 1

function isSameMeter(a: Meter, b: Meter): boolean {
  return a.numerator === b.numerator && a.denominator === b.denominator
}

/** Whether a piece begins with a bar that is shorter than those after it. */
function hasPickup({ measures: [first, second] }: Score): boolean {
  return (
    first !== undefined &&
    second !== undefined &&
    first.writtenIn === undefined &&
    first.lengthTicks < second.lengthTicks
  )
}

/** How what is written sounds: in whole octaves and what is left, as the standard wants it. */
function transposeXml({ transposition: { semitones, steps } }: ScorePart): string {
  if (semitones === 0) return ''
  const octaves = Math.trunc(-semitones / 12)
  const octaveXml = octaves === 0 ? '' : `<octave-change>${octaves}</octave-change>`
  return `<transpose><diatonic>${-steps - 7 * octaves}</diatonic><chromatic>${-semitones - 12 * octaves}</chromatic>${octaveXml}</transpose>`
}

/** The clef in force at a measure. */
function clefAt(part: ScorePart, staff: number, bar: number): Clef {
  const change = part.clefChanges.findLast(
    (each) => each.staff === staff && (each.bar < bar || (each.bar === bar && !each.offsetTicks)),
  )
  return change?.clef ?? part.clefs[staff - 1]!
}

/** A clef between two notes: it stands before the first note that begins where it does, or later. */
function clefWithin({ clef, staff, offsetTicks }: ClefChange, part: ScorePart): Direction[] {
  if (!offsetTicks) return []
  const xml = () => `<attributes>${clefXml(clef, part, staff)}</attributes>`
  return [{ offsetTicks, staff, isAfterAllVoices: false, edge: 'next', xml }]
}

function clefXml(clef: Clef, part: ScorePart, staff: number): string {
  const number = part.clefs.length > 1 ? ` number="${staff}"` : ''
  switch (clef) {
    case 'alto':
      return `<clef${number}><sign>C</sign><line>3</line></clef>`
    case 'tenor':
      return `<clef${number}><sign>C</sign><line>4</line></clef>`
    case 'treble':
      return `<clef${number}><sign>G</sign><line>2</line></clef>`
    case 'bass':
      return `<clef${number}><sign>F</sign><line>4</line></clef>`
    case 'treble 8vb':
      return `<clef${number}><sign>G</sign><line>2</line><clef-octave-change>-1</clef-octave-change></clef>`
    case 'bass 8vb':
      return `<clef${number}><sign>F</sign><line>4</line><clef-octave-change>-1</clef-octave-change></clef>`
    case 'percussion':
      return `<clef${number}><sign>percussion</sign></clef>`
  }
}
