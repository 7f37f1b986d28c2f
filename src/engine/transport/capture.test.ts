import type { TakeEvents } from '@/core/capture/takeEvents'
import type { FromEngine } from '../protocol'
import { Capture } from './capture'

/** A journal on a full disk until there is room, and a capture that writes to it. */
function onAFullDisk() {
  const disk = { isFull: true }
  const stored = new Map<number, TakeEvents>()
  const finished: (number | null)[] = []
  const told: FromEngine['type'][] = []
  const guard = async () => {
    if (disk.isFull) throw Object.assign(new Error('full'), { name: 'QuotaExceededError' })
  }
  const capture = new Capture(
    {
      begin: guard,
      append: async (_project, _take, sequence, events) => {
        await guard()
        stored.set(sequence, events)
        return 0
      },
      finish: async (take) => {
        await guard()
        finished.push(take.endMs)
      },
    },
    (message) => told.push(message.type),
    () => 0,
  )
  return { disk, stored, finished, told, capture }
}

const take = {
  projectId: 'p',
  takeSerial: 1,
  startTicks: 0,
  endTicks: null,
  anchorMs: 0,
  earlyMs: 0,
  passMs: null,
  playedTo: { tempos: [], listeners: [], compensations: [], chains: [] },
}

const settle = () => new Promise((done) => setTimeout(done, 0))

test('what does not fit is said once, kept, and stored in full when there is room', async () => {
  const { disk, stored, finished, told, capture } = onAFullDisk()
  capture.begin(take, 0)
  for (let timeMs = 0; timeMs < 1000; timeMs += 100) {
    capture.keep({ portId: 'a', timeMs, status: 0x90, data1: 60 + timeMs / 100, data2: 80 })
    capture.tick(timeMs)
    await settle()
  }
  capture.end(1000)
  capture.settled(1)
  await settle()
  expect(told.filter((type) => type === 'journalFailed')).toHaveLength(1)
  expect(stored.size).toBe(0)
  capture.tick(2100)
  await settle()
  expect(told).not.toContain('journalCaughtUp')
  disk.isFull = false
  capture.tick(3200)
  await settle()
  expect(told.at(-1)).toBe('journalCaughtUp')
  expect(finished).toEqual([1000])
  const keys = [...stored.entries()]
    .sort(([a], [b]) => a - b)
    .flatMap(([, events]) => [...events.data1].slice(0, events.count))
  expect(keys).toEqual([60, 61, 62, 63, 64, 65, 66, 67, 68, 69])
})
