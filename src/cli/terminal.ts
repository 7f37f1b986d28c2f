/** One command done for one file of many. */
export interface DoneOne {
  readonly status: number
  readonly answer: string
  readonly said: string
}

/** Where a command writes: its answer to standard output, words for people to standard error. */
export interface Terminal {
  /** Does one command of several in a process of its own; absent where there is none: then one after the other, here. */
  readonly doElsewhere?: (args: readonly string[]) => Promise<DoneOne>
  answer(text: string): void
  say(text: string): void
}
