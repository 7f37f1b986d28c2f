import { fileURLToPath } from 'node:url'
import { setProjectFolder } from '@/rendering/projectFolder'
import { unbroken } from './commands'

/** The batch command as a program of its own, built into a folder of the project. */
setProjectFolder(fileURLToPath(new URL('..', import.meta.url)))
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
