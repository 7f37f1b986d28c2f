import type { AbcStaff } from 'abcjs/src/parse/abc_parse.js'
import type { WrittenBarLine } from '../../notation/score'
import type { KeySignature } from '../../notation/scoreSettings'
import type {
  BarFlow,
  Entry,
  EntryNote,
  Place,
  WrittenMusic,
  WrittenPart,
} from '../../notation/writtenMusic/writtenMusic'
import type { Meter } from '../../time/meterMap'

type Mutable<Of> = { -readonly [Key in keyof Of]: Of[Key] }

/** What a voice says of a bar for all. */
export interface AbcBarSays {
  meter: Meter | null
  flow: Mutable<BarFlow>
  barLine: WrittenBarLine['style'] | null
}

/** What the voices of a tune say for all parts. */
export interface AbcPieceSays {
  readonly bars: AbcBarSays[]
  readonly tempos: WrittenMusic['tempos'][number][]
  readonly sections: WrittenMusic['sections'][number][]
  readonly chordSymbols: WrittenMusic['chordSymbols'][number][]
}

/** What a voice tells its part. */
export interface PartOfVoice {
  push(bar: number, entry: Entry): void
  clef(clef: NonNullable<AbcStaff['clef']>, staff: number, place: Place): void
  keyChange(bar: number, key: KeySignature): void
  level(each: WrittenPart['levels'][number]): void
  hairpin(each: WrittenPart['hairpins'][number]): void
  slur(each: WrittenPart['slurs'][number]): void
  text(each: WrittenPart['texts'][number]): void
  plays(program: number): void
  /** A pitch as it sounds and is written; null: there is no such key. */
  noteOf(written: EntryNote['pitch'], fields: Omit<EntryNote, 'key' | 'pitch'>): EntryNote | null
}
