import { type BenchWindow, bringIn, openPage, withBrowser } from './browser'
import { atMost, type Figure, percentile } from './figure'
import { performedPiece } from './pieces'

interface Heard {
  readonly timeMs: number
  readonly arrivedMs: number
  readonly bytes: readonly number[]
}
type ReceivingWindow = typeof globalThis & { heard: Heard[] }

const seconds = 40

/**
 * Sixteen parts sent over a cable, as they are written, while the page that sends is busy for half a second at a time: for each
 * note-on, the moment at which a receiver in another tab can have it (its stamp, or its arrival where that is later) against the
 * moment at which it is due by the tempo of the piece.
 */
export async function liveTransfer(): Promise<Figure[]> {
  const { heard, due } = await withBrowser([], async (browser) => {
    const page = await openPage(browser)
    await bringIn(page, performedPiece(16, 40).bytes, 'tracks')
    const other = await page.context().newPage()
    await other.goto(new URL('/programs/receiver?cable=Elsewhere', page.url()).href)
    await other.evaluate(() => {
      const window = globalThis as ReceivingWindow
      window.heard = []
      // In a thread of its own, as the receiver has it: the pages of two tabs may share one.
      const reader = `new BroadcastChannel('unbroken-cable Quayside').onmessage = ({ data }) => {
        const arrivedMs = performance.timeOrigin + performance.now()
        if (data.type === 'events')
          postMessage(data.events.map(({ timeMs, bytes }) => ({ timeMs, bytes, arrivedMs })))
      }`
      const address = URL.createObjectURL(new Blob([reader], { type: 'text/javascript' }))
      new Worker(address).onmessage = ({ data }) => window.heard.push(...data)
    })
    await page.bringToFront()
    const due = await page.evaluate(async (lastsSeconds) => {
      const session = (globalThis as BenchWindow).unbrokenSession
      const wait = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))
      session.store.getState().apply('drums', (before) => ({
        ...before,
        tracks: before.tracks.map((track, index) =>
          index === before.tracks.length - 1 ? { ...track, instrument: { kind: 'drums' as const } } : track,
        ),
      }))
      const { project } = session.store.getState()
      // The page is written first, as it is when somebody comes to Deliver.
      await session.engraving.plain()
      const sending = session.transfers.send({
        portId: 'cable:Quayside',
        trackIds: project.tracks.map(({ id }) => id),
        manner: 'written',
        dividesStaves: false,
        withClock: true,
        countInBars: 0,
        click: null,
        pauseMs: null,
        backOn: null,
      })
      while (session.live.getState().transport.state !== 'playing') await wait(10)
      const transport = session.live.getState().transport
      const startedAtMs = 'startedAtMs' in transport ? transport.startedAtMs : Number.NaN
      const told = session.hearingPage.told(project)
      const until = performance.now() + lastsSeconds * 1000
      while (performance.now() < until) {
        const busyUntil = performance.now() + 500
        while (performance.now() < busyUntil);
        await wait(30)
      }
      const { tempoBpm } = told.tempos[0]!
      session.stop()
      await sending
      return told.tracks.flatMap((track) =>
        track.clips.flatMap((clip) =>
          clip.notes.map(({ onsetTicks, key }) => ({
            timeMs: startedAtMs + (onsetTicks / 10_080) * (60_000 / tempoBpm),
            channel: track.sendTo?.channel ?? 0,
            key,
          })),
        ),
      )
    }, seconds)
    return { heard: await other.evaluate(() => (globalThis as ReceivingWindow).heard), due }
  })
  const waiting = new Map<string, number[]>()
  for (const { timeMs, channel, key } of [...due].sort((a, b) => a.timeMs - b.timeMs)) {
    const address = `${channel} ${key}`
    waiting.set(address, [...(waiting.get(address) ?? []), timeMs])
  }
  const ons = heard
    .filter(({ bytes }) => (bytes[0]! & 0xf0) === 0x90 && bytes[2]! > 0)
    .sort((a, b) => a.timeMs - b.timeMs)
  const errors = ons.map(({ timeMs, arrivedMs, bytes }) => {
    const dueMs = waiting.get(`${(bytes[0]! & 0x0f) + 1} ${bytes[1]}`)?.shift()
    return Math.abs(Math.max(timeMs, arrivedMs) - (dueMs ?? Number.NaN))
  })
  const channels = new Set(ons.map(({ bytes }) => bytes[0]! & 0x0f)).size
  const late = ons.filter(({ timeMs, arrivedMs }) => arrivedMs > timeMs).length
  return [
    atMost(
      `live transfer: onset at the receiver against schedule, ${channels} channels, ${ons.length} notes in ${seconds} s, page busy for 500 ms at a time, 99th percentile (${late} arrived after their moment; worst ${Math.max(...errors).toFixed(2)} ms)`,
      percentile(errors, 0.99),
      'ms',
      2,
    ),
  ]
}
