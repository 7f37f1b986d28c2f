import type { AbcBar, AbcElement, AbcNote, AbcPitch } from 'abcjs/src/parse/abc_parse.js'
import { signatureAlter } from '../../notation/accidentals'
import type { Articulation } from '../../notation/score'
import {
  type Entry,
  type EntryNote,
  mostChordNotes,
  mostWrittenBars,
  type Place,
  plainFlow,
} from '../../notation/writtenMusic/writtenMusic'
import { TICKS_PER_QUARTER, type Ticks } from '../../time/units'
import type { ReadingProblems } from '../readingProblems'
import { AbcError } from './abcError'
import type { AbcBarSays, AbcPieceSays, PartOfVoice } from './abcSays'
import {
  alterOf,
  keyOfAbc,
  letterOf,
  levelOf,
  meterOfAbc,
  plainSymbol,
  signOf,
  tempoOf,
  timesOf,
} from './abcValues'

const whole: Ticks = TICKS_PER_QUARTER * 4
/** No bar is longer: 64 whole notes. */
const longestTicks: Ticks = whole * 64

/** One voice of a staff, read element by element. */
export class AbcVoice {
  bar = 0
  private position = 0
  private fifths = 0
  /** Signs of the bar, by letter and octave (abc 2.1, "Accidentals"). */
  private readonly signs = new Map<string, number>()
  /** What the last chord is tied to the next, by letter and octave, as it was sharpened or flattened. */
  private tied: ReadonlyMap<string, number> = new Map()
  private tuplet: { readonly actual: number; readonly factor: number; isFirst: boolean } | null = null
  private readonly openSlurs = new Map<number, Place>()
  private openHairpin: { readonly from: Place; readonly kind: 'crescendo' | 'diminuendo' } | null = null
  private isInEnding = false
  private readonly codas: Place[] = []

  constructor(
    private readonly part: PartOfVoice,
    private readonly says: AbcPieceSays,
    private readonly problems: ReadingProblems,
    private readonly address: string,
    readonly staff: number,
    /** Tempi, sections and chord symbols are those of the first voice. */
    private readonly isFirst: boolean,
  ) {}

  skipTo(bar: number): void {
    this.bar = Math.max(this.bar, bar)
    this.position = 0
  }

  meter(meter: Parameters<typeof meterOfAbc>[0]): void {
    this.barSays().meter = meterOfAbc(meter)
  }

  key(key: Parameters<typeof keyOfAbc>[0]): void {
    const read = keyOfAbc(key)
    if (!read.isUsual)
      this.problems.add('keys with signs of their own, which are written before the notes', this.where)
    this.fifths = read.key.fifths
    this.part.keyChange(this.bar, read.key)
  }

  element(element: AbcElement): void {
    switch (element.el_type) {
      case 'note':
        this.note(element)
        break
      case 'bar':
        this.barLine(element)
        break
      case 'key':
        this.key(element)
        break
      case 'meter':
        this.meter(element)
        break
      case 'clef':
        this.part.clef(element, this.staff, this.place)
        break
      case 'tempo': {
        const tempoBpm = tempoOf(element)
        if (this.isFirst && tempoBpm !== null) this.says.tempos.push({ ...this.place, tempoBpm })
        break
      }
      case 'part':
        if (this.isFirst) this.says.sections.push({ ...this.place, name: element.title })
        break
      case 'midi':
        if (element.cmd === 'program') this.part.plays(Number(element.params.at(-1)) || 0)
        break
      default:
        // How it is drawn.
        break
    }
  }

  private get place(): Place {
    return { bar: this.bar, offsetTicks: Math.round(this.position) }
  }

  private get where(): string {
    return `bar ${this.bar + 1}`
  }

  private barSays(): AbcBarSays {
    const { bars } = this.says
    if (this.bar >= mostWrittenBars)
      throw new AbcError(
        `The tune has more than ${mostWrittenBars.toLocaleString('en')} bars; up to so many are read`,
      )
    while (bars.length <= this.bar)
      bars.push({ meter: bars.at(-1)?.meter ?? null, flow: { ...plainFlow }, barLine: null })
    return bars[this.bar]!
  }

