import type { Clef } from '../../notation/score'
import type { Swing } from '../../notation/swing'
import { type Transposition, transpositions } from '../../notation/transposition'
import {
  type BarFlow,
  type Entry,
  type EntryChord,
  type EntryNote,
  mostChordNotes,
  type Place,
  type Span,
  type WrittenBar,
  type WrittenPart,
} from '../../notation/writtenMusic/writtenMusic'
import { TICKS_PER_QUARTER, type Ticks } from '../../time/units'
import type { ReadingProblems } from '../readingProblems'
import { child, childrenOf, textOf, type XmlElement } from '../xmlTree'
import { clefOf, meterOf, transpositionOf } from './attributes'
import { chordOf, directionSays, levelsIn, type Said, soundSays } from './directions'
import { type NoteSigns, noteSigns } from './notations'
import { readNote, tupletOf, valueTold, versesOf } from './notes'
import type { ListedPart } from './partHeadings'

/** What one part says of a bar that holds for all. */
export interface BarFromPart {
  readonly meter: WrittenBar['meter'] | undefined
  readonly flow: Partial<BarFlow>
  readonly barLine: WrittenBar['barLine']
  readonly breakBefore: WrittenBar['breakBefore']
}

type Mutable<T> = { -readonly [K in keyof T]: T[K] }
type OpenEntry = Mutable<Omit<Entry, 'content'>> & {
  content:
    | {
        kind: 'chord'
        notes: EntryNote[]
        graces: EntryNote[]
        articulations: NoteSigns['articulations'][number][]
        lyric: Extract<Entry['content'], { kind: 'chord' }>['lyric']
      }
    | Extract<Entry['content'], { kind: 'rest' }>
}

/** Reads the bars of one part, in order. */
export class PartReader {
  readonly entries: Entry[][] = []
  readonly bars: BarFromPart[] = []
  readonly tempos: (Place & { tempoBpm: number })[] = []
  readonly sections: (Place & { name: string })[] = []
  readonly chordSymbols: (Place & { text: string })[] = []
  swing: Swing | null = null
  private readonly clefs: Clef[] = []
  private readonly clefChanges: Mutable<WrittenPart['clefChanges'][number]>[] = []
  private readonly keys: WrittenPart['keys'][number][] = []
  private readonly levels: WrittenPart['levels'][number][] = []
  private readonly hairpins: WrittenPart['hairpins'][number][] = []
  private readonly octaveLines: WrittenPart['octaveLines'][number][] = []
  private readonly pedals: Span[] = []
  private readonly texts: WrittenPart['texts'][number][] = []
  private readonly slurs: WrittenPart['slurs'][number][] = []
  private readonly glissandi: WrittenPart['glissandi'][number][] = []
  private transposition: Transposition = transpositions['as it sounds']
  private divisions = 1
  private staves = 1
  private isUnpitched = false
  private bar = -1
  /** In the bar, in ticks, not rounded: divisions need not go into them. */
  private position = 0
  private readonly open = {
    wedges: new Map<string, { place: Place; kind: 'crescendo' | 'diminuendo' }>(),
    octaves: new Map<number, { place: Place; octaves: 1 | 2 | -1 | -2 }>(),
    pedal: null as Place | null,
    leading: new Map<string, { place: Place; voice: string }>(),
  }
  private graces: { voice: string; notes: EntryNote[] } = { voice: '', notes: [] }
  private last: OpenEntry | null = null

  constructor(
    private readonly listed: ListedPart,
    private readonly problems: ReadingProblems,
  ) {}

  /** What was read, as soon as all bars have been. */
  part(): WrittenPart {
    const { heading } = this.listed
    const end: Place = { bar: this.bar, offsetTicks: Number.MAX_SAFE_INTEGER }
    for (const { place, kind } of this.open.wedges.values())
      this.hairpins.push({ from: place, to: end, kind })
    for (const [staff, { place, octaves }] of this.open.octaves)
      this.octaveLines.push({ from: place, to: end, staff, octaves })
    if (this.open.pedal) this.pedals.push({ from: this.open.pedal, to: end })
    const isDrums = heading.instrument.kind === 'drums' || this.isUnpitched
    const clefs = Array.from(
      { length: this.staves },
      (_, index): Clef => (isDrums ? 'percussion' : (this.clefs[index] ?? (index === 0 ? 'treble' : 'bass'))),
    )
    return {
      heading: isDrums ? { ...heading, instrument: { kind: 'drums' } } : heading,
      transposition: this.transposition,
      clefs: isDrums ? ['percussion'] : clefs,
      clefChanges: isDrums ? [] : this.clefChanges.filter(({ staff }) => staff <= this.staves),
      keys: this.keys,
      entries: this.entries,
      levels: this.levels,
      hairpins: this.hairpins,
      octaveLines: isDrums ? [] : this.octaveLines,
      pedals: this.pedals,
      texts: this.texts,
      slurs: this.slurs,
      glissandi: this.glissandi,
    }
  }

