import { unbroken } from './commands'
import { collected } from './terminal'

/** A command as it is typed, run in this process: its status and what it wrote. */
export async function typed(...args: readonly string[]) {
  const { status, answer, said } = await collected((terminal) => unbroken(args, terminal))
  return { status, stdout: answer, stderr: said }
}
