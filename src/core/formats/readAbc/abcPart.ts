import type { AbcStaff } from 'abcjs/src/parse/abc_parse.js'
import type { PartHeading } from '../../notation/headings'
import { percussionKeyAt } from '../../notation/percussion'
import { keyOf } from '../../notation/pitchSteps'
import type { Clef } from '../../notation/score'
import type { KeySignature } from '../../notation/scoreSettings'
import type { Transposition } from '../../notation/transposition'
import type { Entry, EntryNote, Place, WrittenPart } from '../../notation/writtenMusic/writtenMusic'
import { boundedName } from '../../text/bounded'
import type { ReadingProblems } from '../readingProblems'
import type { AbcPieceSays, PartOfVoice } from './abcSays'
import { clefOf } from './abcValues'
import { AbcVoice } from './abcVoice'

/** One part of a tune: its staves are read line by line, voice by voice. */
export class AbcPart implements PartOfVoice {
  readonly entries: Entry[][] = []
  private readonly clefs: Clef[] = []
  private readonly clefChanges: WrittenPart['clefChanges'][number][] = []
  private readonly keys: WrittenPart['keys'][number][] = []
  private readonly levels: WrittenPart['levels'][number][] = []
  private readonly hairpins: WrittenPart['hairpins'][number][] = []
  private readonly texts: WrittenPart['texts'][number][] = []
  private readonly slurs: WrittenPart['slurs'][number][] = []
  private readonly voices = new Map<string, AbcVoice>()
  private name = ''
  private program: number | null = null
  private transposeSemitones = 0
  /** The bar with which the line begins that is being read. */
  private startOfLine = 0

  constructor(
    private readonly says: AbcPieceSays,
    private readonly problems: ReadingProblems,
  ) {}

  get isDrums(): boolean {
    return this.clefs[0] === 'percussion'
  }

  /** A staff of one line of music. */
  line(staff: AbcStaff, number: number, isFirstPart: boolean): void {
    this.name ||= boundedName(staff.title?.find((each) => each) ?? '')
    if (staff.clef) this.clef(staff.clef, number, null)
    const lineStart = this.longest()
    for (const [index, elements] of staff.voices.entries()) {
      const address = `${number} ${index + 1}`
      const known = this.voices.get(address)
      const voice =
        known ?? new AbcVoice(this, this.says, this.problems, address, number, isFirstPart && index === 0)
      this.voices.set(address, voice)
      // A voice that begins later is silent until then.
      if (!known) voice.skipTo(number === 1 ? lineStart : this.startOfLine)
      if (number === 1) this.startOfLine = lineStart
      if (staff.meter) voice.meter(staff.meter)
      if (staff.key) voice.key(staff.key)
      for (const element of elements) voice.element(element)
    }
    // One that is not on this line is silent in it.
    for (const [address, voice] of this.voices)
      if (address.startsWith(`${number} `) && Number(address.slice(2)) > staff.voices.length)
        voice.skipTo(this.longest())
  }

  private longest(): number {
    return Math.max(0, ...[...this.voices.values()].map(({ bar }) => bar))
  }

  clef(clef: NonNullable<AbcStaff['clef']>, staff: number, place: Place | null): void {
    // All of a part is written alike.
    if (clef.transpose && this.entries.length === 0 && Math.abs(clef.transpose) <= 48)
      this.transposeSemitones = clef.transpose
    const read = clefOf(clef)
    if (read === null) {
      this.problems.add(`clefs that are not known here (${clef.type})`, this.name || 'a staff')
      return
    }
    const current =
      this.clefChanges.findLast((change) => change.staff === staff)?.clef ?? this.clefs[staff - 1]
    if (current === undefined) this.clefs[staff - 1] = read
    else if (place && read !== current) this.clefChanges.push({ ...place, staff, clef: read })
  }

  keyChange(bar: number, key: KeySignature): void {
    const before = this.keys.at(-1)
    if (before?.fifths === key.fifths && before.mode === key.mode) return
    this.keys.push({ bar, ...key })
  }

  level(each: WrittenPart['levels'][number]): void {
    this.levels.push(each)
  }

  hairpin(each: WrittenPart['hairpins'][number]): void {
    this.hairpins.push(each)
  }

  slur(each: WrittenPart['slurs'][number]): void {
    this.slurs.push(each)
  }

  text(each: WrittenPart['texts'][number]): void {
    this.texts.push(each)
  }

  plays(program: number): void {
    this.program ??= program
  }

  push(bar: number, entry: Entry): void {
    while (this.entries.length <= bar) this.entries.push([])
    this.entries[bar]!.push(entry)
  }

  private get transposition(): Transposition {
    const semitones = -this.transposeSemitones
    return { semitones, steps: Math.round((semitones * 7) / 12) }
  }

  /** A pitch as it sounds and is written. */
  noteOf(written: EntryNote['pitch'], fields: Omit<EntryNote, 'key' | 'pitch'>): EntryNote | null {
    const key = this.isDrums
      ? percussionKeyAt(written.step, written.octave, 'normal')
      : keyOf(written) + this.transposeSemitones
    return key >= 0 && key <= 127 ? { key, pitch: written, ...fields } : null
  }

  part(index: number, fallbackProgram: number | null): WrittenPart {
    const program = this.program ?? fallbackProgram ?? 0
    const heading: PartHeading = {
      name: this.name || `Part ${index + 1}`,
      shortName: '',
      instrument: this.isDrums
        ? { kind: 'drums' }
        : { kind: 'program', program: Math.min(127, Math.max(0, program)) },
      bracket: 'usual',
      keyNames: [],
      channel: this.isDrums ? 10 : (index % 15) + 1 + (index % 15 >= 9 ? 1 : 0),
      volume: 0.8,
      pan: 0,
    }
    return {
      heading,
      transposition: this.transposition,
      clefs: this.isDrums ? ['percussion'] : Array.from(this.clefs, (clef) => clef ?? 'treble'),
      clefChanges: this.isDrums ? [] : this.clefChanges,
      keys: this.keys.length > 0 ? this.keys : [{ bar: 0, fifths: 0, mode: 'major' }],
      entries: this.entries,
      levels: this.levels,
      hairpins: this.hairpins,
      octaveLines: [],
      pedals: [],
      texts: this.texts,
      slurs: this.slurs,
      glissandi: [],
    }
  }
}
