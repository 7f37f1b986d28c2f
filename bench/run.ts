import { spawnSync } from 'node:child_process'
import { browserFigures } from './browser'
import { coreFigures } from './core'
import type { Figure } from './figure'

async function main() {
  const isJson = process.argv.includes('--json')
  const say = (text: string) => process.stderr.write(`${text}\n`)
  say('Core…')
  const figures: Figure[] = await coreFigures()
  say('Building…')
  const built = spawnSync('npm', ['run', '--silent', 'build'], { stdio: ['ignore', 'ignore', 'inherit'] })
  if (built.status !== 0) throw new Error('The build failed')
  say('Browser…')
  figures.push(...(await browserFigures(say)))
  if (isJson) process.stdout.write(`${JSON.stringify(figures, null, 2)}\n`)
  else
    for (const { name, value, unit, target, ok } of figures)
      process.stdout.write(`${ok ? '✓' : '✗'} ${name}: ${value} ${unit} (${target})\n`)
}

void main()
