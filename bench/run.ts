import { spawnSync } from 'node:child_process'
import { browserFigures } from './browser'
import { coreFigures, notationFiles } from './core'
import { delivery } from './delivery'
import { editingFigures } from './editing'
import { typedNotes } from './effects'
import { followedClock, fourPorts, longTake, monitoring, sentClock } from './ensemble'
import type { Figure } from './figure'
import { heardOnsets } from './heard'
import { followedLines, keptHour, readingChords, soundToSynthesiser } from './listening'
import { printedPages } from './printing'
import { soundFiles } from './soundFiles'
import { liveTransfer } from './transfer'

async function main() {
  const isJson = process.argv.includes('--json')
  const say = (text: string) => process.stderr.write(`${text}\n`)
  say('Core…')
  const only = process.argv.find((word) => word.startsWith('--only='))
  const isCore = only === '--only=core'
  const isFiles = only === '--only=files'
  const figures: Figure[] = []
  if (!only || isFiles) figures.push(...(await notationFiles()))
  if (!only || isCore) figures.push(...(await coreFigures()), ...followedClock())
  if (!isCore && !isFiles) figures.push(...(await inBrowser(say)))

  if (isJson) process.stdout.write(`${JSON.stringify(figures, null, 2)}\n`)
  else
    for (const { name, value, unit, target, ok } of figures)
      process.stdout.write(`${ok ? '✓' : '✗'} ${name}: ${value} ${unit} (${target})\n`)
  const missed = figures.filter(({ ok }) => !ok).length
  if (missed > 0) say(`${missed} of ${figures.length} figures miss their target`)
  process.exitCode = missed > 0 ? 1 : 0
}

async function inBrowser(say: (text: string) => void): Promise<Figure[]> {
  say('Building…')
  const built = spawnSync('npm', ['run', '--silent', 'build'], { stdio: ['ignore', 'ignore', 'inherit'] })
  if (built.status !== 0) throw new Error('The build failed')
  say('Browser…')
  return browserFigures(say, [
    ['ports', fourPorts],
    ['monitoring', monitoring],
    ['clock', sentClock],
    ['long', longTake],
    ['typed', typedNotes],
    ['heard', heardOnsets],
    ['editing', editingFigures],
    ['printing', printedPages],
    ['sound', soundFiles],
    ['transfer', liveTransfer],
    ['delivery', delivery],
    ['kept', keptHour],
    [
      'listening',
      async () => [
        ...(await soundToSynthesiser()),
        ...followedLines(),
        ...(await readingChords()),
        ...(await keptHour()),
      ],
    ],
  ])
}

main().catch((error) => {
  process.stderr.write(`${error.stack ?? error}\n`)
  process.exitCode = 2
})