  measure(element: XmlElement): void {
    this.bar++
    this.position = 0
    this.last = null
    this.graces = { voice: '', notes: [] }
    this.entries.push([])
    const bar: Mutable<BarFromPart> = { meter: undefined, flow: {}, barLine: null, breakBefore: null }
    /** The move that reaches furthest over nothing. */
    let silence: { readonly element: XmlElement; readonly from: number; readonly to: number } | null = null
    for (const each of element.children)
      switch (each.name) {
        case 'attributes':
          this.attributes(each, bar)
          break
        case 'note':
          this.note(each)
          break
        case 'backup':
          this.position = Math.max(0, this.position - this.duration(each))
          this.last = null
          break
        case 'forward': {
          const from = this.position
          this.position += this.duration(each)
          this.last = null
          if (this.position > (silence?.to ?? 0)) silence = { element: each, from, to: this.position }
          break
        }
        case 'direction':
          this.say(directionSays(each), each, bar)
          break
        case 'sound':
          this.say(soundSays(each), each, bar)
          break
        case 'harmony': {
          const text = chordOf(each)
          if (text !== null) this.chordSymbols.push({ ...this.place(each), text })
          break
        }
        case 'barline':
          this.barline(each, bar)
          break
        case 'print':
          if (each.attributes['new-page'] === 'yes') bar.breakBefore = 'page'
          else if (each.attributes['new-system'] === 'yes') bar.breakBefore = 'line'
          break
      }
    if (silence) this.silentEnd(silence)
    this.bars.push(bar)
  }

  /** A bar is as long as its voices are, also where one ends in silence that is not written as a rest. */
  private silentEnd({
    element,
    from,
    to,
  }: {
    readonly element: XmlElement
    readonly from: number
    readonly to: number
  }): void {
    const own = this.entries[this.bar]!.filter(
      ({ content }) => content.kind === 'chord' || !content.isWholeMeasure,
    )
    const reached = own.reduce((end, each) => Math.max(end, each.startTicks + each.durationTicks), 0)
    const last = own.at(-1)
    if (!last || to <= reached) return
    this.entries[this.bar]!.push({
      startTicks: Math.round(from),
      durationTicks: Math.round(to) - Math.round(from),
      voice: textOf(element, 'voice') ?? last.voice,
      staff: last.staff,
      value: null,
      tuplet: null,
      content: { kind: 'rest', isWholeMeasure: false, isHidden: true },
    })
  }

  private where(element: XmlElement): string {
    return `line ${element.line} (bar ${this.bar + 1} of ${this.listed.heading.name})`
  }

  private place(element: XmlElement): Place {
    const offset = Number(textOf(element, 'offset') ?? 0)
    const ticks = Number.isFinite(offset) ? (offset * TICKS_PER_QUARTER) / this.divisions : 0
    return { bar: this.bar, offsetTicks: Math.max(0, Math.round(this.position + ticks)) }
  }

  private duration(element: XmlElement): Ticks {
    const text = textOf(element, 'duration')
    const divisions = Number(text ?? Number.NaN)
    if (!Number.isFinite(divisions) || divisions < 0) {
      this.problems.add('durations that are no numbers', this.where(element))
      return 0
    }
    const ticks = (divisions * TICKS_PER_QUARTER) / this.divisions
    if (ticks > longestTicks) {
      this.problems.add('durations longer than any bar', this.where(element))
      return 0
    }
    return ticks
  }

