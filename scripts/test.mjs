/**
 * `npm test`: installs what is missing, then lint, layer rules and types beside the build, unit tests, a short fuzzing and browser
 * tests. What hangs is ended and named; there is one sum at the end.
 */
import { mkdirSync, readFileSync, rmSync } from 'node:fs'
import { installEverything } from './install.mjs'
import { runStage } from './stage.mjs'

if (!(await installEverything())) process.exit(1)
rmSync('test-results', { recursive: true, force: true })
mkdirSync('test-results', { recursive: true })

let passed = 0
let failed = 0
/** What is worth reading again at the end. */
const remarks = []

async function stage(...order) {
  const problem = await runStage(...order)
  if (problem) remarks.push(problem)
  return problem
}

/** A stage that passes or fails as a whole. */
async function check(name, command, args, options = {}) {
  if (await stage(name, command, args, options)) failed++
  else passed++
}

/** A stage that writes a report with counts; a failure that no test names counts as one. */
async function tests(name, command, args, options, countsOf) {
  const problem = await stage(name, command, args, options)
  let counted = 0
  try {
    const counts = countsOf(JSON.parse(readFileSync(options.resultFile, 'utf8')))
    passed += counts.passed
    failed += counts.failed
    counted = counts.failed
  } catch (error) {
    remarks.push(`${options.resultFile} could not be read: ${error.message}`)
  }
  if (problem && counted === 0) failed++
}

/** Stages one after the other, beside another such row. */
async function row(...stages) {
  for (const each of stages) await check(...each, { atEnd: true })
}
await Promise.all([
  row(
    ['Threads', 'node', ['scripts/build-threads.mjs']],
    ['Build', 'npx', ['next', 'build']],
    ['Without a network', 'node', ['scripts/build-offline.mjs']],
    ['Types', 'node', ['scripts/types.mjs']],
  ),
  row(
    ['Lint and format', 'npx', ['biome', 'check', '.']],
    ['Layers', 'npx', ['depcruise', 'src', '--config', '.dependency-cruiser.cjs']],
    ['Units of measure', 'npx', ['tsx', 'tools/units/check.ts']],
  ),
])
await tests(
  'Unit tests',
  'npx',
  ['jest', '--json', '--outputFile=test-results/unit.json'],
  { resultFile: 'test-results/unit.json' },
  (report) => ({
    passed: report.numPassedTests,
    failed: report.numFailedTests + report.numRuntimeErrorTestSuites,
  }),
)
const browserTests = (name, project) =>
  tests(
    name,
    'npx',
    ['playwright', 'test', `--project=${project}`],
    {
      resultFile: `test-results/${project}.json`,
      env: { PLAYWRIGHT_JSON_OUTPUT_FILE: `test-results/${project}.json` },
    },
    ({ stats }) => ({ passed: stats.expected, failed: stats.unexpected + stats.flaky }),
  )
await browserTests('Browser tests', 'driven')
// Music in real time leaves half of a processor idle; what is done beside it stands back.
await Promise.all([
  browserTests('Browser tests in real time', 'realtime'),
  check(
    'Fuzzing, a short run',
    'nice',
    ['-n', '19', 'node', 'scripts/fuzz.mjs', '--inputs=100', '--seed=1'],
    {
      atEnd: true,
    },
  ),
])

if (remarks.length > 0) process.stdout.write(`\n${remarks.join('\n')}\n`)
process.stdout.write(`\n${passed} passed, ${failed} failed\n`)
process.exit(failed === 0 ? 0 : 1)
