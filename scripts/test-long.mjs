/**
 * `npm run test:long`: every property ten times as often as in `npm test`, and ten thousand damaged inputs of each kind, from a new
 * seed. What fails comes again with `npm run test:long -- --seed=N`.
 */
import { runBundled } from './bundled.mjs'
import { installForTests, installPackages, run } from './install.mjs'

installPackages()
installForTests()
const given = process.argv.find((word) => word.startsWith('--seed='))?.slice('--seed='.length)
const seed = Number(given ?? Date.now() % 1_000_000_000)
if (!Number.isSafeInteger(seed)) {
  process.stderr.write(`--seed takes a whole number, not "${given}"\n`)
  process.exit(2)
}
process.stdout.write(`Seed ${seed}\n`)
const env = { ...process.env, PROPERTY_SEED: String(seed), PROPERTY_TIMES: '10' }
const properties = run('npx', ['jest', '--testTimeout=1800000'], { env })
const damaged = await runBundled('fuzz/run.ts', 'fuzz', ['--inputs=10000', `--seed=${seed}`])
process.exit(properties === 0 && damaged === 0 ? 0 : 1)
