import { expose } from 'comlink'
import { ClockFollower, type FollowedClock, isClockStatus } from '@/core/midi/clock'
import { parseChannelMessage } from '@/core/midi/message'
import type { WrittenMusic } from '@/core/notation/writtenMusic/writtenMusic'
import { Receiver, type ReceiverState } from '@/core/programs/receiver/receiver'
import { defaultReceiver, type ReceiverSettings } from '@/core/programs/receiver/receiverSettings'
import { type LeftOut, meterOf, type TakenDown } from '@/core/programs/receiver/takeDown'
import { writtenDown } from '@/core/programs/receiver/writtenDown'
import { type Milliseconds, TICKS_PER_QUARTER } from '@/core/time/units'
import { type CableEvent, CableReader } from '../cables/cable'
import { epochNowMs } from '../clock'

/** What came on one channel. */
export interface ChannelHeard {
  readonly channel: number
  readonly noteOns: number
  readonly others: number
  readonly down: readonly number[]
  readonly lastKey: number
}

/** A line of the receiver's page: bars by index, `to` not included. */
export interface ReceiverLine {
  readonly from: number
  readonly to: number
  /** Changes whenever anything in it does. */
  readonly content: string
}

/** Everything the receiver's page shows. */
export interface ReceiverPicture {
  readonly state: ReceiverState
  /** Bar that is written or counted in; below 1 before the first. */
  readonly bar: number | null
  readonly channels: readonly ChannelHeard[]
  readonly clock: FollowedClock
  readonly clocks: number
  readonly parts: TakenDown['parts']
  readonly noteCount: number
  readonly leftOut: Readonly<Record<LeftOut, number>>
  readonly lines: readonly ReceiverLine[]
}

const programName = 'Receiver'
const barsToLine = 4

interface Heard {
  noteOns: number
  others: number
  readonly down: Set<number>
  lastKey: number
}

const receiver = new Receiver(defaultReceiver)
let reader: CableReader | null = null
let channels = new Map<number, Heard>()
let follower = new ClockFollower()
let clocks = 0
/** Everything that was taken down, until something changes it. */
let known: TakenDown | null = null

function receive(events: readonly CableEvent[]): void {
  for (const { timeMs, bytes } of events) {
    receiver.receive(timeMs, bytes)
    const [status = 0, data1 = 0, data2 = 0] = bytes
    if (isClockStatus(status)) {
      if (status === 0xf8) clocks++
      follower.receive(status, data1, data2, timeMs)
    } else count(status, data1, data2)
  }
  known = null
}

function count(status: number, data1: number, data2: number): void {
  const message = parseChannelMessage(status, data1, data2)
  if (!message) return
  const heard = channels.get(message.channel) ?? { noteOns: 0, others: 0, down: new Set(), lastKey: -1 }
  channels.set(message.channel, heard)
  if (message.type === 'noteOn') {
    heard.noteOns++
    heard.lastKey = message.key
    heard.down.add(message.key)
  } else if (message.type === 'noteOff') heard.down.delete(message.key)
  else heard.others++
}

function written(): TakenDown {
  // While it writes, what is held grows longer.
  if (known && receiver.doing.doing !== 'writing') return known
  known = receiver.written(epochNowMs())
  return known
}

function linesOf({ notes, parts, threes }: TakenDown): ReceiverLine[] {
  const meter = meterOf(receiver.set)
  const lines: { from: number; to: number; content: string }[] = []
  const end = notes.reduce((latest, { endTicks }) => Math.max(latest, endTicks), 0)
  if (end === 0) return []
  const last = meter.measureAt(Math.max(0, end - 1)).index
  const set = JSON.stringify([parts, receiver.set, receiver.tempoBpm])
  for (let from = 0; from <= last; from += barsToLine) {
    const to = from + barsToLine
    const [start, stop] = [meter.measure(from).startTicks, meter.measure(to).startTicks]
    const within = notes.filter(({ onsetTicks, endTicks }) => onsetTicks < stop && endTicks > start)
    const beats = [...threes].map(([staff, own]) => [
      staff,
      ...[...own].filter((beat) => beat * TICKS_PER_QUARTER >= start && beat * TICKS_PER_QUARTER < stop),
    ])
    const content = `${set} ${beats.join(' ')} ${within
      .map(({ key, onsetTicks, endTicks, partIndex, staff }) => [key, onsetTicks, endTicks, partIndex, staff])
      .join(' ')}`
    lines.push({ from, to: Math.min(to, last + 1), content })
  }
  return lines
}

const api = {
  connect(cable: string): void {
    reader?.close()
    clear()
    reader = new CableReader(cable, 'Stand-in receiver', receive, () =>
      receiver.report(programName, epochNowMs()),
    )
  },
  setUp(settings: ReceiverSettings): void {
    receiver.setUp(settings)
    known = null
  },
  record: () => receiver.record(epochNowMs()),
  stop: () => receiver.stop(epochNowMs()),
  clear,
  picture(): ReceiverPicture {
    const now: Milliseconds = epochNowMs()
    const down = written()
    const ticks = receiver.ticksAt(now)
    return {
      state: receiver.doing,
      bar: ticks === null ? null : meterOf(receiver.set).measureAt(ticks).index + 1,
      channels: [...channels]
        .sort(([a], [b]) => a - b)
        .map(([channel, heard]) => ({ channel, ...heard, down: [...heard.down] })),
      clock: follower.at(now),
      clocks,
      parts: down.parts,
      noteCount: down.notes.length,
      leftOut: down.leftOut,
      lines: linesOf(down),
    }
  },
  /** Some bars as they are written now. */
  music: (from: number, to: number): WrittenMusic =>
    writtenDown(written(), { ...receiver.set, tempoBpm: receiver.tempoBpm }, { from, to }),
}

/** Everything that was written and counted is let go. */
function clear(): void {
  receiver.clear()
  channels = new Map()
  follower = new ClockFollower()
  clocks = 0
  known = null
}

export type ReceiverApi = typeof api
expose(api)
