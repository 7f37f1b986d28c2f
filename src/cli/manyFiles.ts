import { mkdirSync } from 'node:fs'
import { basename, extname, join } from 'node:path'
import { type Options, UsageError } from './commandLine'
import { FileAccessError } from './files'
import type { Done, Terminal } from './terminal'

/** Options of a command that takes several files at once. */
export const manyOptions = ['out-dir', 'to', 'jobs'] as const

/** Options that name a folder for what belongs to one file: of several files each has one of its own in it. */
const foldersOfOne = ['stems', 'parts-dir']

/**
 * Does a command for several files, some side by side; one that is bad does not stop the others. The answer is what each has become,
 * in the order of the files, or why it did not.
 *
 * @param options as they are typed, with those of `manyOptions`
 * @param doOne one command as it would be typed
 * @returns the worst exit status
 * @throws UsageError where the options are wrong, FileAccessError where the folder cannot be made
 */
export async function doMany(
  command: { readonly name: string; readonly usualForm: string; readonly flags: readonly string[] },
  files: readonly string[],
  { 'out-dir': directory, to, jobs: jobsTyped, ...options }: Options,
  terminal: Terminal,
  doOne: (args: readonly string[]) => Promise<Done>,
): Promise<0 | 1 | 2> {
  if (files.length === 0) throw new UsageError('FILE is missing')
  if (!directory) throw new UsageError('--out-dir takes a folder')
  if (options.out !== undefined) throw new UsageError('--out and --out-dir cannot both be')
  const form = to ?? command.usualForm
  if (!/^[a-z0-9]+$/.test(form)) throw new UsageError(`--to takes an ending such as pdf, not "${form}"`)
  const jobs = Number(jobsTyped ?? 1)
  if (!(Number.isInteger(jobs) && jobs >= 1 && jobs <= 64))
    throw new UsageError(`--jobs takes a number from 1 to 64, not "${jobsTyped}"`)
  makeFolder(directory)

  const names = namesOf(files)
  const optionsOf = (name: string) =>
    Object.entries(options).flatMap(([option, value]) =>
      command.flags.includes(option)
        ? [`--${option}`]
        : [`--${option}`, foldersOfOne.includes(option) ? join(value!, name) : value!],
    )
  const answers: object[] = []
  let worst: 0 | 1 | 2 = 0
  let next = 0
  let done = 0
  const work = async () => {
    while (next < files.length) {
      const index = next++
      const [file, name] = [files[index]!, names[index]!]
      const out = join(directory, `${name}.${form}`)
      const { status, answer, said } = await doOne([command.name, file, '--out', out, ...optionsOf(name)])
      const problem = said.trim()
      answers[index] = { file, out, ...(status === 0 ? JSON.parse(answer) : { problem }) }
      if (status !== 0) worst = status === 2 || worst === 2 ? 2 : 1
      terminal.say(`${++done} of ${files.length}: ${file}${status === 0 ? '' : ` failed. ${problem}`}\n`)
    }
  }
  await Promise.all(Array.from({ length: Math.min(jobs, files.length) }, work))
  terminal.answer(`${JSON.stringify(answers, null, 2)}\n`)
  return worst
}

function makeFolder(directory: string): void {
  try {
    mkdirSync(directory, { recursive: true })
  } catch (error) {
    throw new FileAccessError(`${directory} cannot be made: ${(error as Error).message}`)
  }
}

/** Names of what is written, without ending; where two files have one name, also but for its case, later ones are numbered. */
function namesOf(files: readonly string[]): string[] {
  const taken = new Set<string>()
  return files.map((file) => {
    const name = basename(file, extname(file))
    let own = name
    for (let number = 2; taken.has(own.toLowerCase()); number++) own = `${name} (${number})`
    taken.add(own.toLowerCase())
    return own
  })
}
