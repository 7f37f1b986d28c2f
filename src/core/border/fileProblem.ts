/** A file of the user's that cannot be used: the message says what is wrong, and where. All such errors are of this kind. */
export class FileProblem extends Error {
  override name = 'FileProblem'
}
