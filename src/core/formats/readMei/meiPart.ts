import { signatureAlter } from '../../notation/accidentals'
import { type WrittenLevel, writtenLevels } from '../../notation/amendments/amendment'
import type { PartHeading } from '../../notation/headings'
import { percussionKeyAt } from '../../notation/percussion'
import type { Articulation, Clef, SpelledPitch } from '../../notation/score'
import type { KeySignature } from '../../notation/scoreSettings'
import { type Transposition, transpositions } from '../../notation/transposition'
import { ticksOfNoteValue } from '../../notation/values'
import type {
  Entry,
  EntryNote,
  Place,
  WrittenBar,
  WrittenPart,
} from '../../notation/writtenMusic/writtenMusic'
import { TICKS_PER_QUARTER, type Ticks } from '../../time/units'
import type { ReadingProblems } from '../readingProblems'
import { child, childrenOf, type XmlElement } from '../xmlTree'
import { clefOf, plainText, valueOfMei } from './meiValues'

type Mutable<T> = { -readonly [K in keyof T]: T[K] }
type Chord = Extract<Entry['content'], { kind: 'chord' }>
type OpenChord = { -readonly [K in keyof Chord]: Chord[K] extends readonly (infer E)[] ? E[] : Chord[K] }

const pitchClasses = { C: 0, D: 2, E: 4, F: 5, G: 7, A: 9, B: 11 } as const
const alterOf: Readonly<Record<string, number>> = {
  s: 1,
  f: -1,
  ss: 2,
  x: 2,
  ff: -2,
  n: 0,
  xs: 2,
  sx: 2,
  nf: -1,
  ns: 1,
}
const signOf: Readonly<Record<string, Articulation>> = {
  stacc: 'staccato',
  ten: 'tenuto',
  acc: 'accent',
  marc: 'marcato',
  stacciss: 'staccatissimo',
  spicc: 'staccatissimo',
  upbow: 'up bow',
  dnbow: 'down bow',
}
const levels: ReadonlySet<string> = new Set(writtenLevels)

/** A place of something that lasts, whose end may come later. */
interface Lasting {
  readonly event: XmlElement
  readonly from: Place
  readonly staff: number
  readonly bar: number
}

/** One part of an MEI file: its staves are read bar by bar, and what leads from note to note when all are known. */
export class MeiPart {
  private readonly entries: Entry[][] = []
  private readonly clefChanges: WrittenPart['clefChanges'][number][] = []
  private readonly keys: WrittenPart['keys'][number][] = []
  private readonly levels: WrittenPart['levels'][number][] = []
  private readonly texts: WrittenPart['texts'][number][] = []
  private readonly pedalSigns: (Place & { readonly isDown: boolean })[] = []
  private readonly lasting: Lasting[] = []
  private readonly chords = new Map<
    string,
    {
      readonly chord: OpenChord
      readonly note: Mutable<EntryNote> | null
      readonly place: Place
      readonly voice: string
      readonly end: Place
    }
  >()
  private readonly meters: NonNullable<WrittenBar['meter']>[] = []
  private key: KeySignature = { fifths: 0, mode: 'major' }
  private readonly written: Transposition
  /** What is written lies this much above what sounds. */
  private readonly soundsLower: number
  /** Notes of which nothing says whether they are sharp or flat. */
  private readonly unsaid = new Set<EntryNote>()
  /** Notes of the bar whose signs are not decided yet. */
  private unsigned: {
    readonly note: Mutable<EntryNote>
    readonly startTicks: Ticks
    readonly address: string
    readonly shown: number | undefined
    readonly silent: number | undefined
    readonly settle: (alter: number) => void
  }[] = []

  constructor(
    private readonly heading: PartHeading,
    /** What its staves are called in the file. */
    private readonly staves: readonly string[],
    private readonly clefs: readonly Clef[],
    { semitones, steps }: Transposition,
    private readonly problems: ReadingProblems,
  ) {
    this.soundsLower = semitones
    const all = Object.values(transpositions)
    this.written =
      all.find((each) => each.semitones === semitones && each.steps === steps) ??
      all.find((each) => each.semitones === semitones) ??
      transpositions['as it sounds']
    if (this.written.semitones !== semitones)
      problems.add('transpositions that are not known: the part is written as it sounds', heading.name)
  }

  beginBar(meter: WrittenBar['meter']): void {
    this.entries.push([])
    this.meters.push(meter ?? { numerator: 4, denominator: 4 })
  }

  /** Which of its staves one of the file is; null for one of another part. */
  staffOf(name: string | undefined): number | null {
    const index = this.staves.indexOf(name ?? '')
    return index < 0 ? null : index + 1
  }

