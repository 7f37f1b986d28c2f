/** `npm run bench`: the figures; ends with a status other than 0 when one misses its target. */
import { runBundled } from './bundled.mjs'
import { installChromium, installPackages } from './install.mjs'

installPackages()
installChromium()
process.exit(await runBundled('bench/run.ts', 'bench', process.argv.slice(2)))
