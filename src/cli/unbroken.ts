import { spawn } from 'node:child_process'
import { fileURLToPath } from 'node:url'
import { setProjectFolder } from '@/rendering/projectFolder'
import { unbroken } from './commands'
import type { Done } from './terminal'

/** The batch command as a program of its own, built into a folder of the project. */
setProjectFolder(fileURLToPath(new URL('..', import.meta.url)))
/** The same program once more, for one of several files. */
const doElsewhere = (args: readonly string[]): Promise<Done> =>
  new Promise((resolve, reject) => {
    const child = spawn(process.execPath, [fileURLToPath(import.meta.url), ...args])
    let [answer, said] = ['', '']
    child.stdout.setEncoding('utf8').on('data', (text) => {
      answer += text
    })
    child.stderr.setEncoding('utf8').on('data', (text) => {
      said += text
    })
    child.on('error', reject)
    child.on('close', (status) => resolve({ status: status ?? 1, answer, said }))
  })

unbroken(process.argv.slice(2), {
  doElsewhere,
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