  private attributes(element: XmlElement, bar: Mutable<BarFromPart>): void {
    const divisions = Number(textOf(element, 'divisions') ?? Number.NaN)
    if (Number.isFinite(divisions) && divisions > 0) this.divisions = divisions
    const key = child(element, 'key')
    const fifths = Number(textOf(key, 'fifths') ?? Number.NaN)
    if (key && Number.isInteger(fifths) && Math.abs(fifths) <= 7)
      this.keys.push({ bar: this.bar, fifths, mode: textOf(key, 'mode') === 'minor' ? 'minor' : 'major' })
    const time = child(element, 'time')
    if (time) {
      bar.meter = meterOf(time)
      if (bar.meter === null && !child(time, 'senza-misura'))
        this.problems.add('meters that are not known', this.where(time))
    }
    const staves = Number(textOf(element, 'staves') ?? Number.NaN)
    if (Number.isInteger(staves) && staves > 0) {
      if (staves > 2)
        this.problems.add(
          'parts on more than two staves, of which the third and on are put on the second',
          this.where(element),
        )
      this.staves = Math.max(this.staves, Math.min(2, staves))
    }
    for (const clef of childrenOf(element, 'clef')) {
      const staff = Number(clef.attributes.number ?? 1)
      if (staff > 2) continue
      const read = clefOf(clef)
      if (read === null) {
        this.problems.add('clefs that are not known, such as tablature', this.where(clef))
        continue
      }
      this.isUnpitched ||= read === 'percussion'
      if (this.bar === 0 && this.position === 0) this.clefs[staff - 1] = read
      else this.clefChanges.push({ bar: this.bar, offsetTicks: Math.round(this.position), staff, clef: read })
    }
    const transpose = child(element, 'transpose')
    if (transpose) this.transposition = transpositionOf(transpose)
  }

  private note(element: XmlElement): void {
    if (child(element, 'cue')) {
      this.problems.add('cues, which are not played and left out', this.where(element))
      if (!child(element, 'chord')) this.position += this.duration(element)
      this.last = null
      return
    }
    const voice = textOf(element, 'voice') ?? '1'
    const staff = Math.min(2, Math.max(1, Number(textOf(element, 'staff') ?? 1) || 1))
    const rest = child(element, 'rest')
    const isGrace = child(element, 'grace') !== undefined
    const isChord = child(element, 'chord') !== undefined
    const signs = noteSigns(element, this.isUnpitched || this.listed.heading.instrument.kind === 'drums')
    for (const name of signs.unknown)
      this.problems.add(`signs that are not known here (${name})`, this.where(element))
    const durationTicks = isGrace ? 0 : this.duration(element)
    const start = isChord && this.last ? this.last.startTicks : Math.round(this.position)
    this.leads(signs, voice, start)
    for (const notations of childrenOf(element, 'notations'))
      for (const dynamics of childrenOf(notations, 'dynamics'))
        for (const mark of levelsIn(dynamics)) this.levels.push({ bar: this.bar, offsetTicks: start, mark })
    const time = {
      startTicks: start,
      durationTicks,
      voice,
      staff,
      value: valueTold(element),
      tuplet: tupletOf(element, signs),
    }
    if (rest) {
      if (isGrace) return
      this.push({
        ...time,
        content: {
          kind: 'rest',
          isWholeMeasure:
            rest.attributes.measure === 'yes' || (!child(element, 'type') && this.entriesOf(voice) === 0),
          isHidden: element.attributes['print-object'] === 'no',
        },
      })
      return
    }
    this.isUnpitched ||= child(element, 'unpitched') !== undefined
    const note = readNote(element, signs, this.transposition.semitones, this.listed.keyOf)
    if (!note) {
      this.problems.add('notes without a pitch that can be played', this.where(element))
      if (!isGrace && !isChord) this.position += durationTicks
      return
    }
    const isFull = (notes: readonly unknown[]) => {
      if (notes.length < mostChordNotes) return false
      this.problems.add(`chords of more than ${mostChordNotes} notes, shortened`, this.where(element))
      return true
    }
    if (isGrace) {
      if (this.graces.voice !== voice) this.graces = { voice, notes: [] }
      if (!isFull(this.graces.notes)) this.graces.notes.push(note)
      return
    }
    if (isChord && this.last?.content.kind === 'chord' && this.last.voice === voice) {
      if (isFull(this.last.content.notes)) return
      this.last.content.notes.push(note)
      for (const sign of signs.articulations)
        if (!this.last.content.articulations.includes(sign)) this.last.content.articulations.push(sign)
      return
    }
    const graces = this.graces.voice === voice ? this.graces.notes : []
    this.graces = { voice: '', notes: [] }
    this.push({
      ...time,
      content: {
        kind: 'chord',
        notes: [note],
        graces,
        articulations: [...signs.articulations],
        lyric: this.firstVerse(element),
      },
    })
  }

  private entriesOf(voice: string): number {
    return this.entries[this.bar]!.filter((entry) => entry.voice === voice).length
  }

  private push(entry: OpenEntry): void {
    const end = this.position + (entry.durationTicks ?? 0)
    // Ends are rounded, not lengths: what follows begins where this ends.
    const durationTicks = Math.round(end) - entry.startTicks
    this.position = end
    if (durationTicks <= 0) {
      this.problems.add(
        'notes and rests without length, left out',
        `bar ${this.bar + 1} of ${this.listed.heading.name}`,
      )
      this.last = null
      return
    }
    entry.durationTicks = durationTicks
    this.entries[this.bar]!.push(entry as Entry)
    this.last = entry
  }

