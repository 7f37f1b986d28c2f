import { spawnSync } from 'node:child_process'
import { address, capture, drawing, engraving, keyboardToSynth, liveBars, withServer } from './browser'
import { commandStart } from './command'
import { coreFigures, notationFiles } from './core'
import { delivery } from './delivery'
import { editingFigures } from './editing'
import { typedNotes } from './effects'
import { followedClock, fourPorts, longTake, monitoring, sentClock } from './ensemble'
import { type Figure, judged } from './figure'
import { heardOnsets } from './heard'
import { followedLines, keptHour, readingChords, soundToSynthesiser } from './listening'
import { type MeasuredGroup, writePerformancePage } from './performancePage'
import { printedPages } from './printing'
import { soundFiles } from './soundFiles'
import { liveTransfer } from './transfer'
import { between, slownessNow, type WorkKind } from './yardstick/yardsticks'

/** Figures that are measured together. */
interface Group {
  readonly name: string
  /** What is measured, and where: a heading of the page of figures. */
  readonly what: string
  readonly isInBrowser: boolean
  /** Yardsticks that its figures are judged by. */
  readonly kinds: readonly WorkKind[]
  measure(): Figure[] | Promise<Figure[]>
}

const inNode = (name: string, what: string, measure: Group['measure']): Group => ({
  name,
  what,
  isInBrowser: false,
  kinds: ['processor'],
  measure,
})
const inBrowser = (
  name: string,
  what: string,
  measure: Group['measure'],
  ...kinds: readonly WorkKind[]
): Group => ({
  name,
  what,
  isInBrowser: true,
  kinds,
  measure,
})

const groups: readonly Group[] = [
  inNode('files', 'Files of notation, read in Node.js for the first time', notationFiles),
  inNode('command', 'The batch command', commandStart),
  inNode('core', 'The core and the engine in Node.js, without a browser', async () => [
    ...(await coreFigures()),
    ...followedClock(),
  ]),
  inBrowser('page', 'The page in the browser', engraving, 'engraving', 'drawing'),
  inBrowser('capture', 'Sixteen channels through a simulated MIDI port', capture),
  inBrowser('live', 'Bars that are shown while they are played', liveBars, 'engraving'),
  inBrowser('keyboard', 'A key of the computer keyboard', keyboardToSynth),
  inBrowser('drawing', 'A hundred thousand notes on the screen', drawing),
  inBrowser('ports', 'Four ports at once', fourPorts),
  inBrowser('monitoring', 'Monitoring under load, over cables', monitoring),
  inBrowser('clock', 'Clock that is sent', sentClock),
  inBrowser('long', 'A take of two hours', longTake, 'storage'),
  inBrowser('typed', 'Typed music', typedNotes, 'drawing'),
  inBrowser('heard', 'What leaves the synthesiser in the browser, sample by sample', heardOnsets),
  inBrowser('editing', 'Edits of a hundred thousand notes', editingFigures, 'processor'),
  inBrowser('printing', 'Pages', printedPages, 'engraving'),
  inBrowser('sound', 'Sound files', soundFiles, 'processor'),
  inBrowser('transfer', 'Live into a receiver over a cable', liveTransfer),
  inBrowser('delivery', 'Files of notation out', delivery, 'processor'),
  inBrowser(
    'listening',
    'Sound in',
    async () => [...(await soundToSynthesiser()), ...followedLines(), ...(await readingChords())],
    'processor',
  ),
  inBrowser('kept', 'Kept sound', keptHour, 'processor'),
]

const say = (text: string) => process.stderr.write(`${text}\n`)

/** Options: --json, --only=GROUP, --write (the page of figures and its data are written anew; all groups are measured then). */
async function main() {
  const options = process.argv.slice(2)
  const only = options.find((word) => word.startsWith('--only='))?.slice('--only='.length)
  const unknown = options.find((word) => !/^--(json|write|only=.*)$/.test(word))
  if (unknown) throw new Error(`There is no option "${unknown}"; there are --json, --write and --only=GROUP`)
  const asked = groups.filter(({ name }) => only === undefined || name === only)
  if (asked.length === 0)
    throw new Error(`There is no group "${only}"; there are ${groups.map(({ name }) => name).join(', ')}`)
  const isWritten = options.includes('--write')
  if (isWritten && only !== undefined) throw new Error('--write measures all groups')

  const measured: MeasuredGroup[] = []
  const emptyPage = `${address}/icons/icon-192.png`
  const measure = async ({ name, what, kinds, measure }: Group) => {
    say(`${name}…`)
    const beganMs = performance.now()
    const before = await slownessNow(kinds, emptyPage)
    const figures = await measure()
    const slowness = between(before, await slownessNow(kinds, emptyPage))
    measured.push({ name, what, slowness, figures: figures.map((figure) => judged(figure, slowness)) })
    say(`${name}: ${((performance.now() - beganMs) / 1000).toFixed(0)} s`)
    // Group by group, so that a run that is cut off leaves what it has measured, and says what it has not.
    if (isWritten)
      writePerformancePage(
        measured,
        groups.map((group) => group.name).filter((each) => !measured.some((group) => group.name === each)),
      )
  }
  for (const group of asked) if (!group.isInBrowser) await measure(group)
  const pages = asked.filter(({ isInBrowser }) => isInBrowser)
  if (pages.length > 0) {
    say('Building…')
    const built = spawnSync('npm', ['run', '--silent', 'build'], { stdio: ['ignore', 'ignore', 'inherit'] })
    if (built.status !== 0) throw new Error('The build failed')
    await withServer(async () => {
      for (const group of pages) await measure(group)
    })
  }

  const figures = measured.flatMap((group) => group.figures)
  if (options.includes('--json')) process.stdout.write(`${JSON.stringify(figures, null, 2)}\n`)
  else
    for (const { name, value, unit, target, ok } of figures)
      process.stdout.write(`${ok ? '✓' : '✗'} ${name}: ${value} ${unit} (${target})\n`)
  const missed = figures.filter(({ ok }) => !ok).length
  if (missed > 0) say(`${missed} of ${figures.length} figures miss their target`)
  process.exitCode = missed > 0 ? 1 : 0
}

main().catch((error) => {
  process.stderr.write(`${error.stack ?? error}\n`)
  process.exitCode = 2
})
