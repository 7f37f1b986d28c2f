import { signatureAlter } from '../notation/accidentals'
import type { ScoreHeadings } from '../notation/headings'
import { percussionPlace } from '../notation/percussion'
import {
  type ChordNote,
  type ClefChange,
  keyAt,
  type Score,
  type ScoreElement,
  type ScorePart,
  staffOf,
  type VoiceInMeasure,
} from '../notation/score'
import type { KeySignature } from '../notation/scoreSettings'
import type { Measure } from '../time/meterMap'
import { TICKS_PER_QUARTER, type Ticks } from '../time/units'
import { clefName, decorationOf } from './readAbc/abcValues'

/** The unit of lengths, an eighth: those of most tunes are small numbers then. */
const unitTicks: Ticks = TICKS_PER_QUARTER / 2
const barsToLine = 4
/** A bracket before a note, and not around a field such as `[K:C]`. */
const isChord = /^\[(?![A-Z]:)/

export interface WrittenAbc {
  readonly text: string
  /** What of the page has no place in this notation, in words. */
  readonly leftOut: readonly string[]
}

/**
 * Writes a score as a tune in ABC notation (the abc music standard 2.1): each voice by itself, in lines of a few bars; what stands in
 * bars for all in the first.
 */
export function writeAbc(score: Score, headings: ScoreHeadings): WrittenAbc {
  const voices = score.parts.flatMap((part, partIndex) => voicesOf(part, partIndex))
  const left = new LeftOut(score)
  const out: string[] = ['%abc-2.1', 'X:1', `T:${inLine(headings.title || 'Untitled')}`]
  if (headings.subtitle) out.push(`T:${inLine(headings.subtitle)}`)
  if (headings.composer) out.push(`C:${inLine(headings.composer)}`)
  if (headings.arranger) out.push(`Z:arranged by ${inLine(headings.arranger)}`)
  if (headings.rights) out.push(`%%abc-copyright ${inLine(headings.rights)}`)
  out.push(`M:${meterText(score.measures[0])}`, 'L:1/8')
  const tempo = score.tempos.find(({ tick }) => tick === 0)
  if (tempo) out.push(`Q:1/4=${bpmText(tempo.tempoBpm)}`)
  out.push(`%%score ${scoreLine(score, voices)}`)
  for (const voice of voices) {
    const part = score.parts[voice.partIndex]!
    const heading = headings.parts[voice.partIndex]!
    const name = voice.staff === 1 && voice.line === 0 ? ` name="${inQuotes(heading.name)}"` : ''
    const shortName = name && heading.shortName ? ` snm="${inQuotes(heading.shortName)}"` : ''
    const sounds = part.transposition.semitones === 0 ? '' : ` transpose=${-part.transposition.semitones}`
    out.push(`V:${voice.id} clef=${clefName(part.clefs[voice.staff - 1]!)}${sounds}${name}${shortName}`)
  }
  out.push(`K:${keyText(score.parts[0] ? keyAt(score.parts[0].keys, 0) : { fifths: 0, mode: 'major' })}`)
  for (const voice of voices) {
    const { instrument } = headings.parts[voice.partIndex]!
    if (voice.line === 0 && instrument.kind === 'program')
      out.push(`[V:${voice.id}] [I:MIDI program ${instrument.program}]`)
  }
  for (let from = 0; from < score.measures.length; from += barsToLine) {
    const to = Math.min(score.measures.length, from + barsToLine)
    for (const voice of voices) {
      const writer = new VoiceWriter(score, score.parts[voice.partIndex]!, voice, voice === voices[0], left)
      const bars = Array.from({ length: to - from }, (_, index) => writer.bar(from + index)).join(' ')
      // Some readers have no room for a change in a further voice of a staff before anything stands in it.
      const space = voice.line > 0 && bars.startsWith('[') && !isChord.test(bars) ? 'y ' : ''
      out.push(`[V:${voice.id}] ${space}${bars}`)
      if (writer.syllables.some((each) => each !== '*')) out.push(`w: ${writer.syllables.join(' ')}`)
    }
  }
  return { text: `${out.join('\n')}\n`, leftOut: left.told() }
}

/** A voice of a staff, through the piece. */
interface AbcVoiceOf {
  readonly id: string
  readonly partIndex: number
  readonly staff: number
  /** Among those of its staff, from 0. */
  readonly line: number
  readonly voice: number
}

function voicesOf(part: ScorePart, partIndex: number): AbcVoiceOf[] {
  return part.clefs.flatMap((_, index) => {
    const staff = index + 1
    const numbers = [
      ...new Set(
        part.measures.flatMap((bar) => bar.flatMap((each) => (each.staff === staff ? [each.voice] : []))),
      ),
    ].sort((a, b) => a - b)
    return (numbers.length > 0 ? numbers : [1]).map((voice, line) => ({
      id: `P${partIndex + 1}S${staff}V${line + 1}`,
      partIndex,
      staff,
      line,
      voice,
    }))
  })
}

/** Voices of a staff in round brackets, staves of a part in a brace. */
function scoreLine(score: Score, voices: readonly AbcVoiceOf[]): string {
  return score.parts
    .map((part, partIndex) => {
      const staves = part.clefs.map((_, index) => {
        const own = voices.filter((voice) => voice.partIndex === partIndex && voice.staff === index + 1)
        const ids = own.map(({ id }) => id).join(' ')
        return own.length > 1 ? `(${ids})` : ids
      })
      return staves.length > 1 ? `{${staves.join(' | ')}}` : staves.join('')
    })
    .join(' ')
}

/** Writes one voice, bar by bar. */
class VoiceWriter {
  /** Those of the line, note by note. */
  readonly syllables: string[] = []
  private signs = new Map<string, number>()
  /** Of the bar that is written. */
  private fifths = 0

  constructor(
    private readonly score: Score,
    private readonly part: ScorePart,
    private readonly voice: AbcVoiceOf,
    private readonly isFirst: boolean,
    private readonly left: LeftOut,
  ) {}

  bar(index: number): string {
    const measure = this.score.measures[index]!
    const own = this.part.measures[index]!.find(
      (each) => each.voice === this.voice.voice && each.staff === this.voice.staff,
    )
    this.signs = new Map()
    this.fifths = keyAt(this.part.keys, measure.startTicks).fifths
    const fields = this.fieldsAt(index, measure)
    const content = own
      ? this.content(own, index, measure)
      : `${this.voice.line === 0 ? 'z' : 'x'}${lengthText(measure.lengthTicks)}`
    return `${fields}${content} ${barLineAfter(this.score, index)}`
  }

  /** What changes with a bar: meter, key, clef, tempo, section; repeats that begin. */
  private fieldsAt(index: number, measure: Measure): string {
    const before = this.score.measures[index - 1]
    const { startTicks } = measure
    let text = ''
    if (before && meterText(before) !== meterText(measure)) text += `[M:${meterText(measure)}]`
    const key = keyAt(this.part.keys, startTicks)
    const last = before ? keyAt(this.part.keys, before.startTicks) : keyAt(this.score.parts[0]!.keys, 0)
    if (key.fifths !== last.fifths || key.mode !== last.mode) text += `[K:${keyText(key)}]`
    for (const change of this.part.clefChanges)
      if (
        change.bar === index &&
        change.staff === this.voice.staff &&
        !change.offsetTicks &&
        this.voice.line === 0
      )
        text += `[K:${keyText(key)} clef=${clefName(change.clef)}]`
    if (this.isFirst) {
      for (const { tick, tempoBpm } of this.score.tempos)
        if (tick === startTicks && index > 0) text += `[Q:1/4=${bpmText(tempoBpm)}]`
      for (const { tick, name } of this.score.sections)
        if (tick >= startTicks && tick < startTicks + measure.lengthTicks)
          text += `[P:${inLine(name).replaceAll(']', ')')}]`
    }
    const isStart = this.score.repeats.some((repeat) => repeat.from === index && index > 0)
    const ending = this.score.endings.find(({ from }) => from === index)
    return `${text}${isStart ? '|: ' : ''}${ending ? `[${ending.time} ` : ''}`
  }

  private content({ elements }: VoiceInMeasure, index: number, measure: Measure): string {
    const { startTicks } = measure
    return elements
      .map((element, place) => {
        const from = startTicks + element.startTicks
        const to = from + element.durationTicks
        let text = this.clefWithin(index, element)
        if (element.tuplet?.starts) {
          const count = tupletCount(elements, place)
          text += `(${element.tuplet.actual}:${element.tuplet.normal}:${count}`
        }
        if (this.isFirst) text += this.above(from, to)
        if (this.voice.line === 0 && this.voice.staff === 1) text += this.marks(from, to)
        return text + (element.kind === 'rest' ? this.rest(element, measure) : this.chord(element, from))
      })
      .join(' ')
  }

  /** A clef that changes within the bar, before what stands there. */
  private clefWithin(bar: number, { startTicks }: ScoreElement): string {
    const changes = this.part.clefChanges.filter(
      (change: ClefChange) =>
        change.bar === bar && change.staff === this.voice.staff && (change.offsetTicks ?? 0) > 0,
    )
    const here = changes.find(({ offsetTicks }) => offsetTicks === startTicks)
    if (!here || this.voice.line > 0) return ''
    return `[K:${keyText(keyAt(this.part.keys, this.score.measures[bar]!.startTicks))} clef=${clefName(here.clef)}]`
  }

  private rest(rest: Extract<ScoreElement, { kind: 'rest' }>, measure: Measure): string {
    const letter = rest.isHidden ? 'x' : 'z'
    return `${letter}${lengthText(rest.isWholeMeasure ? measure.lengthTicks : writtenTicks(rest))}`
  }

  private chord(chord: Extract<ScoreElement, { kind: 'chord' }>, from: Ticks): string {
    if (staffOf(chord, this.voice) !== this.voice.staff) this.left.add('notes that stand on the other staff')
    const isNew = chord.notes.some(({ tiesFromPrevious }) => !tiesFromPrevious)
    let text = ''
    for (const { startTicks, voice } of this.part.slurs)
      if (voice === this.voice.voice && startTicks === from) text += '('
    if (chord.graces.length > 0) text += `{${chord.graces.map((note) => this.pitch(note)).join('')}}`
    for (const sign of isNew ? chord.articulations : []) {
      const name = decorationOf(sign)
      if (name) text += `!${name}!`
      else this.left.add(`the sign “${sign}”`)
    }
    for (const { fingering } of chord.notes)
      if (fingering && /^[0-5]$/.test(fingering)) text += `!${fingering}!`
    const length = lengthText(writtenTicks(chord))
    const notes = chord.notes.map((note) => `${this.pitch(note)}${note.tiesToNext ? '-' : ''}`)
    text +=
      notes.length === 1
        ? notes[0]!.replace(/-?$/, (tie) => `${length}${tie}`)
        : `[${notes.join('')}]${length}`
    for (const { endTicks, voice } of this.part.slurs)
      if (voice === this.voice.voice && endTicks === from) text += ')'
    this.syllables.push(syllableText(chord))
    return text
  }

  private pitch(note: ChordNote): string {
    const isDrum = this.part.clefs[0] === 'percussion'
    const { step, octave, alter } = isDrum ? { ...percussionPlace(note.key), alter: 0 } : note.pitch
    if (isDrum && percussionPlace(note.key).notehead !== 'normal') this.left.add('heads of percussion')
    const line = `${step}${octave}`
    const signature = isDrum ? 0 : signatureAlter(step, this.fifths)
    // Readers differ in whether a sign holds in other octaves: where one has stood in the bar, each note says its own.
    const hasStood = [...this.signs.keys()].some((each) => each.startsWith(step))
    const needs = alter !== (this.signs.get(line) ?? signature) || hasStood
    if (needs && !isDrum) this.signs.set(line, alter)
    const sign = needs && !isDrum ? signText[alter + 2]! : ''
    return sign + (octave >= 5 ? step.toLowerCase() + "'".repeat(octave - 5) : step + ','.repeat(4 - octave))
  }

  /** Symbols of chords and words that stand at a note. */
  private above(from: Ticks, to: Ticks): string {
    const symbols = this.score.chordSymbols.filter(({ tick }) => tick >= from && tick < to)
    const words = [...this.score.texts, ...this.part.texts].filter(({ tick }) => tick >= from && tick < to)
    return [
      ...symbols.map(({ text }) => `"${inQuotes(text)}"`),
      ...words.map(({ text }) => `"^${inQuotes(text)}"`),
    ].join('')
  }

  /** Levels and hairpins, at the note where they begin. */
  private marks(from: Ticks, to: Ticks): string {
    const { levels, hairpins } = this.part.dynamics
    const within = (tick: Ticks) => tick >= from && tick < to
    let text = ''
    for (const { startTicks, endTicks, kind } of hairpins) {
      const name = kind === 'crescendo' ? 'crescendo' : 'diminuendo'
      if (within(endTicks)) text += `!${name})!`
      if (within(startTicks)) text += `!${name}(!`
    }
    for (const { tick, mark } of levels) if (within(tick)) text += `!${mark}!`
    return text
  }
}

const signText = ['__', '_', '=', '^', '^^'] as const

/** What a value lasts as it is written, without its tuplet. */
function writtenTicks({ durationTicks, tuplet }: ScoreElement): Ticks {
  return tuplet ? Math.round((durationTicks * tuplet.actual) / tuplet.normal) : durationTicks
}

/** A length in units: "", "2", "/2", "3/2". */
function lengthText(ticks: Ticks): string {
  let [numerator, denominator] = [Math.round(ticks), unitTicks as number]
  const divisor = greatestCommon(numerator, denominator)
  numerator /= divisor
  denominator /= divisor
  if (denominator === 1) return numerator === 1 ? '' : String(numerator)
  return `${numerator === 1 ? '' : numerator}/${denominator}`
}

function greatestCommon(a: number, b: number): number {
  return b === 0 ? a : greatestCommon(b, a % b)
}

function tupletCount(elements: readonly ScoreElement[], from: number): number {
  const end = elements.findIndex((each, index) => index >= from && each.tuplet?.stops)
  return (end < 0 ? elements.length - 1 : end) - from + 1
}

function syllableText(chord: Extract<ScoreElement, { kind: 'chord' }>): string {
  const { lyric } = chord
  if (!lyric) return '*'
  const text = inLine(lyric.text)
    .replaceAll(/[-_*|~]/g, (sign) => `\\${sign}`)
    .replaceAll(' ', '~')
  return lyric.syllabic === 'begin' || lyric.syllabic === 'middle' ? `${text}-` : text
}

function barLineAfter(score: Score, index: number): string {
  const isLast = index === score.measures.length - 1
  const ends = score.repeats.find(({ to }) => to === index + 1)
  const first = score.endings.find(({ to, time }) => to === index + 1 && time === 1)
  if (first) return ':|'
  if (ends && !score.endings.some(({ to, time }) => to === index + 1 && time === 2)) return ':|'
  const style = score.barLines.find(({ bar }) => bar === index)?.style
  if (isLast) return '|]'
  return style === 'double' || (ends && !style) ? '||' : style === 'final' ? '|]' : '|'
}

function meterText(measure: Measure | undefined): string {
  return measure ? `${measure.numerator}/${measure.denominator}` : '4/4'
}

const majors = ['Cb', 'Gb', 'Db', 'Ab', 'Eb', 'Bb', 'F', 'C', 'G', 'D', 'A', 'E', 'B', 'F#', 'C#'] as const
const minors = ['Ab', 'Eb', 'Bb', 'F', 'C', 'G', 'D', 'A', 'E', 'B', 'F#', 'C#', 'G#', 'D#', 'A#'] as const

function keyText({ fifths, mode }: KeySignature): string {
  return mode === 'minor' ? `${minors[fifths + 7]}m` : majors[fifths + 7]!
}

function bpmText(tempoBpm: number): string {
  return String(Math.round(tempoBpm * 100) / 100)
}

function inLine(text: string): string {
  return text
    .replaceAll(/[\r\n]+/g, ' ')
    .replaceAll('%', '\\%')
    .trim()
}

function inQuotes(text: string): string {
  return inLine(text).replaceAll('"', '’')
}

/** What has no place in a tune, each kind once. */
class LeftOut {
  private readonly kinds = new Set<string>()

  constructor(score: Score) {
    if (score.swing) this.add('swing')
    const starts = new Set(score.measures.map(({ startTicks }) => startTicks))
    if (score.tempos.some(({ tick }) => !starts.has(tick))) this.add('changes of tempo within bars')
    for (const part of score.parts) {
      if (part.pedals.length > 0) this.add('signs of the pedal')
      if (part.octaveLines.length > 0) this.add('octave lines: those notes are written where they sound')
      if (part.glissandi.length > 0) this.add('slides')
    }
    if (score.repeats.some(({ times }) => times > 2))
      this.add('how often more than twice a passage is played')
  }

  add(kind: string): void {
    this.kinds.add(kind)
  }

  told(): string[] {
    return [...this.kinds]
  }
}
