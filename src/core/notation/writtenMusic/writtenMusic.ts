import type { MeterChange } from '../../time/meterMap'
import type { Ticks } from '../../time/units'
import type { WrittenLevel } from '../amendments/amendment'
import type { PartHeading, ScoreHeadings } from '../headings'
import type { Lyric } from '../lyrics'
import type {
  Articulation,
  Clef,
  NoteValue,
  OctaveLine,
  SpelledPitch,
  WrittenBarLine,
  WrittenBreak,
} from '../score'
import type { KeySignature } from '../scoreSettings'
import type { Swing } from '../swing'
import type { Transposition } from '../transposition'

/** Files may say more; one beat of a part has no more notes than there are keys, and readers leave out the rest. */
export const mostChordNotes = 128
/** No piece is longer. */
export const mostWrittenBars = 20_000

/**
 * Music as a file of notation has it, whatever its format: bars in the order in which they are written, each with what its parts have
 * there. Places are counted from bar lines, since how long a bar is shows only when all parts have been read.
 */
export interface WrittenMusic {
  readonly headings: Omit<ScoreHeadings, 'parts'>
  readonly bars: readonly WrittenBar[]
  readonly parts: readonly WrittenPart[]
  readonly tempos: readonly (Place & { readonly tempoBpm: number })[]
  readonly sections: readonly (Place & { readonly name: string })[]
  readonly chordSymbols: readonly (Place & { readonly text: string })[]
  readonly swing: Swing | null
}

export interface Place {
  /** Index of the bar as it is written. */
  readonly bar: number
  readonly offsetTicks: Ticks
}

type Meter = Pick<MeterChange, 'numerator' | 'denominator'>

/** What holds for all parts in a bar. */
export interface WrittenBar {
  /** In force there; null: none is written, and the bar is as long as what it holds. */
  readonly meter: Meter | null
  readonly flow: BarFlow
  readonly barLine: WrittenBarLine['style'] | null
  readonly breakBefore: WrittenBreak['of'] | null
}

/** What a bar says of the order in which bars are played. */
export interface BarFlow {
  readonly repeatStarts: boolean
  /** How often the passage that ends here is played in all; 0: nothing ends here. */
  readonly repeatTimes: number
  /** Times for which the ending is that begins here; null: none begins. */
  readonly endingStarts: readonly number[] | null
  readonly endingStops: boolean
  readonly segno: boolean
  readonly coda: boolean
  /** Where the music is over when it comes here again. */
  readonly fine: boolean
  /** Where it goes on at the coda when it comes here again. */
  readonly toCoda: boolean
  readonly jump: 'da capo' | 'dal segno' | null
}

export const plainFlow: BarFlow = {
  repeatStarts: false,
  repeatTimes: 0,
  endingStarts: null,
  endingStops: false,
  segno: false,
  coda: false,
  fine: false,
  toCoda: false,
  jump: null,
}

export interface WrittenPart {
  readonly heading: PartHeading
  /** As the file has it, whether it has a name here or not. */
  readonly transposition: Transposition
  /** Of each staff, at the beginning. */
  readonly clefs: readonly Clef[]
  readonly clefChanges: readonly (Place & { readonly staff: number; readonly clef: Clef })[]
  /** As they are written, each from its bar on. */
  readonly keys: readonly (KeySignature & { readonly bar: number })[]
  /** By bar, in any order. */
  readonly entries: readonly (readonly Entry[])[]
  readonly levels: readonly (Place & { readonly mark: WrittenLevel })[]
  readonly hairpins: readonly (Span & { readonly kind: 'crescendo' | 'diminuendo' })[]
  readonly octaveLines: readonly (Span & Pick<OctaveLine, 'staff' | 'octaves'>)[]
  readonly pedals: readonly Span[]
  readonly texts: readonly (Place & { readonly text: string })[]
  readonly slurs: readonly (Span & { readonly voice: string; readonly endVoice: string })[]
  readonly glissandi: readonly (Span & { readonly voice: string; readonly endVoice: string })[]
}

export interface Span {
  readonly from: Place
  readonly to: Place
}

/** A chord or a rest of one voice. */
export interface Entry {
  readonly startTicks: Ticks
  readonly durationTicks: Ticks
  /** As the file calls it. */
  readonly voice: string
  readonly staff: number
  /** null: the file says none, or one that is not known here. */
  readonly value: NoteValue | null
  readonly tuplet: EntryTuplet | null
  readonly content: EntryChord | EntryRest
}

export interface EntryTuplet {
  readonly actual: number
  readonly normal: number
  /** null: the file does not tell where groups begin and end. */
  readonly edge: { readonly starts: boolean; readonly stops: boolean } | null
}

export interface EntryChord {
  readonly kind: 'chord'
  readonly notes: readonly EntryNote[]
  readonly graces: readonly EntryNote[]
  readonly articulations: readonly Articulation[]
  readonly lyric: Omit<Lyric, 'isHeld'> | null
}

export interface EntryRest {
  readonly kind: 'rest'
  readonly isWholeMeasure: boolean
  readonly isHidden: boolean
}

export interface EntryNote {
  /** As it sounds; of percussion the key of its instrument. */
  readonly key: number
  /** As it is written. */
  readonly pitch: SpelledPitch
  readonly tiesFromPrevious: boolean
  readonly tiesToNext: boolean
  /** 1–127; null where the file does not say. */
  readonly velocity: number | null
  readonly fingering: string | null
}
