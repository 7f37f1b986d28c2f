import { unbroken } from './commands'

/** The batch command as a program of its own. */
unbroken(process.argv.slice(2), {
  answer: (text) => process.stdout.write(text),
  say: (text) => process.stderr.write(text),
}).then(
  (status) => {
    process.exitCode = status
  },
  (error) => {
    process.stderr.write(`${error instanceof Error ? error.stack : error}\n`)
    process.exitCode = 1
  },
)
