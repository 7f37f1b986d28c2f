import type { Note } from '../event/note'
import type { Instrument } from '../midi/instrument'
import type { MeterChange } from '../time/meterMap'
import type { TempoChange } from '../time/tempoMap'
import type { Ticks } from '../time/units'
import type { Amendment, BarAmendment } from './amendments/amendment'
import type { SungText } from './lyrics'
import type { Manuscript } from './manuscript/manuscript'
import type { PlayedControls } from './playedControls'
import type { WrittenText } from './score'
import type { KeyChange, ScoreSettings } from './scoreSettings'
import type { Transposition } from './transposition'

/** A performed part that is to be written. */
export interface PartSource {
  readonly id: string
  /** As they sound, in order of onset. The same array means the same notes. */
  readonly notes: readonly Note[]
  readonly instrument: Instrument
  readonly controls: PlayedControls
  /** How its notes are written, where that was told by the file they come from; null: it is read from how they are played. */
  readonly manuscript: Manuscript | null
  /** A key, null for a single staff, "auto" to decide by the notes. */
  readonly staffSplitKey: number | null | 'auto'
  readonly transposition: Transposition
  /** What is sung to it, and what is written above it. */
  readonly sung: readonly SungText[]
  readonly texts: readonly WrittenText[]
  /** What of its page was changed by hand. */
  readonly amendments: readonly Amendment[]
}

/** What notation needs to know of a piece. */
export interface ScoreSource {
  readonly tempos: readonly TempoChange[]
  readonly meters: readonly MeterChange[]
  /** Named parts of the piece, in order. */
  readonly sections: readonly { readonly tick: Ticks; readonly name: string }[]
  /** Texts of the whole piece, above the first staff. */
  readonly texts: readonly WrittenText[]
  /** Symbols of chords above the first staff, in order. */
  readonly chordSymbols: readonly WrittenText[]
  /** In order, each from the bar it lies in; none: found from the notes. */
  readonly keys: readonly KeyChange[]
  readonly settings: ScoreSettings
  /** Changes by hand of bars of all parts. */
  readonly amendments: readonly BarAmendment[]
  /** Changes by hand whose notes or parts are not on the page. */
  readonly homeless: readonly Amendment[]
  readonly parts: readonly PartSource[]
}
