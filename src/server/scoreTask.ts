import type { OpeningLimits } from '@/core/formats/openFile'
import type { ScoreReport, ScoreRequest } from '@/core/formats/scoreFromFile'
import type { WrittenForm } from '@/core/formats/writtenForms'
import type { RenderedForm } from '@/rendering/formNames'

/** What a thread of the server is asked for. */
export interface ScoreTask {
  /** A file of any kind that can be opened. */
  readonly bytes: Uint8Array
  readonly request: ScoreRequest
  readonly form: WrittenForm | RenderedForm
  readonly limits: OpeningLimits
}

export type ScoreAnswer =
  | {
      readonly isGood: true
      readonly body: Uint8Array
      readonly mediaType: string
      readonly report: ScoreReport
    }
  /** What is wrong with the file, in a sentence. */
  | { readonly isGood: false; readonly problem: string }
