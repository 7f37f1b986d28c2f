/** A stage of `npm test`: a command with a time limit, ended with everything it started. */
import { spawn } from 'node:child_process'
import { existsSync } from 'node:fs'

/** After its results are written, a command gets this long to end by itself. */
const graceMs = 15_000
/** Of a stage that failed, so many of its last lines are told again at the end. */
const linesToldAgain = 20

/**
 * Runs a command.
 *
 * @param options.minutes after that it is ended, and that is a failure with the stage's name
 * @param options.env variables besides those of this process
 * @param options.resultFile when it is written the work is done: a command that then stays is holding something open
 * @returns null when it went well; otherwise what went wrong, in words
 */
export function runStage(name, command, args, { minutes, resultFile, env = {} }) {
  const startMs = Date.now()
  return new Promise((resolve) => {
    process.stdout.write(`\n── ${name} ──\n`)
    const child = spawn(command, args, {
      stdio: ['inherit', 'pipe', 'pipe'],
      detached: true,
      env: { ...process.env, ...env },
    })
    let tail = ''
    for (const [from, to] of [
      [child.stdout, process.stdout],
      [child.stderr, process.stderr],
    ])
      from.setEncoding('utf8').on('data', (text) => {
        to.write(text)
        tail = (tail + text).split('\n').slice(-linesToldAgain).join('\n')
      })
    let problem = null
    const end = (words) => {
      problem = words
      try {
        process.kill(-child.pid, 'SIGKILL')
      } catch (error) {
        if (error.code !== 'ESRCH') throw error
      }
    }
    const limit = setTimeout(
      () => end(`${name} was not done after ${minutes} minutes and was ended`),
      minutes * 60_000,
    )
    let writtenMs = null
    const watch = setInterval(() => {
      if (!resultFile || !existsSync(resultFile)) return
      writtenMs ??= Date.now()
      if (problem === null && Date.now() - writtenMs > graceMs)
        end(`${name} wrote its results but did not end: something was left open (a port, a timer, a server)`)
    }, 500)
    const done = (words) => {
      clearTimeout(limit)
      clearInterval(watch)
      process.stdout.write(`${name}: ${((Date.now() - startMs) / 1000).toFixed(0)} s\n`)
      resolve(words === null ? null : `${words}\n${tail.trim().replaceAll(/^/gm, '  ')}`)
    }
    child.on('error', (error) => done(`${name} could not be started: ${error.message}`))
    child.on('close', (code, signal) =>
      done(problem ?? (code === 0 ? null : `${name} failed${signal ? ` (${signal})` : ''}`)),
    )
  })
}
