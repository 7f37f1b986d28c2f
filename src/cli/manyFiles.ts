import { mkdirSync } from 'node:fs'
import { basename, extname, join } from 'node:path'
import type { DoneOne, Terminal } from './terminal'

/** What each of many files became, or why it did not. */
export type ManyAnswer = readonly {
  readonly file: string
  readonly out: string
  readonly [more: string]: unknown
}[]

/**
 * Does a command for many files, some side by side; one that is bad does not stop the others.
 *
 * @param form ending of what is written
 * @param doOne one command as it would be typed, in a process of its own where there can be one
 * @returns the answers in the order of the files, and the worst exit status
 */
export async function forManyFiles(
  [name, ...options]: readonly [string, ...string[]],
  files: readonly string[],
  directory: string,
  form: string,
  jobs: number,
  doOne: (args: readonly string[]) => Promise<DoneOne>,
  terminal: Pick<Terminal, 'say'>,
): Promise<{ readonly answers: ManyAnswer; readonly status: 0 | 1 | 2 }> {
  mkdirSync(directory, { recursive: true })
  const outs = namesOf(files, form).map((out) => join(directory, out))
  const answers: ManyAnswer[number][] = []
  let status: 0 | 1 | 2 = 0
  let next = 0
  let done = 0
  const work = async () => {
    while (next < files.length) {
      const index = next++
      const [file, out] = [files[index]!, outs[index]!]
      const one = await doOne([name, file, '--out', out, ...options])
      if (one.status !== 0) status = one.status === 2 ? 2 : status === 2 ? 2 : 1
      answers[index] = {
        file,
        out,
        ...(one.status === 0 ? JSON.parse(one.answer) : { problem: one.said.trim() }),
      }
      terminal.say(
        `${++done} of ${files.length}: ${file}${one.status === 0 ? '' : ` failed. ${one.said.trim()}`}\n`,
      )
    }
  }
  await Promise.all(Array.from({ length: Math.min(jobs, files.length) }, work))
  return { answers, status }
}

/** Names of what is written; files of one name in different folders are numbered. */
function namesOf(files: readonly string[], form: string): string[] {
  const taken = new Map<string, number>()
  return files.map((file) => {
    const name = basename(file, extname(file))
    const count = (taken.get(name) ?? 0) + 1
    taken.set(name, count)
    return `${name}${count === 1 ? '' : ` (${count})`}.${form}`
  })
}
