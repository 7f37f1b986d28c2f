/** What a fresh machine needs before anything else: the packages, and for the tests Chromium from Debian. */
import { spawn, spawnSync } from 'node:child_process'
import { existsSync, readFileSync, statSync } from 'node:fs'
import { browserToDrive, headlessShell } from '../tests/chromium.mjs'

export function run(command, args, options = {}) {
  const result = spawnSync(command, args, { stdio: 'inherit', ...options })
  if (result.error) throw result.error
  return result.status ?? 1
}

/** The same without waiting: its exit status, when it has ended. */
export function runAlongside(command, args) {
  return new Promise((resolve, reject) => {
    spawn(command, args, { stdio: 'inherit' })
      .on('error', reject)
      .on('exit', (code) => resolve(code ?? 1))
  })
}

/** What an installer says goes to standard error: a command's own output is what it was asked for. */
const aside = { stdio: ['inherit', 2, 2] }

/** Installs the packages when they are missing or older than the lock file. */
export function installPackages() {
  const stamp = 'node_modules/.package-lock.json'
  const isCurrent = existsSync(stamp) && statSync(stamp).mtimeMs >= statSync('package-lock.json').mtimeMs
  if (isCurrent) return
  process.stderr.write('Installing packages…\n')
  if (run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error'], aside) !== 0) process.exit(1)
}

/**
 * Everything a fresh machine needs for the tests; what comes from the two registries is fetched side by side.
 *
 * @returns whether all of it is there
 */
export async function installEverything() {
  const inProcess = (name) =>
    runAlongside('node', ['-e', `import('./scripts/install.mjs').then((install) => install.${name}())`])
  const done = await Promise.all([inProcess('installPackages'), inProcess('installForTests')])
  return done.every((status) => status === 0)
}

const headless = ['chromium-headless-shell', headlessShell]
/** What the tests use of Debian besides: readers of PDF, and makers of sound that are not this program's. */
const debianPackages = [
  ['poppler-utils', '/usr/bin/pdftotext'],
  ['fluidsynth', '/usr/bin/fluidsynth'],
  ['timgm6mb-soundfont', '/usr/share/sounds/sf2/TimGM6mb.sf2'],
  ['espeak-ng', '/usr/bin/espeak-ng'],
]

/** Installs what the tests use and is missing; needs to be root for that. */
export function installForTests() {
  const missing = () =>
    [...(process.env.CHROMIUM ? [] : [headless]), ...debianPackages].filter(([, file]) => !existsSync(file))
  const isReady = () => browserToDrive() && missing().every((each) => each === headless)
  if (missing().length === 0) return
  const isDebian =
    existsSync('/etc/os-release') && /debian|ubuntu/i.test(readFileSync('/etc/os-release', 'utf8'))
  if (isDebian && process.getuid?.() === 0) {
    const names = missing().map(([name]) => name)
    process.stderr.write(`Installing ${names.join(', ')}…\n`)
    const environment = { ...aside, env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' } }
    const install = (...names) =>
      run('apt-get', ['-qq', 'install', '-y', '--no-install-recommends', ...names], environment)
    run('apt-get', ['-qq', 'update'], environment)
    if (install(...names) !== 0) {
      const others = names.filter((name) => name !== headless[0])
      install(...others, ...(browserToDrive() ? [] : ['chromium']))
    }
  }
  if (isReady()) return
  process.stderr.write(
    `The tests need ${missing()
      .map(([name, file]) => `${name} (looked for at ${file})`)
      .join(', ')}. Install them; a Chromium elsewhere can be named in CHROMIUM.\n`,
  )
  process.exit(1)
}
