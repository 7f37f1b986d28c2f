import { execFileSync } from 'node:child_process'
import { existsSync, readFileSync, writeFileSync } from 'node:fs'
import { cpus, totalmem } from 'node:os'
import { browserToDrive } from '../tests/chromium.mjs'
import type { Figure } from './figure'
import type { Slowness } from './yardstick/yardsticks'

/** Figures of a group, with how slow the machine was in those minutes. */
export interface MeasuredGroup {
  readonly name: string
  readonly what: string
  readonly slowness: Slowness
  readonly figures: readonly Figure[]
}

/** Of one whole run. */
interface Run {
  readonly date: string
  readonly commit: string
  readonly machine: string
  readonly groups: readonly MeasuredGroup[]
  /** Groups that the run was cut off before. */
  readonly notMeasured: readonly string[]
}

const data = 'docs/figures.json'
const longRun = 'docs/long-run.json'
const page = 'docs/performance.md'

/** Keeps the figures of a run in the repository, and writes the page that shows them. */
export function writePerformancePage(groups: readonly MeasuredGroup[], notMeasured: readonly string[]): void {
  const git = (...words: string[]) => execFileSync('git', words, { encoding: 'utf8' }).trim()
  const isClean = git('status', '--porcelain', '--', 'src', 'bench') === ''
  const browser = execFileSync(browserToDrive()!, ['--version'], { encoding: 'utf8' }).trim()
  const [processor] = cpus()
  const run: Run = {
    date: new Date().toISOString().slice(0, 16).replace('T', ' '),
    commit: `${git('rev-parse', '--short', 'HEAD')}${isClean ? '' : ', and what was not committed yet'}`,
    machine: `${cpus().length} cores (${processor!.model}), ${Math.round(totalmem() / 2 ** 30)} GB, Node.js ${process.version}, ${browser}`,
    groups,
    notMeasured,
  }
  writeFileSync(data, `${JSON.stringify(run, null, 2)}\n`)
  writeFileSync(page, pageOf(JSON.parse(readFileSync(data, 'utf8'))))
}

const wordsOf = (slowness: Slowness) =>
  Object.entries(slowness)
    .map(([kind, value]) => `${kind} ${value.toFixed(2)}`)
    .join(', ')

/** How the last run of `npm run test:long` went, which keeps it there. */
function longRunWords(): string {
  if (!existsSync(longRun)) return '`npm run test:long` has not been run yet.'
  const { date, seed, times, inputs, hasPassed } = JSON.parse(readFileSync(longRun, 'utf8'))
  return `\`npm run test:long\` was run last on ${date} UTC, with seed ${seed}: every property ${times} times as often as in \`npm test\`, and ${inputs.toLocaleString('en')} damaged inputs of each kind. ${hasPassed ? 'Everything held.' : 'Something failed.'}`
}

function pageOf({ date, commit, machine, groups, notMeasured }: Run): string {
  const all = groups.flatMap(({ figures }) => figures)
  const missed = all.filter(({ ok }) => !ok).length
  const rows = groups.flatMap(({ name, what, slowness, figures }) => [
    `| **${what}** (\`--only=${name}\`; ${wordsOf(slowness)}) | | | |`,
    ...figures.map(
      ({ name, value, unit, target, ok }) =>
        `| ${name.replaceAll('|', '\\|')} | ${value}${ok ? '' : ' ✗'} | ${unit} | ${target} |`,
    ),
  ])
  return `# Performance

Written by \`npm run bench -- --write\` from one run; do not edit. The same figures as data: [figures.json](figures.json).
How exact the readings are is on [a page of its own](reports.md).
${longRunWords()}

Measured on ${date} UTC at commit ${commit}, on a virtual machine with ${machine}, without a graphics processor. ${notMeasured.length > 0 ? `The run was cut off before ${notMeasured.join(', ')}. ` : ''}${missed === 0 ? 'Every figure reaches its target' : `${missed} of ${all.length} figures miss their target (✗)`}.

**Yardsticks** are fixed pieces of work without the program (\`bench/yardstick\`), done before and after each group: 1 is the machine that
limits were set on, 2 is half as fast. There is one for each kind of work: what a *processor* does with numbers, objects and text; the
*engraving* library alone on the same music; a page that has so much to lay out and *draw*; the browser's *storage*, read and nothing done
with it. The machine is shared, and its speed was seen to change by a factor of two within an hour. What a machine works at is judged by its
limit times the yardstick of its kind; what has a limit of its own (a stamp, a sample, a moment that is due) by that alone.

| figure | value | unit | target |
|---|---|---|---|
${rows.join('\n')}
`
}
