/**
 * `npm run test:long`: every property ten times as often as in `npm test`, and ten thousand damaged inputs of each kind (`--inputs=N`: so
 * many), from a new seed. What fails comes again with `npm run test:long -- --seed=N`. How it went is kept in docs/long-run.json, which the
 * page of figures tells.
 */
import { writeFileSync } from 'node:fs'
import { runBundled } from './bundled.mjs'
import { installForTests, installPackages, run } from './install.mjs'

installPackages()
installForTests()

/** A whole number that was given by its name. */
function given(name, usual) {
  const text = process.argv.find((word) => word.startsWith(`--${name}=`))?.slice(name.length + 3)
  const value = text === undefined ? usual : Number(text)
  if (Number.isSafeInteger(value)) return value
  process.stderr.write(`--${name} takes a whole number, not "${text}"\n`)
  process.exit(2)
}
const seed = given('seed', Date.now() % 1_000_000_000)
const inputs = given('inputs', 10_000)
const times = 10
process.stdout.write(`Seed ${seed}\n`)
const env = { ...process.env, PROPERTY_SEED: String(seed), PROPERTY_TIMES: String(times) }
const properties = run('npx', ['jest', '--testTimeout=1800000'], { env })
const damaged = await runBundled('fuzz/run.ts', 'fuzz', [`--inputs=${inputs}`, `--seed=${seed}`])
const hasPassed = properties === 0 && damaged === 0
const date = new Date().toISOString().slice(0, 16).replace('T', ' ')
writeFileSync('docs/long-run.json', `${JSON.stringify({ date, seed, times, inputs, hasPassed }, null, 2)}\n`)
process.exit(hasPassed ? 0 : 1)
