import { FileProblem } from '../../border/fileProblem'

/** A tune that cannot be read; the message says why. */
export class AbcError extends FileProblem {
  override readonly name = 'AbcError'
}
