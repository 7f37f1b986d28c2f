/** Where a command writes: its answer to standard output, words for people to standard error. */
export interface Terminal {
  answer(text: string): void
  say(text: string): void
}
