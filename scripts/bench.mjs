/** `npm run bench`: the figures; ends with a status other than 0 when one misses its target. */
import { runBundled } from './bundled.mjs'
import { installForTests, installPackages } from './install.mjs'

installPackages()
installForTests()
process.exit(await runBundled('bench/run.ts', 'bench', process.argv.slice(2)))
