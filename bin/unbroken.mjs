#!/usr/bin/env node
/** The batch command: what `npm run build:command` made. It is made here when it is not there, or older than what it is made of. */
import { spawnSync } from 'node:child_process'
import { existsSync, readdirSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath, pathToFileURL } from 'node:url'

const project = fileURLToPath(new URL('..', import.meta.url))
const built = join(project, 'built-command', 'unbroken.mjs')
const sources = join(project, 'src')

/** A checkout that was brought up to date must not answer as it did before. */
function isCurrent() {
  if (!existsSync(built)) return false
  if (!existsSync(sources)) return true
  const builtMs = statSync(built).mtimeMs
  const names = readdirSync(sources, { recursive: true }).filter((name) => /\.(ts|json)$/.test(name))
  return names.every((name) => statSync(join(sources, name)).mtimeMs <= builtMs)
}

if (!isCurrent()) {
  process.stderr.write('Building the command…\n')
  const { status } = spawnSync('node', ['scripts/build-command.mjs'], {
    cwd: project,
    stdio: ['ignore', 'ignore', 'inherit'],
  })
  if (status !== 0) process.exit(1)
}
await import(pathToFileURL(built).href)
