import type { GatheredRests } from '../notation/gatheredRests'
import type { PageSetup } from '../pages/pageSetup'

/** Versions of the standard that a file can be of; the older one is read by most programs. */
export const musicXmlVersions = ['3.0', '4.0'] as const
export type MusicXmlVersion = (typeof musicXmlVersions)[number]

export interface MusicXmlOptions {
  /** 3.0 when absent; 4.0 has signs of its own, such as that of swing. */
  readonly version?: MusicXmlVersion
  /** How it is laid out on paper; it does not say when absent. */
  readonly page?: PageSetup
  /** The day it is written, as `YYYY-MM-DD`, to stand in the file. */
  readonly writtenOn?: string
  /** Measures to write, by index; the whole piece when absent. Clefs, key and meter are given at the start of it. */
  readonly measures?: { readonly from: number; readonly to: number }
  /**
   * Names notes "n12" after the performed note, so that a drawn page can be linked to the performance. The attribute
   * is newer than MusicXML 3.0, so files for others are written without.
   */
  readonly withNoteIds?: boolean
  /** Rests of several bars that are one sign. */
  readonly gathered?: GatheredRests
  /** Indices of the parts that are written; all when absent. */
  readonly parts?: readonly number[]
  /** The music is not at its end: its last bar has a plain line. */
  readonly goesOn?: boolean
}