  private barLine({ type, startEnding, endEnding, decoration = [], chord }: AbcBar): void {
    const isAtEnd = this.position > 0
    const closes = this.barSays()
    for (const each of decoration) this.decorate(each, this.place)
    if (isAtEnd) {
      if (type.includes('right_repeat') || type === 'bar_dbl_repeat') closes.flow.repeatTimes = 2
      const isFinal = type === 'bar_thin_thick' || type === 'bar_right_repeat'
      if (this.isInEnding && (endEnding || isFinal || startEnding !== undefined)) {
        closes.flow.endingStops = true
        this.isInEnding = false
      }
      if (type === 'bar_thin_thin') closes.barLine = 'double'
      else if (type === 'bar_thin_thick') closes.barLine = 'final'
      for (const { name, position } of chord ?? [])
        if (position !== 'default') this.part.text({ ...this.place, text: name })
      this.next()
    }
    const opens = this.barSays()
    if (type.includes('left_repeat') || type === 'bar_dbl_repeat') opens.flow.repeatStarts = true
    if (startEnding !== undefined) {
      opens.flow.endingStarts = timesOf(startEnding)
      this.isInEnding = true
    }
  }

  private next(): void {
    this.bar++
    this.position = 0
    this.signs.clear()
    this.barSays()
  }

  private note(note: AbcNote): void {
    const { rest } = note
    if (rest?.type === 'spacer') return
    this.barSays()
    if (rest?.type === 'multimeasure') {
      this.restOfBars(Math.min(mostWrittenBars, Math.max(1, Math.round(Number(rest.text) || 1))))
      return
    }
    // The parser fills a voice that is not on a line with one silence, however many bars that is.
    const bars = rest?.type === 'invisible' ? (note.duration * whole) / this.barTicks : 0
    if (bars > 1 && bars <= mostWrittenBars && Number.isInteger(bars) && this.position === 0) {
      this.restOfBars(bars)
      return
    }
    if (note.startTriplet)
      this.tuplet = { actual: note.startTriplet, factor: note.tripletMultiplier ?? 1, isFirst: true }
    const { tuplet } = this
    const durationTicks = note.duration * whole * (tuplet?.factor ?? 1)
    if (!(durationTicks <= longestTicks)) {
      this.problems.add('notes longer than any bar', this.where)
      return
    }
    const start = Math.round(this.position)
    const end = Math.round(this.position + durationTicks)
    const place: Place = this.place
    for (const each of note.decoration ?? []) this.decorate(each, place)
    if (this.isFirst) this.above(note, place)
    const time = {
      startTicks: start,
      durationTicks: end - start,
      voice: this.address,
      staff: this.staff,
      value: null,
      tuplet: tuplet && {
        actual: tuplet.actual,
        normal: Math.round(tuplet.actual * tuplet.factor),
        edge: { starts: tuplet.isFirst, stops: note.endTriplet === true },
      },
    }
    if (rest || !note.pitches) {
      const isWhole = rest?.type === 'whole'
      this.part.push(this.bar, {
        ...time,
        content: { kind: 'rest', isWholeMeasure: isWhole, isHidden: rest?.type === 'invisible' },
      })
    } else this.chord(note, note.pitches, time)
    if (tuplet) tuplet.isFirst = false
    if (note.endTriplet) this.tuplet = null
    this.position += durationTicks
  }

  private chord(note: AbcNote, pitches: readonly AbcPitch[], time: Omit<Entry, 'content'>): void {
    const decorations = note.decoration ?? []
    const fingers = decorations.filter((each) => /^[0-5]$/.test(each))
    // Small notes come first, and their signs hold for what follows.
    const graces = (note.gracenotes ?? []).flatMap((grace) => this.pitched(grace, null, true))
    if (pitches.length > mostChordNotes)
      this.problems.add(`chords of more than ${mostChordNotes} notes, shortened`, this.where)
    const notes = pitches
      .slice(0, mostChordNotes)
      .flatMap((pitch, index) => this.pitched(pitch, fingers[index] ?? null))
    if (notes.length === 0) {
      this.part.push(this.bar, { ...time, content: { kind: 'rest', isWholeMeasure: false, isHidden: false } })
      return
    }
    this.tied = new Map(
      notes.flatMap(({ pitch: { step, octave, alter }, tiesToNext }) =>
        tiesToNext ? [[`${step}${octave}`, alter] as const] : [],
      ),
    )
    const place = { bar: this.bar, offsetTicks: time.startTicks }
    for (const each of [note, ...pitches]) {
      for (const label of each.endSlur ?? []) this.endSlur(label, place)
      for (const { label } of each.startSlur ?? []) this.openSlurs.set(label, place)
    }
    const [syllable] = note.lyric ?? []
    this.part.push(this.bar, {
      ...time,
      content: {
        kind: 'chord',
        notes,
        graces,
        articulations: decorations.flatMap((each): Articulation[] => {
          const sign = signOf(each)
          return sign ? [sign] : []
        }),
        lyric: syllable?.syllable ? this.lyricOf(syllable) : null,
      },
    })
  }