  private firstVerse(element: XmlElement): EntryChord['lyric'] {
    const verses = versesOf(element)
    if (verses.length > 1) this.problems.add('verses after the first', this.where(element))
    return verses[0] ?? null
  }

  private leads({ ends }: NoteSigns, voice: string, startTicks: Ticks): void {
    const place: Place = { bar: this.bar, offsetTicks: startTicks }
    for (const { of, number, type } of ends) {
      const address = `${of} ${number}`
      if (type === 'start') {
        this.open.leading.set(address, { place, voice })
        continue
      }
      const begun = this.open.leading.get(address)
      if (!begun) continue
      this.open.leading.delete(address)
      const lead = { from: begun.place, to: place, voice: begun.voice, endVoice: voice }
      if (of === 'slur') this.slurs.push(lead)
      else this.glissandi.push(lead)
    }
  }

  private say(said: readonly Said[], element: XmlElement, bar: Mutable<BarFromPart>): void {
    const place = this.place(element)
    const staff = Math.min(2, Math.max(1, Number(textOf(element, 'staff') ?? 1) || 1))
    for (const each of said)
      switch (each.is) {
        case 'level':
          this.levels.push({ ...place, mark: each.mark })
          break
        case 'wedge': {
          const address = `${staff} ${each.number}`
          const begun = this.open.wedges.get(address) ?? (each.type === 'stop' ? this.anyWedge() : undefined)
          if (begun) {
            this.hairpins.push({ from: begun.place, to: place, kind: begun.kind })
            for (const [name, value] of this.open.wedges) if (value === begun) this.open.wedges.delete(name)
          }
          if (each.type !== 'stop') this.open.wedges.set(address, { place, kind: each.type })
          break
        }
        case 'words':
          this.texts.push({ ...place, text: each.text })
          break
        case 'rehearsal':
          this.sections.push({ ...place, name: each.text })
          break
        case 'pedal':
          if (this.open.pedal && each.type !== 'start') this.pedals.push({ from: this.open.pedal, to: place })
          this.open.pedal = each.type === 'stop' ? null : place
          break
        case 'octave': {
          const begun = this.open.octaves.get(staff)
          if (begun) this.octaveLines.push({ from: begun.place, to: place, staff, octaves: begun.octaves })
          if (each.octaves === 0) this.open.octaves.delete(staff)
          else this.open.octaves.set(staff, { place, octaves: each.octaves })
          break
        }
        case 'tempo':
          this.tempos.push({ ...place, tempoBpm: each.tempoBpm })
          break
        case 'swing':
          this.swing ??= each.swing
          break
        case 'flow':
          bar.flow = { ...bar.flow, ...each.flow }
          break
      }
  }

  /** A stop may say another number, or staff, than its beginning, where only one is open. */
  private anyWedge() {
    return this.open.wedges.size === 1 ? [...this.open.wedges.values()][0] : undefined
  }

  private barline(element: XmlElement, bar: Mutable<BarFromPart>): void {
    const isLeft = element.attributes.location === 'left'
    const style = textOf(element, 'bar-style')
    const repeat = child(element, 'repeat')
    const ending = child(element, 'ending')
    const flow: Partial<Mutable<BarFlow>> = {}
    if (repeat?.attributes.direction === 'forward') flow.repeatStarts = true
    if (repeat?.attributes.direction === 'backward')
      flow.repeatTimes = Math.min(mostTimes, Math.max(2, Number(repeat.attributes.times ?? 2) || 2))
    if (ending?.attributes.type === 'start')
      flow.endingStarts = (ending.attributes.number ?? '1')
        .split(/[ ,]+/)
        .map(Number)
        .filter((number) => Number.isInteger(number) && number > 0)
    else if (ending) flow.endingStops = true
    if (child(element, 'segno')) flow.segno = true
    if (child(element, 'coda')) flow.coda = true
    bar.flow = { ...bar.flow, ...flow }
    if (isLeft || repeat || ending) return
    const known = {
      'light-light': 'double',
      'light-heavy': 'final',
      dashed: 'dashed',
      dotted: 'dotted',
    } as const
    bar.barLine = known[style as keyof typeof known] ?? bar.barLine
  }
}

/** No bar is longer: 64 whole notes. */
const longestTicks: Ticks = TICKS_PER_QUARTER * 4 * 64
/** A passage is played so many times at most. */
const mostTimes = 32
