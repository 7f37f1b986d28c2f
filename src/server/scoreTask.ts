import type { ScoreLimits, ScoreReport, ScoreRequest } from '@/core/formats/scoreFromMidi'

/** What a thread of the server is asked for. */
export interface ScoreTask {
  /** A Standard MIDI File. */
  readonly bytes: Uint8Array
  readonly request: ScoreRequest
  /** As an .mxl archive. */
  readonly isCompressed: boolean
  readonly limits: ScoreLimits
}

export type ScoreAnswer =
  | { readonly isGood: true; readonly body: Uint8Array; readonly report: ScoreReport }
  /** What is wrong with the file, in a sentence. */
  | { readonly isGood: false; readonly problem: string }