  private isWithinWord = false
  private lyricOf({ syllable, divider }: NonNullable<AbcNote['lyric']>[number]) {
    const goesOn = divider === '-'
    const syllabic = this.isWithinWord ? (goesOn ? 'middle' : 'end') : goesOn ? 'begin' : 'single'
    this.isWithinWord = goesOn
    return { text: syllable, syllabic } as const
  }

  private pitched(pitch: AbcPitch, fingering: string | null, isSmall = false): EntryNote[] {
    const letter = letterOf(pitch)
    const line = `${letter.step}${letter.octave}`
    const told = alterOf(pitch)
    if (pitch.accidental && told === null)
      this.problems.add(`signs before notes that are not known here (${pitch.accidental})`, this.where)
    if (told !== null) this.signs.set(line, told)
    const tied = this.tied.get(line)
    const alter = told ?? tied ?? this.signs.get(line) ?? signatureAlter(letter.step, this.fifths)
    const note = this.part.noteOf(
      { ...letter, alter },
      {
        tiesFromPrevious: tied === alter && !isSmall,
        tiesToNext: pitch.startTie !== undefined,
        velocity: null,
        fingering,
      },
    )
    if (!note) this.problems.add('notes beyond all keys', this.where)
    return note ? [note] : []
  }

  private endSlur(label: number, to: Place): void {
    const from = this.openSlurs.get(label)
    this.openSlurs.delete(label)
    if (from) this.part.slur({ from, to, voice: this.address, endVoice: this.address })
  }

  /** What stands above the first voice: symbols of chords, and words. */
  private above({ chord = [] }: AbcNote, place: Place): void {
    for (const { name, position } of chord)
      if (position === 'default') this.says.chordSymbols.push({ ...place, text: plainSymbol(name) })
      else this.part.text({ ...place, text: name })
  }

  private decorate(decoration: string, place: Place): void {
    const level = levelOf(decoration)
    if (level) {
      this.part.level({ ...place, mark: level })
      return
    }
    const { flow } = this.barSays()
    switch (decoration) {
      case 'crescendo(':
      case '<(':
        this.openHairpin = { from: place, kind: 'crescendo' }
        break
      case 'diminuendo(':
      case '>(':
        this.openHairpin = { from: place, kind: 'diminuendo' }
        break
      case 'crescendo)':
      case 'diminuendo)':
      case '<)':
      case '>)':
        if (this.openHairpin) this.part.hairpin({ ...this.openHairpin, to: place })
        this.openHairpin = null
        break
      case 'segno':
        flow.segno = true
        break
      case 'coda':
        flow.coda = true
        this.codas.push(place)
        break
      case 'fine':
        flow.fine = true
        break
      case 'D.C.alcoda':
      case 'D.S.alcoda':
        this.leaveAtCodas()
        flow.jump = decoration.startsWith('D.C.') ? 'da capo' : 'dal segno'
        break
      case 'D.C.':
      case 'D.C.alfine':
        flow.jump = 'da capo'
        break
      case 'D.S.':
      case 'D.S.alfine':
        flow.jump = 'dal segno'
        break
      default:
        if (!signOf(decoration) && !/^[0-5]$/.test(decoration))
          this.problems.add(`signs that are not known here (${decoration})`, this.where)
    }
  }

  /** One sign says both where the coda is and where one leaves for it: before the jump it is that. */
  private leaveAtCodas(): void {
    for (const { bar, offsetTicks } of this.codas) {
      this.says.bars[bar]!.flow.coda = false
      const last = this.says.bars[offsetTicks === 0 ? bar - 1 : bar]
      if (last) last.flow.toCoda = true
    }
    this.codas.length = 0
  }

  private get barTicks(): Ticks {
    const { numerator, denominator } = this.barSays().meter ?? { numerator: 4, denominator: 4 }
    return (whole * numerator) / denominator
  }

  private restOfBars(count: number): void {
    for (let index = 0; index < count; index++) {
      if (index > 0) this.next()
      const durationTicks = this.barTicks
      this.part.push(this.bar, {
        startTicks: 0,
        durationTicks,
        voice: this.address,
        staff: this.staff,
        value: null,
        tuplet: null,
        content: { kind: 'rest', isWholeMeasure: true, isHidden: false },
      })
      this.position = durationTicks
    }
  }
}
