import type { ReceiverReport } from '@/core/programs/receiver/report'
import { emptyProject, newClip, newTrack } from '@/core/project/create'
import type { Project } from '@/core/project/schema'
import { noteAt } from '@/core/project/trackWith.testing'
import type { PlainParts } from '@/core/project/transferring'
import { epochNowMs } from '@/engine/clock'
import type { SourceEvent, TransportState } from '@/engine/protocol'
import { createHearing } from './hearing'
import { createProjectStore } from './projectStore'
import { createTransfers, type TransferOrder } from './transfers'

const flute = [noteAt(1, 0, 72), noteAt(2, 1, 74)]
const harp = [noteAt(3, 0, 48)]
const piece = [
  { name: 'Flute', notes: flute },
  { name: 'Harp', notes: harp },
].reduce<Project>(
  (project, { name, notes }) =>
    newTrack(project, {
      name,
      instrument: { kind: 'program', program: 73 },
      clips: [newClip(`clip ${name}`, 'x', notes)],
    }).project,
  { ...emptyProject('p', 'Piece', 0), nextSerial: 100 },
)
const trackIds = piece.tracks.map(({ id }) => id)
const plain: PlainParts = new Map([
  [trackIds[0]!, flute],
  [trackIds[1]!, harp],
])
const order: TransferOrder = {
  portId: 'cable:Quay',
  trackIds,
  manner: 'written',
  dividesStaves: true,
  withClock: true,
  countInBars: 0,
  click: null,
  pauseMs: null,
  backOn: null,
}

/** Transfers beside an engine that plays at once to its end, or until it is stopped. */
function bench({ playsOn = false } = {}) {
  const store = createProjectStore(piece)
  const hearing = createHearing({
    store,
    onPage: () => () => undefined,
    sounds: async () => plain,
    tell: () => undefined,
    problem: (error) => {
      throw error
    },
  })
  const done: string[] = []
  const asked: number[] = []
  let answers: { reports: ReceiverReport[]; unknown: number } = { reports: [], unknown: 0 }
  let listener: ((event: SourceEvent) => void) | null = null
  const tell = (transport: TransportState) => transfers.onTransport(transport)
  const stopped = () => tell({ state: 'stopped', ticks: 0 })
  const transfers = createTransfers({
    store,
    hearing,
    sources: {
      divert(_, to) {
        listener = to
        return () => {
          listener = null
          return true
        }
      },
    },
    async play() {
      const sent = hearing.told(piece).tracks.filter(({ sendTo }) => sendTo !== null)
      done.push(`play ${sent.map(({ name }) => name).join(', ')}`)
      tell({
        state: 'playing',
        fromTicks: 0,
        startedAtMs: epochNowMs() - 60_000,
        loop: null,
        line: null,
        tempos: [],
      })
      listener?.({ portId: 'in', timeMs: epochNowMs() - 60_000, status: 0x90, data1: 72, data2: 80 })
      if (!playsOn) stopped()
    },
    stop() {
      done.push('stop')
      stopped()
    },
    async reportsOf(_, sinceMs) {
      asked.push(sinceMs)
      // The piece is heard as usual again before anybody is asked.
      done.push(`ask ${hearing.state.getState().transfer === null}`)
      return answers
    },
    plain: async () => plain,
  })
  return {
    transfers,
    done,
    asked,
    stopped,
    answer(next: typeof answers) {
      answers = next
    },
    isDiverted: () => listener !== null,
  }
}

test('parts go together, and what is reported since is compared', async () => {
  const { transfers, done, asked, answer } = bench()
  const written = [
    { channel: 1, key: 72, onsetTicks: 0, durationTicks: 10_080, staff: 0 },
    { channel: 1, key: 74, onsetTicks: 10_080, durationTicks: 10_080, staff: 0 },
  ]
  const leftOut = { 'too soft': 0, 'too short': 0, 'no staff for its channel': 1 }
  answer({ reports: [{ program: 'R', staves: ['One'], written, leftOut }], unknown: 1 })
  const beforeMs = epochNowMs()
  await transfers.send(order)
  expect(done).toEqual(['play Flute, Harp', 'ask true'])
  expect(asked[0]).toBeGreaterThanOrEqual(beforeMs)
  const [sent] = transfers.state.getState().results
  expect(sent).toMatchObject({ endedAtTicks: null, unknownAnswers: 1, back: null })
  expect(
    sent!.written[0]!.arrived.lines.map(({ name, sent: count, written: there }) => [name, count, there]),
  ).toEqual([
    ['Flute', 2, 2],
    ['Harp', 1, 0],
  ])
  expect(transfers.state.getState().doing).toBe('nothing')
})

test('by turns, each part is sent alone, with a pause that can be ended', async () => {
  const { transfers, done } = bench()
  await transfers.send({ ...order, pauseMs: 1 })
  expect(done).toEqual(['play Flute', 'ask true', 'play Harp', 'ask true'])
  const sending = transfers.send({ ...order, pauseMs: 600_000 })
  while (transfers.state.getState().doing !== 'pausing')
    await new Promise((resolve) => setTimeout(resolve, 1))
  transfers.end()
  await sending
  expect(done.slice(4)).toEqual(['play Flute', 'ask true'])
})

test('ended before it has begun, nothing is played; ended while the sound starts, it is stopped', async () => {
  const early = bench()
  const sending = early.transfers.send(order)
  early.transfers.end()
  await sending
  expect(early.done).toEqual([])

  const late = bench({ playsOn: true })
  const started = late.transfers.send(order)
  while (late.done.length === 0) await Promise.resolve()
  late.transfers.end()
  await started
  expect(late.done).toEqual(['play Flute, Harp', 'stop', 'ask true'])
  expect(late.transfers.state.getState().results[0]!.endedAtTicks).not.toBeNull()
})

test('notes that somebody else sends over the same cable meanwhile are told, and only those', async () => {
  const { transfers, stopped } = bench({ playsOn: true })
  const heard = async (...names: string[]) => {
    const sending = transfers.send(order)
    while (transfers.state.getState().doing !== 'sending' || !transfers.state.getState().trackIds.length)
      await Promise.resolve()
    await new Promise((resolve) => setTimeout(resolve, 5))
    for (const name of names) transfers.onShared(name)
    stopped()
    await sending
    return transfers.state.getState().results[0]!.isMixed
  }
  transfers.onShared('Quay')
  expect(await heard()).toBe(false)
  expect(await heard('Mole')).toBe(false)
  expect(await heard('Mole', 'Quay')).toBe(true)
  expect(await heard()).toBe(false)
})

test('a second press while one is sent does nothing', async () => {
  const { transfers, done } = bench()
  await Promise.all([transfers.send(order), transfers.send(order)])
  expect(done).toEqual(['play Flute, Harp', 'ask true'])
})

test('what comes back on an input is listened to for that time, and compared', async () => {
  const { transfers, isDiverted } = bench()
  await transfers.send({ ...order, portId: 'out', backOn: 'in', trackIds: [trackIds[0]!] })
  expect(isDiverted()).toBe(false)
  expect(transfers.state.getState().results[0]).toMatchObject({
    written: [],
    back: { sent: 2, back: 1, more: 0 },
  })
})
