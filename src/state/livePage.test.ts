import { noteAt, pieceWith } from '@/core/project/trackWith.testing'
import type { TransportState } from '@/engine/protocol'
import type { LiveNote } from './liveNotes'
import { createLivePage } from './livePage'

const quarter = 10_080
const bar = 4 * quarter

/** A page of a piece with one track, on which a note is played on every beat up to where it stands. */
function pageAt() {
  const piece = pieceWith([noteAt(1, 0, 60)])
  const here = { ticks: 0, transport: { state: 'recording' } as TransportState }
  const asked: { from: number; notes: number }[] = []
  const problems: unknown[] = []
  let held: (() => void) | null = null
  let fails = false
  const page = createLivePage({
    project: () => piece,
    transport: () => here.transport,
    positionTicks: () => here.ticks,
    notes: () =>
      Array.from(
        { length: Math.floor(here.ticks / quarter) + 1 },
        (_, beat): LiveNote => ({
          trackId: piece.tracks[0]!.id,
          key: 60 + (beat % 12),
          velocity: 80,
          onsetTicks: beat * quarter,
          endTicks: beat * quarter + 9000,
          pass: 0,
        }),
      ),
    async engraveLive(_head, [part], { from, to }) {
      if (fails) throw new Error('no ink')
      asked.push({ from, notes: part!.notes.count })
      if (held) await new Promise<void>((resolve) => (held = resolve))
      return { from, to, svg: `<svg>${from}</svg>`, heightPx: 100, isAllNew: true }
    },
    problem: (error) => problems.push(error),
  })
  return {
    page,
    asked,
    problems,
    here,
    hold: () => (held = () => {}),
    letGo: () => held?.(),
    fail: (isFailing: boolean) => (fails = isFailing),
    lines: () => page.state.getState().lines.map(({ from }) => from),
    async standAt(ticks: number) {
      here.ticks = ticks
      await jest.advanceTimersByTimeAsync(200)
    },
  }
}

beforeEach(() => jest.useFakeTimers())
afterEach(() => jest.useRealTimers())

test('each line is written as it is played, and once more when the bar behind it is known', async () => {
  const { page, asked, lines, standAt } = pageAt()
  page.watch()
  for (let beat = 0; beat < 24; beat++) await standAt(beat * quarter + 100)
  expect(lines()).toEqual([0, 4])
  const ofFirst = asked.map(({ from }, index) => (from === 0 ? index : -1)).filter((index) => index >= 0)
  const firstOfSecond = asked.findIndex(({ from }) => from === 4)
  expect(ofFirst.at(-1)).toBeGreaterThan(firstOfSecond)
  expect(page.state.getState().lines[0]!.atTicks).toBeGreaterThanOrEqual(5 * bar)
  // What is read does not grow with the take: the bars of a line, and one before and behind.
  expect(Math.max(...asked.map(({ notes }) => notes))).toBeLessThanOrEqual(6 * 4)
  page.unwatch()
})

test('a machine that misses bars leaves no line as it was before its end', async () => {
  const { page, lines, standAt } = pageAt()
  page.watch()
  await standAt(2 * bar)
  await standAt(6 * bar)
  expect(lines()).toEqual([0, 4])
  expect(page.state.getState().lines[0]!.atTicks).toBe(6 * bar)
  page.unwatch()
})

test('what comes back when the recording has ended is not shown, in the next one neither', async () => {
  const { page, lines, standAt, hold, letGo, problems } = pageAt()
  page.watch()
  hold()
  await standAt(bar)
  page.clear()
  letGo()
  await jest.advanceTimersByTimeAsync(1)
  expect(lines()).toEqual([])
  expect(problems).toEqual([])
  page.unwatch()
})

test('a line that cannot be written is said once, and the next is tried', async () => {
  const { page, lines, standAt, fail, problems } = pageAt()
  page.watch()
  fail(true)
  await standAt(100)
  await jest.advanceTimersByTimeAsync(2000)
  expect(problems).toHaveLength(1)
  fail(false)
  await standAt(quarter + 100)
  expect(lines()).toEqual([0])
  page.unwatch()
})
