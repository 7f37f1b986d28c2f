import { spawnSync } from 'node:child_process'
import { atMost, type Figure, median, workAtMost } from './figure'

const times = 9
const smallFile = 'tests/stored/form-10.voice'

/** From start to end of a process, in milliseconds. */
function processMs(args: readonly string[]): number {
  const start = performance.now()
  const { status, stderr } = spawnSync('node', args, { encoding: 'utf8' })
  if (status !== 0) throw new Error(`node ${args.join(' ')} ended with ${status}: ${stderr}`)
  return performance.now() - start
}

/** The batch command, built: from its start to what it says of a small file. Beside it, by turns, a process that does nothing. */
export function commandStart(): Figure[] {
  // Built where it is not there yet, and not counted.
  processMs(['bin/unbroken.mjs', 'inspect', smallFile])
  const command: number[] = []
  const nothing: number[] = []
  for (let time = 0; time < times; time++) {
    nothing.push(processMs(['-e', '0']))
    command.push(processMs(['bin/unbroken.mjs', 'inspect', smallFile]))
  }
  return [
    workAtMost(
      `the command, from its start to what it says of a small file (median of ${times})`,
      median(command),
      'ms',
      400,
    ),
    atMost(
      'the same: times as long as a process of Node.js that does nothing',
      median(command) / median(nothing),
      '×',
      6,
    ),
  ]
}
