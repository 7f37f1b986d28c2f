/** A stage of `npm test`: a command that must not fall silent, ended with everything it started. */
import { spawn } from 'node:child_process'
import { existsSync } from 'node:fs'

/**
 * A command that has said nothing for so long hangs: what is tested says a word when it is done, and of two tests side by side one does before
 * that. How long a stage takes as a whole is told and not judged: machines differ.
 */
const longestSilenceMs = 4 * 60_000
/** After its results are written, a command gets this long to end by itself. */
const graceMs = 15_000
/** Of a stage that failed, so many of its last lines are told again at the end. */
const linesToldAgain = 20

/**
 * Runs a command.
 *
 * @param options.atEnd what it says is told when it has ended, in one piece: for commands that run side by side
 * @param options.env variables besides those of this process
 * @param options.resultFile when it is written the work is done: a command that then stays is holding something open
 * @returns null when it went well; otherwise what went wrong, in words
 */
export function runStage(name, command, args, { resultFile, env = {}, atEnd = false } = {}) {
  const startMs = Date.now()
  return new Promise((resolve) => {
    let held = ''
    const say = (text, to = process.stdout) => {
      if (atEnd) held += text
      else to.write(text)
    }
    say(`\n── ${name} ──\n`)
    const child = spawn(command, args, {
      stdio: ['inherit', 'pipe', 'pipe'],
      detached: true,
      env: { ...process.env, ...env },
    })
    let tail = ''
    let heardMs = startMs
    for (const [from, to] of [
      [child.stdout, process.stdout],
      [child.stderr, process.stderr],
    ])
      from.setEncoding('utf8').on('data', (text) => {
        say(text, to)
        heardMs = Date.now()
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
    let writtenMs = null
    const watch = setInterval(() => {
      if (problem === null && Date.now() - heardMs > longestSilenceMs)
        end(`${name} said nothing for ${longestSilenceMs / 60_000} minutes and was ended`)
      if (!resultFile || !existsSync(resultFile)) return
      writtenMs ??= Date.now()
      if (problem === null && Date.now() - writtenMs > graceMs)
        end(`${name} wrote its results but did not end: something was left open (a port, a timer, a server)`)
    }, 500)
    const done = (words) => {
      clearInterval(watch)
      say(`${name}: ${((Date.now() - startMs) / 1000).toFixed(0)} s\n`)
      if (atEnd) process.stdout.write(held)
      resolve(words === null ? null : `${words}\n${tail.trim().replaceAll(/^/gm, '  ')}`)
    }
    child.on('error', (error) => done(`${name} could not be started: ${error.message}`))
    child.on('close', (code, signal) =>
      done(problem ?? (code === 0 ? null : `${name} failed${signal ? ` (${signal})` : ''}`)),
    )
  })
}
