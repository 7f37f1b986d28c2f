/**
 * `npm test`: installs what is missing, then lint, layer rules, build, types, unit tests, a short fuzzing and browser tests,
 * each with a time limit, with one sum at the end.
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
async function check(name, minutes, command, args) {
  if (await stage(name, command, args, { minutes })) failed++
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

await check('Lint and format', 3, 'npx', ['biome', 'check', '.'])
await check('Layers', 3, 'npx', ['depcruise', 'src', '--config', '.dependency-cruiser.cjs'])
await check('Threads', 2, 'node', ['scripts/build-threads.mjs'])
await check('Build', 10, 'npx', ['next', 'build'])
await check('Without a network', 2, 'node', ['scripts/build-offline.mjs'])
await check('Types', 8, 'node', ['scripts/types.mjs'])
await tests(
  'Unit tests',
  'npx',
  ['jest', '--json', '--outputFile=test-results/unit.json'],
  { minutes: 25, resultFile: 'test-results/unit.json' },
  (report) => ({
    passed: report.numPassedTests,
    failed: report.numFailedTests + report.numRuntimeErrorTestSuites,
  }),
)
await check('Fuzzing, a short run', 6, 'node', ['scripts/fuzz.mjs', '--inputs=100', '--seed=1'])
for (const [name, project, minutes] of [
  ['Browser tests', 'driven', 35],
  ['Browser tests in real time', 'realtime', 20],
])
  await tests(
    name,
    'npx',
    ['playwright', 'test', `--project=${project}`],
    {
      minutes,
      resultFile: `test-results/${project}.json`,
      env: { PLAYWRIGHT_JSON_OUTPUT_FILE: `test-results/${project}.json` },
    },
    ({ stats }) => ({ passed: stats.expected, failed: stats.unexpected + stats.flaky }),
  )

if (remarks.length > 0) process.stdout.write(`\n${remarks.join('\n')}\n`)
process.stdout.write(`\n${passed} passed, ${failed} failed\n`)
process.exit(failed === 0 ? 0 : 1)
