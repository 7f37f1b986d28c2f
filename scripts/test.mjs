/** `npm test`: installs what is missing, then lint, layer rules, types, unit tests and browser tests, with one sum. */
import { mkdirSync, readFileSync, rmSync } from 'node:fs'
import { installChromium, installPackages, run } from './install.mjs'

installPackages()
installChromium()
rmSync('test-results', { recursive: true, force: true })
mkdirSync('test-results', { recursive: true })

let passed = 0
let failed = 0
function check(name, command, args) {
  process.stdout.write(`\n── ${name} ──\n`)
  const isGood = run(command, args) === 0
  if (isGood) passed++
  else failed++
  return isGood
}

function addCounts(file, read, isGood) {
  try {
    const counts = read(JSON.parse(readFileSync(file, 'utf8')))
    passed += counts.passed
    failed += counts.failed
    if (!isGood && counts.failed === 0) failed++
  } catch (error) {
    process.stderr.write(`${file} could not be read: ${error.message}\n`)
    failed++
  }
}

check('Lint and format', 'npx', ['biome', 'check', '.'])
check('Layers', 'npx', ['depcruise', 'src', '--config', '.dependency-cruiser.cjs'])
check('Threads', 'node', ['scripts/build-threads.mjs'])
check('Build', 'npx', ['next', 'build'])
check('Types', 'npx', ['tsc', '--noEmit', '-p', '.'])

process.stdout.write('\n── Unit tests ──\n')
const unit = run('npx', ['jest', '--json', '--outputFile=test-results/unit.json'])
addCounts(
  'test-results/unit.json',
  (report) => ({
    passed: report.numPassedTests,
    failed: report.numFailedTests + report.numRuntimeErrorTestSuites,
  }),
  unit === 0,
)

process.stdout.write('\n── Browser tests ──\n')
const browser = run('npx', ['playwright', 'test'])
addCounts(
  'test-results/browser.json',
  ({ stats }) => {
    if (stats.flaky > 0) process.stdout.write(`${stats.flaky} browser tests passed only at the second try\n`)
    return { passed: stats.expected + stats.flaky, failed: stats.unexpected }
  },
  browser === 0,
)

process.stdout.write(`\n${passed} passed, ${failed} failed\n`)
process.exit(failed === 0 && unit === 0 && browser === 0 ? 0 : 1)
