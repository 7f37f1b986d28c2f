/** `npm run fuzz`: damaged inputs of every kind. Options: --inputs=N (of each kind), --seed=N, --only="MIDI files". */
import { runBundled } from './bundled.mjs'
import { installPackages } from './install.mjs'

installPackages()
process.exit(await runBundled('fuzz/run.ts', 'fuzz', process.argv.slice(2)))
