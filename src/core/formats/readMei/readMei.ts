import { FileProblem } from '../../border/fileProblem'
import { instrumentOfName } from '../../midi/instrumentNames'
import type { KeySignature } from '../../notation/scoreSettings'
import {
  type BarFlow,
  mostWrittenBars,
  plainFlow,
  type WrittenBar,
  type WrittenMusic,
} from '../../notation/writtenMusic/writtenMusic'
import { boundedName } from '../../text/bounded'
import { ReadingProblems } from '../readingProblems'
import { child, childrenOf, readXml, type XmlElement, XmlError } from '../xmlTree'
import { MeiPart } from './meiPart'
import { clefOf, inner, keyOf, meterOf, plainText } from './meiValues'

/** The file is MEI that cannot be read, or no MEI; says what and where. */
export class MeiError extends FileProblem {
  override name = 'MeiError'
}

/**
 * Reads MEI, common Western notation: what its first `mdiv` has.
 *
 * Source: Music Encoding Initiative, Guidelines, version 5.
 *
 * @throws MeiError
 */
export function readMei(text: string): {
  readonly music: WrittenMusic
  readonly warnings: readonly string[]
} {
  if (text.trim() === '') throw new MeiError('The file is empty')
  const problems = new ReadingProblems()
  const reading = new Reading(problems)
  let root = ''
  const damage: string[] = []
  try {
    readXml(text, handed, (element, around) => {
      root ||= around[0]?.name ?? element.name
      reading.take(element, around)
    })
  } catch (error) {
    if (!(error instanceof XmlError)) throw error
    if (reading.bars.length === 0) throw new MeiError(error.message)
    damage.push(
      `The file is damaged: ${error.message}. The ${reading.bars.length.toLocaleString('en')} bars before that could be read.`,
    )
  }
  if (root !== 'mei' && root !== 'music')
    throw new MeiError(
      root === ''
        ? 'The file has nothing of a score in it'
        : `The file begins with <${root}>, not with <mei>: it is no MEI`,
    )
  if (reading.parts.length === 0 || reading.bars.length === 0)
    throw new MeiError('The file has no bars with parts in it')
  return { music: reading.music(), warnings: [...damage, ...problems.sentences()] }
}

const handed: ReadonlySet<string> = new Set(['titleStmt', 'scoreDef', 'staffDef', 'measure', 'sb', 'pb'])

class Reading {
  readonly parts: MeiPart[] = []
  readonly bars: WrittenBar[] = []
  private readonly partOfStaff = new Map<string, { readonly part: MeiPart; readonly staff: number }>()
  private readonly tempos: { bar: number; offsetTicks: number; tempoBpm: number }[] = []
  private readonly sections: { bar: number; offsetTicks: number; name: string }[] = []
  private readonly chordSymbols: { bar: number; offsetTicks: number; text: string }[] = []
  private title = ''
  private composer = ''
  private meter: WrittenBar['meter'] = { numerator: 4, denominator: 4 }
  private breakBefore: WrittenBar['breakBefore'] = null
  private ending: XmlElement | null = null

  constructor(private readonly problems: ReadingProblems) {}

  take(element: XmlElement, around: readonly XmlElement[]): void {
    switch (element.name) {
      case 'titleStmt':
        if (around.some(({ name }) => name === 'fileDesc')) this.heading(element)
        break
      case 'scoreDef':
        this.scoreDef(element)
        break
      case 'staffDef':
        this.staffChange(element)
        break
      case 'sb':
        if (this.bars.length > 0) this.breakBefore ??= 'line'
        break
      case 'pb':
        if (this.bars.length > 0) this.breakBefore = 'page'
        break
      case 'measure':
        this.checkRoom(element)
        this.measure(element, around.findLast(({ name }) => name === 'ending') ?? null)
        break
    }
  }

  private heading(titleStmt: XmlElement): void {
    this.title = boundedName(plainText(child(titleStmt, 'title')))
    const composer = inner(titleStmt).find(
      ({ name, attributes }) =>
        name === 'composer' || (name === 'persName' && attributes.role === 'composer'),
    )
    this.composer = boundedName(plainText(composer))
  }

