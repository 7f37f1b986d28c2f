import { unbroken } from './commands'

/** A command as it is typed, run in this process: its status and what it wrote. */
export async function typed(...args: readonly string[]) {
  let stdout = ''
  let stderr = ''
  const status = await unbroken(args, {
    answer: (text) => {
      stdout += text
    },
    say: (text) => {
      stderr += text
    },
  })
  return { status, stdout, stderr }
}
