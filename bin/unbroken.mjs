#!/usr/bin/env node
/** The batch command: what `npm run build:command` made, which is made here when it is used for the first time. */
import { spawnSync } from 'node:child_process'
import { existsSync } from 'node:fs'
import { fileURLToPath } from 'node:url'

const built = new URL('../built-command/unbroken.mjs', import.meta.url)
if (!existsSync(built)) {
  process.stderr.write('Building the command, once…\n')
  const { status } = spawnSync('node', ['scripts/build-command.mjs'], {
    cwd: fileURLToPath(new URL('..', import.meta.url)),
    stdio: ['ignore', 'ignore', 'inherit'],
  })
  if (status !== 0) process.exit(1)
}
await import(built.href)