  private scoreDef(scoreDef: XmlElement): void {
    const meter = meterOf(scoreDef)
    if (meter !== undefined) this.meter = meter
    const key = keyOf(scoreDef)
    const group = child(scoreDef, 'staffGrp')
    if (group && this.parts.length === 0) {
      this.group(group, false)
      const inStaff = inner(scoreDef).flatMap((each) =>
        each.name === 'staffDef' ? (meterOf(each) ?? []) : [],
      )[0]
      if (meter === undefined && inStaff) this.meter = inStaff
    } else if (group) for (const each of inner(group)) if (each.name === 'staffDef') this.staffChange(each)
    if (key) for (const part of this.parts) part.keyChange(this.bars.length, key)
  }

  /** Two staves in a brace are one part. */
  private group(group: XmlElement, isHeldToAbove: boolean): void {
    const staves = childrenOf(group, 'staffDef')
    const isOne =
      staves.length === 2 &&
      (group.attributes.symbol === 'brace' || child(group, 'grpSym')?.attributes.symbol === 'brace') &&
      childrenOf(group, 'staffGrp').length === 0
    if (isOne) {
      this.part(staves, group, isHeldToAbove)
      return
    }
    const isBracket =
      group.attributes.symbol === 'bracket' || child(group, 'grpSym')?.attributes.symbol === 'bracket'
    let first = true
    for (const each of group.children) {
      if (each.name !== 'staffDef' && each.name !== 'staffGrp') continue
      const isHeld = isBracket && !first
      if (each.name === 'staffDef') this.part([each], each, isHeld)
      else this.group(each, isHeld)
      first = false
    }
  }

  private part(staves: readonly XmlElement[], named: XmlElement, isHeldToAbove: boolean): void {
    const index = this.parts.length
    const first = staves[0]!
    const said =
      plainText(child(named, 'label')) ||
      named.attributes.label ||
      plainText(child(first, 'label')) ||
      first.attributes.label ||
      ''
    const name = boundedName(said) || `Part ${index + 1}`
    const instrument = child(first, 'instrDef') ?? child(named, 'instrDef')
    const program = Number(instrument?.attributes['midi.instrnum'] ?? Number.NaN)
    const channel = Number(instrument?.attributes['midi.channel'] ?? Number.NaN)
    const isDrums =
      first.attributes['clef.shape'] === 'perc' || child(first, 'clef')?.attributes.shape === 'perc'
    const part = new MeiPart(
      {
        name,
        shortName: boundedName(plainText(child(named, 'labelAbbr')) || named.attributes['label.abbr'] || ''),
        instrument: isDrums
          ? { kind: 'drums' }
          : Number.isInteger(program) && program >= 0 && program <= 127
            ? { kind: 'program', program }
            : (instrumentOfName(name) ?? { kind: 'program', program: 0 }),
        bracket: isHeldToAbove ? 'above' : 'none',
        keyNames: [],
        channel: Number.isInteger(channel) && channel >= 1 && channel <= 16 ? channel : isDrums ? 10 : 1,
        volume: 0.8,
        pan: 0,
      },
      staves.map(({ attributes }) => attributes.n ?? ''),
      staves.map((staff) => clefOf(staff) ?? 'treble'),
      {
        semitones: 0 - (Number(first.attributes['trans.semi'] ?? 0) || 0),
        steps: 0 - (Number(first.attributes['trans.diat'] ?? 0) || 0),
      },
      this.problems,
    )
    const key = keyOf(first)
    if (key) part.keyChange(0, key)
    this.parts.push(part)
    for (const [place, staff] of staves.entries())
      this.partOfStaff.set(staff.attributes.n ?? String(this.partOfStaff.size + 1), {
        part,
        staff: place + 1,
      })
  }

  /** A staff is defined anew between bars. */
  private staffChange(staffDef: XmlElement): void {
    const known = this.partOfStaff.get(staffDef.attributes.n ?? '')
    if (!known) return
    const clef = clefOf(staffDef)
    if (clef) known.part.clefChange(this.bars.length, 0, known.staff, clef)
    const key: KeySignature | null = keyOf(staffDef)
    if (key) known.part.keyChange(this.bars.length, key)
    const meter = meterOf(staffDef)
    if (meter !== undefined) this.meter = meter
  }

