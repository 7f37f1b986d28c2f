/** What a command came to. */
export interface Done {
  readonly status: number
  /** On standard output. */
  readonly answer: string
  /** On standard error. */
  readonly said: string
}

/** Where a command writes: its answer to standard output, words for people to standard error. */
export interface Terminal {
  answer(text: string): void
  say(text: string): void
  /** Does one command of several in a process of its own; absent where there is none: then one after the other, here. */
  readonly doElsewhere?: (args: readonly string[]) => Promise<Done>
}

/** Does something with a terminal that nobody reads until it is done. */
export async function collected(work: (terminal: Terminal) => Promise<number>): Promise<Done> {
  let [answer, said] = ['', '']
  const status = await work({
    answer(text) {
      answer += text
    },
    say(text) {
      said += text
    },
  })
  return { status, answer, said }
}
