/** What a fresh machine needs before anything else: the packages, and for the tests Chromium from Debian. */
import { spawnSync } from 'node:child_process'
import { existsSync, readFileSync, statSync } from 'node:fs'

export function run(command, args, options = {}) {
  const result = spawnSync(command, args, { stdio: 'inherit', ...options })
  if (result.error) throw result.error
  return result.status ?? 1
}

/** Installs the packages when they are missing or older than the lock file. */
export function installPackages() {
  const stamp = 'node_modules/.package-lock.json'
  const isCurrent = existsSync(stamp) && statSync(stamp).mtimeMs >= statSync('package-lock.json').mtimeMs
  if (isCurrent) return
  process.stdout.write('Installing packages…\n')
  if (run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error']) !== 0) process.exit(1)
}

/** Installs Debian's Chromium when there is none, and what looks into PDF files; needs to be root for that. */
export function installChromium() {
  const chromium = process.env.CHROMIUM ?? '/usr/bin/chromium'
  const pdfReader = '/usr/bin/pdftotext'
  if (existsSync(chromium) && existsSync(pdfReader)) return
  const isDebian =
    existsSync('/etc/os-release') && /debian|ubuntu/i.test(readFileSync('/etc/os-release', 'utf8'))
  if (!isDebian || process.getuid?.() !== 0) {
    process.stderr.write(
      `Chromium and poppler-utils are needed for the tests, and were not found at ${chromium} and ${pdfReader}. Install them; a Chromium elsewhere can be named in CHROMIUM.\n`,
    )
    process.exit(1)
  }
  process.stdout.write('Installing Chromium and poppler-utils…\n')
  const environment = { env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' } }
  const failed =
    run('apt-get', ['-qq', 'update'], environment) !== 0 ||
    run(
      'apt-get',
      [
        '-qq',
        'install',
        '-y',
        '--no-install-recommends',
        ...(existsSync(chromium) ? [] : ['chromium']),
        'poppler-utils',
      ],
      environment,
    ) !== 0
  if (failed || !existsSync(chromium) || !existsSync(pdfReader)) process.exit(1)
}
