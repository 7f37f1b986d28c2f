import { signatureAlter } from '../../notation/accidentals'
import { type WrittenLevel, writtenLevels } from '../../notation/amendments/amendment'
import type { PartHeading } from '../../notation/headings'
import { percussionKeyAt } from '../../notation/percussion'
import { isStep, keyOf } from '../../notation/pitchSteps'
import type { Articulation, Clef } from '../../notation/score'
import type { KeySignature } from '../../notation/scoreSettings'
import type { Transposition } from '../../notation/transposition'
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
import { isTiedFrom, isTiedTo, type Mutable, type OpenChord, readLayer } from './meiLayer'
import { plainText } from './meiValues'

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
    private readonly transposition: Transposition,
    private readonly problems: ReadingProblems,
  ) {}

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
      readLayer(this, number, `${(number - 1) * 4 + (Number(layer.attributes.n) || index + 1)}`, layer)
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
    this.remark(`elements that are not known here (${element.name})`, element)
  }

  /** Something that cannot be taken over as it is. */
  remark(kind: string, element: XmlElement): void {
    this.problems.add(kind, `line ${element.line} (bar ${this.bar + 1} of ${this.heading.name})`)
  }

  /** A note with its pitch: as it is written, and as it sounds. */
  note(element: XmlElement, startTicks: Ticks, staff: number): Mutable<EntryNote> | null {
    const { attributes } = element
    const isDrums = this.heading.instrument.kind === 'drums'
    const step = (attributes.pname ?? '').toUpperCase()
    const octave = Number(attributes.oct ?? Number.NaN)
    const fingering = plainText(child(element, 'fing')) || null
    const shared = {
      tiesFromPrevious: isTiedFrom(attributes.tie),
      tiesToNext: isTiedTo(attributes.tie),
      velocity: forceOf(attributes.vel),
      fingering,
    }
    if (isDrums) {
      const place = {
        step: isStep(step) ? step : ('B' as const),
        octave: Number.isInteger(octave) ? octave : 4,
      }
      const key = percussionKeyAt(place.step, place.octave, attributes['head.shape'] ?? 'normal')
      return { key, pitch: { ...place, alter: 0 }, ...shared }
    }
    if (!isStep(step) || !Number.isInteger(octave)) {
      this.remark('notes without a pitch', element)
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
        note.pitch = { step, alter, octave: sounding }
        note.key = Math.min(127, Math.max(0, keyOf(note.pitch) - this.transposition.semitones))
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
      transposition: this.transposition,
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

function forceOf(velocity: string | undefined): number | null {
  const number = Number(velocity ?? Number.NaN)
  return Number.isInteger(number) && number >= 1 && number <= 127 ? number : null
}