  has(reference: string | undefined): boolean {
    return reference !== undefined && this.chords.has(reference.replace(/^#/, ''))
  }

  keyChange(bar: number, key: KeySignature): void {
    this.key = key
    this.keys.push({ bar, ...key })
  }

  clefChange(bar: number, offsetTicks: Ticks, staff: number, clef: Clef): void {
    this.clefChanges.push({ bar, offsetTicks, staff, clef })
  }

  text(place: Place, text: string): void {
    this.texts.push({ ...place, text })
  }

  /** Where something stands: at a note, or at a beat. */
  placeOf({ attributes }: XmlElement, bar: number): Place {
    const at = this.chords.get((attributes.startid ?? '').replace(/^#/, ''))
    if (at) return at.place
    return this.atBeat(bar, Number(attributes.tstamp ?? 1))
  }

  private atBeat(bar: number, tstamp: number): Place {
    const { denominator } = this.meters[Math.min(bar, this.meters.length - 1)] ?? { denominator: 4 }
    const ticks = Number.isFinite(tstamp) ? ((tstamp - 1) * TICKS_PER_QUARTER * 4) / denominator : 0
    return { bar, offsetTicks: Math.max(0, Math.round(ticks)) }
  }

  /** A staff of a bar, layer by layer. */
  staff(staff: XmlElement, number: number): void {
    for (const [index, layer] of childrenOf(staff, 'layer').entries())
      new LayerReader(this, number, `${(number - 1) * 4 + (Number(layer.attributes.n) || index + 1)}`, layer)
  }

  get bar(): number {
    return this.entries.length - 1
  }

  get barTicks(): Ticks {
    const { numerator, denominator } = this.meters[this.bar]!
    return (TICKS_PER_QUARTER * 4 * numerator) / denominator
  }

  push(entry: Entry): void {
    this.entries[this.bar]!.push(entry)
  }

  /** Something that is named, for what leads to it or stands at it. */
  name(
    element: XmlElement,
    chord: OpenChord,
    note: Mutable<EntryNote> | null,
    start: Ticks,
    end: Ticks,
    voice: string,
  ): void {
    const id = element.attributes['xml:id']
    const { bar } = this
    if (id)
      this.chords.set(id, {
        chord,
        note,
        voice,
        place: { bar, offsetTicks: start },
        end: { bar, offsetTicks: end },
      })
  }

  unknown(element: XmlElement): void {
    this.problems.add(
      `elements that are not known here (${element.name})`,
      `line ${element.line} (bar ${this.bar + 1} of ${this.heading.name})`,
    )
  }

  /** A note with its pitch: as it is written, and as it sounds. */
  note(element: XmlElement, startTicks: Ticks, staff: number): Mutable<EntryNote> | null {
    const { attributes } = element
    const isDrums = this.heading.instrument.kind === 'drums'
    const step = (attributes.pname ?? attributes.loc ?? '').toUpperCase() as SpelledPitch['step']
    const octave = Number(attributes.oct ?? Number.NaN)
    const fingering = plainText(child(element, 'fing')) || null
    const shared = {
      tiesFromPrevious: isTiedFrom(attributes.tie),
      tiesToNext: isTiedTo(attributes.tie),
      velocity: forceOf(attributes.vel),
      fingering,
    }
    if (isDrums) {
      const key = percussionKeyAt(
        step || 'B',
        Number.isFinite(octave) ? octave : 4,
        attributes['head.shape'] ?? 'normal',
      )
      return {
        key: key ?? 37,
        pitch: { step: step || 'B', alter: 0, octave: Number.isFinite(octave) ? octave : 4 },
        ...shared,
      }
    }
    if (pitchClasses[step] === undefined || !Number.isInteger(octave)) {
      this.problems.add(
        'notes without a pitch',
        `line ${element.line} (bar ${this.bar + 1} of ${this.heading.name})`,
      )
      return null
    }
    const accid = child(element, 'accid')?.attributes
    const note: Mutable<EntryNote> = { key: 0, pitch: { step, alter: 0, octave }, ...shared }
    const sounding = Number(attributes['oct.ges'] ?? octave)
    this.unsigned.push({
      note,
      startTicks,
      address: `${staff} ${step}${octave}`,
      shown: alterOf[attributes.accid ?? accid?.accid ?? ''],
      silent: alterOf[attributes['accid.ges'] ?? accid?.['accid.ges'] ?? ''],
      settle: (alter) => {
        const key = pitchClasses[step] + alter + 12 * (sounding + 1) - this.soundsLower
        note.key = Math.min(127, Math.max(0, key))
        note.pitch = { step, alter, octave: sounding }
      },
    })
    return note
  }

  /** Signs hold for what comes later in the bar on their staff, in whatever layer: they are known when all layers are. */
  endBar(): void {
    const signs = new Map<string, number>()
    for (const { note, address, shown, silent, settle } of this.unsigned.sort(
      (a, b) => a.startTicks - b.startTicks,
    )) {
      const alter = shown ?? silent ?? signs.get(address) ?? signatureAlter(note.pitch.step, this.key.fifths)
      if (shown !== undefined) signs.set(address, shown)
      settle(alter)
      if (shown === undefined && silent === undefined) this.unsaid.add(note)
    }
    this.unsigned = []
  }

  /** What stands beside the notes of the part. */
  control(event: XmlElement, place: Place, staff: number, bar: number): void {
    const at = this.chords.get((event.attributes.startid ?? '').replace(/^#/, ''))
    const sign = (articulation: Articulation) => {
      if (at && !at.chord.articulations.includes(articulation)) at.chord.articulations.push(articulation)
    }
    switch (event.name) {
      case 'dynam': {
        const text = plainText(event)
        if (levels.has(text)) this.levels.push({ ...place, mark: text as WrittenLevel })
        else if (/^(cresc|dim|decresc)/.test(text)) this.text(place, text)
        else if (text) this.text(place, text)
        break
      }
      case 'dir':
        if (plainText(event)) this.text(place, plainText(event))
        break
      case 'fermata':
        sign('fermata')
        break
      case 'trill':
        sign('trill')
        break
      case 'turn':
        sign('turn')
        break
      case 'mordent':
        sign(event.attributes.form === 'upper' ? 'upper mordent' : 'lower mordent')
        break
      case 'breath':
      case 'caesura':
        sign('breath')
        break
      case 'arpeg':
        for (const id of [event.attributes.startid, ...(event.attributes.plist ?? '').split(/\s+/)]) {
          const chord = this.chords.get((id ?? '').replace(/^#/, ''))?.chord
          if (chord && !chord.articulations.includes('rolled')) chord.articulations.push('rolled')
        }
        break
      case 'fing':
        if (at?.note) at.note.fingering = plainText(event) || null
        break
      case 'pedal':
        if (
          event.attributes.dir === 'down' ||
          event.attributes.dir === 'up' ||
          event.attributes.dir === 'bounce'
        ) {
          if (event.attributes.dir !== 'down') this.pedalSigns.push({ ...place, isDown: false })
          if (event.attributes.dir !== 'up') this.pedalSigns.push({ ...place, isDown: true })
        }
        break
      case 'slur':
      case 'tie':
      case 'lv':
      case 'hairpin':
      case 'gliss':
      case 'octave':
        this.lasting.push({ event, from: place, staff, bar })
        break
      default:
        this.unknown(event)
    }
  }

  /** The pedal is up at the end of a bar where a file says so shortly before it, since no beat lies on a bar line. */
  private upAt({ bar, offsetTicks }: Place): Place {
    const { numerator, denominator } = this.meters[bar]!
    const barTicks = (TICKS_PER_QUARTER * 4 * numerator) / denominator
    return offsetTicks >= barTicks - TICKS_PER_QUARTER / 8
      ? { bar, offsetTicks: barTicks }
      : { bar, offsetTicks }
  }

  /** Where something ends: at a note, or so many bars and beats on. */
  private endOf({ event, bar }: Lasting, atEndOfNote: boolean): Place | null {
    const at = this.chords.get((event.attributes.endid ?? '').replace(/^#/, ''))
    if (at) return atEndOfNote ? at.end : at.place
    const [, bars, beat] = /^(?:(\d+)m\s*\+\s*)?(\d*\.?\d+)$/.exec(event.attributes.tstamp2 ?? '') ?? []
    return beat === undefined ? null : this.atBeat(bar + Number(bars ?? 0), Number(beat))
  }

  /** What was read, as soon as all bars have been. */
  part(): WrittenPart {
    const slurs: WrittenPart['slurs'][number][] = []
    const glissandi: WrittenPart['glissandi'][number][] = []
    const hairpins: WrittenPart['hairpins'][number][] = []
    const octaveLines: WrittenPart['octaveLines'][number][] = []
    for (const each of this.lasting) {
      const { event, from, staff } = each
      const [start, end] = [event.attributes.startid, event.attributes.endid].map((id) =>
        this.chords.get((id ?? '').replace(/^#/, '')),
      )
      switch (event.name) {
        case 'tie':
          if (start?.note) start.note.tiesToNext = true
          if (end?.note) end.note.tiesFromPrevious = true
          // A sign goes over the bar line with its tie.
          if (start?.note && end?.note && this.unsaid.has(end.note) && isOnePlace(start.note, end.note)) {
            end.note.key = start.note.key
            end.note.pitch = start.note.pitch
          }
          break
        case 'slur':
          if (start && end)
            slurs.push({ from: start.place, to: end.place, voice: start.voice, endVoice: end.voice })
          break
        case 'gliss':
          if (start && end)
            glissandi.push({ from: start.place, to: end.place, voice: start.voice, endVoice: end.voice })
          break
        case 'hairpin': {
          const to = this.endOf(each, true)
          const kind = event.attributes.form === 'dim' ? 'diminuendo' : 'crescendo'
          if (to) hairpins.push({ from, to, kind })
          break
        }
        case 'octave': {
          const to = this.endOf(each, true)
          const size = event.attributes.dis === '15' ? 2 : 1
          const isAbove = event.attributes['dis.place'] !== 'below'
          if (to) octaveLines.push({ from, to, staff, octaves: (isAbove ? size : -size) as 1 | 2 | -1 | -2 })
          break
        }
      }
    }
    const pedals: WrittenPart['pedals'][number][] = []
    let down: Place | null = null
    for (const { isDown, ...place } of this.pedalSigns) {
      if (down) pedals.push({ from: down, to: isDown ? place : this.upAt(place) })
      down = isDown ? place : null
    }
    return {
      heading: this.heading,
      transposition: this.written,
      clefs: this.clefs,
      clefChanges: this.clefChanges,
      keys: this.keys.length > 0 ? this.keys : [{ bar: 0, fifths: 0, mode: 'major' }],
      entries: this.entries,
      levels: this.levels,
      hairpins,
      octaveLines,
      pedals,
      texts: this.texts,
      slurs,
      glissandi,
    }
  }
}

const isOnePlace = (a: EntryNote, b: EntryNote) =>
  a.pitch.step === b.pitch.step && a.pitch.octave === b.pitch.octave

const isTiedTo = (tie: string | undefined) => tie !== undefined && /[im]/.test(tie)
const isTiedFrom = (tie: string | undefined) => tie !== undefined && /[mt]/.test(tie)

function forceOf(velocity: string | undefined): number | null {
  const number = Number(velocity ?? Number.NaN)
  return Number.isInteger(number) && number >= 1 && number <= 127 ? number : null
}

const isCount = (number: number) => Number.isInteger(number) && number >= 1 && number <= 128

/** So many notes in the time of how many. */
interface Ratio {
  readonly actual: number
  readonly normal: number
}

/** Reads one layer: what follows each other on a staff. */
class LayerReader {
  /** Not rounded: tuplets need not go into ticks. */
  private position = 0
  private graces: EntryNote[] = []
  private readonly entries: Mutable<Entry>[] = []

  constructor(
    private readonly part: MeiPart,
    private readonly staff: number,
    private readonly voice: string,
    layer: XmlElement,
  ) {
    this.read(layer, null)
  }

  private read(within: XmlElement, tuplet: Ratio | null): void {
    for (const element of within.children)
      switch (element.name) {
        case 'note':
        case 'chord':
          this.chord(element, tuplet)
          break
        case 'rest':
          this.rest(element, tuplet, element.attributes.visible === 'false')
          break
        case 'space':
          this.rest(element, tuplet, true)
          break
        case 'mRest':
        case 'mSpace':
        case 'multiRest':
          this.wholeRest(element.name === 'mSpace' || element.attributes.visible === 'false')
          break
        case 'tuplet':
          this.tuplet(element, tuplet)
          break
        case 'beam':
        case 'graceGrp':
        case 'bTrem':
          this.read(element, tuplet)
          if (element.name === 'bTrem') this.trembles()
          break
        case 'clef': {
          const clef = clefOf(element)
          if (clef) this.part.clefChange(this.part.bar, Math.round(this.position), this.staff, clef)
          break
        }
        case 'accid':
        case 'artic':
        case 'keySig':
        case 'meterSig':
        case 'barLine':
          break
        default:
          this.part.unknown(element)
      }
  }

  private tuplet(element: XmlElement, outer: Ratio | null): void {
    const [actual, normal] = [Number(element.attributes.num ?? 3), Number(element.attributes.numbase ?? 2)]
    if (!isCount(actual) || !isCount(normal)) {
      this.part.unknown(element)
      this.read(element, outer)
      return
    }
    const before = this.entries.length
    this.read(element, { actual: actual * (outer?.actual ?? 1), normal: normal * (outer?.normal ?? 1) })
    const own = this.entries.slice(before)
    for (const [index, entry] of own.entries())
      if (entry.tuplet)
        entry.tuplet = { ...entry.tuplet, edge: { starts: index === 0, stops: index === own.length - 1 } }
  }

  private chord(element: XmlElement, tuplet: Ratio | null): void {
    const notes = element.name === 'note' ? [element] : childrenOf(element, 'note')
    const isGrace =
      element.attributes.grace !== undefined ||
      notes.every(({ attributes }) => attributes.grace !== undefined)
    const staff = this.part.staffOf(element.attributes.staff ?? notes[0]?.attributes.staff) ?? this.staff
    const read = notes.flatMap((note) => {
      const found = this.part.note(note, Math.round(this.position), staff)
      return found ? [{ note, found }] : []
    })
    if (isGrace) {
      this.graces.push(...read.map(({ found }) => found))
      return
    }
    const value = valueOfMei(element, notes[0])
    const { start, ticks } = this.advance(value ? ticksOfNoteValue(value) : 0, tuplet)
    if (read.length === 0 || ticks <= 0) return
    const articulations = [element, ...notes].flatMap((each) => [
      ...(each.attributes.artic ?? '').split(/\s+/),
      ...childrenOf(each, 'artic').flatMap(({ attributes }) => (attributes.artic ?? '').split(/\s+/)),
    ])
    const chord: OpenChord = {
      kind: 'chord',
      notes: read.map(({ found }) => found),
      graces: this.graces,
      articulations: [...new Set(articulations.flatMap((name) => signOf[name] ?? []))],
      lyric: lyricOf(element) ?? notes.map(lyricOf).find(Boolean) ?? null,
    }
    this.graces = []
    const tied = element.name === 'chord' ? element.attributes.tie : undefined
    if (tied)
      for (const { found } of read) {
        found.tiesToNext ||= isTiedTo(tied)
        found.tiesFromPrevious ||= isTiedFrom(tied)
      }
    this.add({
      startTicks: start,
      durationTicks: ticks,
      voice: this.voice,
      staff,
      value,
      tuplet: tuplet && { ...tuplet, edge: null },
      content: chord,
    })
    this.part.name(
      element,
      chord,
      element.name === 'note' ? read[0]!.found : null,
      start,
      start + ticks,
      this.voice,
    )
    if (element.name === 'chord')
      for (const { note, found } of read) this.part.name(note, chord, found, start, start + ticks, this.voice)
  }

  private rest(element: XmlElement, tuplet: Ratio | null, isHidden: boolean): void {
    const value = valueOfMei(element)
    const { start, ticks } = this.advance(value ? ticksOfNoteValue(value) : 0, tuplet)
    if (ticks <= 0) return
    this.add({
      startTicks: start,
      durationTicks: ticks,
      voice: this.voice,
      staff: this.staff,
      value,
      tuplet: tuplet && { ...tuplet, edge: null },
      content: { kind: 'rest', isWholeMeasure: false, isHidden },
    })
  }

  private wholeRest(isHidden: boolean): void {
    this.add({
      startTicks: 0,
      durationTicks: this.part.barTicks,
      voice: this.voice,
      staff: this.staff,
      value: null,
      tuplet: null,
      content: { kind: 'rest', isWholeMeasure: true, isHidden },
    })
  }

  private advance(plain: Ticks, tuplet: Ratio | null): { start: Ticks; ticks: Ticks } {
    const start = Math.round(this.position)
    this.position += tuplet ? (plain * tuplet.normal) / tuplet.actual : plain
    return { start, ticks: Math.round(this.position) - start }
  }

  /** The last chord is repeated for as long as it lasts. */
  private trembles(): void {
    const last = this.entries.at(-1)
    if (last?.content.kind === 'chord')
      last.content = { ...last.content, articulations: [...last.content.articulations, 'tremolo'] }
  }

  private add(entry: Mutable<Entry>): void {
    this.entries.push(entry)
    this.part.push(entry)
  }
}

function lyricOf(element: XmlElement): Chord['lyric'] {
  const verse = childrenOf(element, 'verse')[0]
  const syllable = child(verse, 'syl') ?? child(element, 'syl')
  const text = plainText(syllable)
  if (!syllable || !text) return null
  const syllabic = { i: 'begin', m: 'middle', t: 'end', s: 'single' } as const
  return { text, syllabic: syllabic[syllable.attributes.wordpos as keyof typeof syllabic] ?? 'single' }
}