  private measure(measure: XmlElement, ending: XmlElement | null): void {
    const bar = this.bars.length
    for (const part of this.parts) part.beginBar(this.meter)
    for (const staff of childrenOf(measure, 'staff')) {
      const known = this.partOfStaff.get(staff.attributes.n ?? '')
      known?.part.staff(staff, known.staff)
    }
    for (const part of this.parts) part.endBar()
    for (const event of measure.children) this.control(event, bar)
    const { left, right } = measure.attributes
    const startsEnding = ending !== null && ending !== this.ending
    if (this.ending !== null && ending !== this.ending) this.stopEnding()
    this.ending = ending
    const flow: BarFlow = {
      ...plainFlow,
      repeatStarts: left === 'rptstart' || left === 'rptboth' || this.isRepeatNext,
      repeatTimes: right === 'rptend' || right === 'rptboth' ? 2 : 0,
      endingStarts: startsEnding
        ? (ending.attributes.n ?? '1')
            .split(/[^\d]+/)
            .map(Number)
            .filter((number) => number > 0)
        : null,
    }
    this.isRepeatNext = right === 'rptboth' || right === 'rptstart'
    const barLine = { dbl: 'double', end: 'final', dashed: 'dashed', dotted: 'dotted' } as const
    this.bars.push({
      meter: this.meter,
      flow,
      barLine: barLine[right as keyof typeof barLine] ?? null,
      breakBefore: this.breakBefore,
    })
    this.breakBefore = null
    for (let more = restsGathered(measure) - 1; more > 0; more--) {
      this.checkRoom(measure)
      this.restBar()
    }
  }

  private checkRoom(measure: XmlElement): void {
    if (this.bars.length >= mostWrittenBars)
      throw new XmlError(
        `Line ${measure.line}: there are more than ${mostWrittenBars.toLocaleString('en')} bars, more than can be read`,
      )
  }

  /** One more bar of several that rest under one sign. */
  private restBar(): void {
    for (const part of this.parts) part.beginBar(this.meter)
    this.bars.push({ meter: this.meter, flow: plainFlow, barLine: null, breakBefore: null })
  }

  private isRepeatNext = false

  private stopEnding(): void {
    const last = this.bars.at(-1)
    if (last) this.bars[this.bars.length - 1] = { ...last, flow: { ...last.flow, endingStops: true } }
  }

  /** What stands in a bar beside its staves. */
  private control(event: XmlElement, bar: number): void {
    const known = this.partOfStaff.get((event.attributes.staff ?? '').split(/\s+/)[0] ?? '')
    const byStart = this.parts.find((part) => part.has(event.attributes.startid))
    const part = known?.part ?? byStart ?? this.parts[0]
    if (!part || event.name === 'staff') return
    const place = part.placeOf(event, bar)
    switch (event.name) {
      case 'tempo': {
        const tempoBpm = tempoOf(event)
        if (tempoBpm !== null) this.tempos.push({ ...place, tempoBpm })
        const words = plainText(event)
        if (words && tempoBpm === null) part.text(place, words)
        break
      }
      case 'reh':
        if (plainText(event)) this.sections.push({ ...place, name: plainText(event) })
        break
      case 'harm':
        if (plainText(event)) this.chordSymbols.push({ ...place, text: typedChord(plainText(event)) })
        break
      default:
        part.control(event, place, known?.staff ?? 1, bar)
    }
  }

  music(): WrittenMusic {
    if (this.ending) this.stopEnding()
    return {
      headings: { title: this.title, subtitle: '', composer: this.composer, arranger: '', rights: '' },
      bars: this.bars,
      parts: this.parts.map((part) => part.part()),
      tempos: this.tempos,
      sections: this.sections,
      chordSymbols: this.chordSymbols,
      swing: null,
    }
  }
}

/** Signs of engraved music as they are typed. */
function typedChord(text: string): string {
  return text.replaceAll('♯', '#').replaceAll('♭', 'b').replaceAll('\ue262', '#').replaceAll('\ue260', 'b')
}

/** Quarters a minute; null where it says none. */
function tempoOf({ attributes }: XmlElement): number | null {
  const bpm = Number(attributes['midi.bpm'] ?? Number.NaN)
  if (Number.isFinite(bpm) && bpm > 0) return bpm
  const mm = Number(attributes.mm ?? Number.NaN)
  const unit = Number(attributes['mm.unit'] ?? 4)
  if (!Number.isFinite(mm) || mm <= 0) return null
  const dots = Number(attributes['mm.dots'] ?? 0)
  return (mm * 4 * (2 - 0.5 ** dots)) / unit
}

/** Bars that one sign of rest in a measure stands for, in all its staves. */
function restsGathered(measure: XmlElement): number {
  const layers = childrenOf(measure, 'staff').flatMap((staff) => childrenOf(staff, 'layer'))
  const counts = layers.map((layer) => Number(child(layer, 'multiRest')?.attributes.num ?? 1))
  const count = Math.min(...counts)
  return Number.isInteger(count) ? count : 1
}
