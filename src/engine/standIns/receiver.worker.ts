import { expose } from 'comlink'
import { ClockFollower, type FollowedClock, isClockStatus } from '@/core/midi/clock'
import { parseChannelMessage } from '@/core/midi/message'
import type { WrittenMusic } from '@/core/notation/writtenMusic/writtenMusic'
import { Receiver, type ReceiverState } from '@/core/programs/receiver/receiver'
import { defaultReceiver, type ReceiverSettings } from '@/core/programs/receiver/receiverSettings'
import { countedByReason, type LeftOut, meterOf, type TakenDown } from '@/core/programs/receiver/takeDown'
import { writtenDown } from '@/core/programs/receiver/writtenDown'
import { type Milliseconds, TICKS_PER_QUARTER, type Ticks } from '@/core/time/units'
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
  readonly content: number
}

/** Everything the receiver's page shows. */
export interface ReceiverPicture {
  readonly state: ReceiverState
  /** Bar that is written or counted in; below 1 before the first. */
  readonly bar: number | null
  readonly channels: readonly ChannelHeard[]
  readonly clock: FollowedClock
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
/** Everything that was taken down, and its lines, until something changes them. */
let known: { readonly down: TakenDown; readonly lines: readonly ReceiverLine[] } | null = null

function receive(events: readonly CableEvent[]): void {
  for (const { timeMs, bytes } of events) {
    receiver.receive(timeMs, bytes)
    const [status = 0, data1 = 0, data2 = 0] = bytes
    if (isClockStatus(status)) {
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

function written() {
  // While it writes, what is held grows longer.
  if (known && receiver.doing.doing !== 'writing') return known
  const down = receiver.written(epochNowMs())
  known = { down, lines: linesOf(down) }
  return known
}

/** The lines of what was taken down, each with a number that changes whenever anything in it does. */
function linesOf({ notes, parts, threes }: TakenDown): readonly ReceiverLine[] {
  const meter = meterOf(receiver.set)
  const lineAt = (ticks: Ticks) => Math.floor(meter.measureAt(ticks).index / barsToLine)
  const end = notes.reduce((latest, { endTicks }) => Math.max(latest, endTicks), 0)
  if (end === 0) return []
  const bars = meter.measureAt(end - 1).index + 1
  const set = mixedText(0, JSON.stringify([parts, receiver.set, receiver.tempoBpm]))
  const contents = Array.from({ length: Math.ceil(bars / barsToLine) }, () => set)
  for (const { key, onsetTicks, endTicks, partIndex, staff } of notes)
    for (let line = lineAt(onsetTicks); line <= lineAt(endTicks - 1); line++)
      for (const fact of [key, onsetTicks, endTicks, partIndex, staff])
        contents[line] = mixed(contents[line]!, fact)
  for (const [staff, beats] of threes)
    for (const beat of beats) {
      const line = lineAt(beat * TICKS_PER_QUARTER)
      if (line < contents.length) contents[line] = mixedText(mixed(contents[line]!, beat), staff)
    }
  return contents.map((content, line) => ({
    from: line * barsToLine,
    to: Math.min(bars, (line + 1) * barsToLine),
    content,
  }))
}

/** One more number in a fingerprint of 32 bits. (FNV-1a, G. Fowler, L. C. Noll and K.-P. Vo.) */
function mixed(fingerprint: number, fact: number): number {
  return Math.imul(fingerprint ^ fact, 0x01000193) >>> 0
}

function mixedText(fingerprint: number, text: string): number {
  let all = fingerprint
  for (let index = 0; index < text.length; index++) all = mixed(all, text.charCodeAt(index))
  return all
}

const api = {
  connect(cable: string): void {
    reader?.close()
    clear()
    reader = new CableReader(cable, 'Stand-in receiver', receive, (sinceMs) =>
      receiver.report(programName, epochNowMs(), sinceMs),
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
    const { down, lines } = written()
    const ticks = receiver.ticksAt(now)
    return {
      state: receiver.doing,
      bar: ticks === null ? null : meterOf(receiver.set).measureAt(ticks).index + 1,
      channels: [...channels]
        .sort(([a], [b]) => a - b)
        .map(([channel, heard]) => ({ channel, ...heard, down: [...heard.down] })),
      clock: follower.at(now),
      parts: down.parts,
      noteCount: down.notes.length,
      leftOut: countedByReason(down.leftOut),
      lines,
    }
  },
  /** Some bars as they are written now. */
  music: (from: number, to: number): WrittenMusic =>
    writtenDown(written().down, { ...receiver.set, tempoBpm: receiver.tempoBpm }, { from, to }),
}

/** Everything that was written and counted is let go. */
function clear(): void {
  receiver.clear()
  channels = new Map()
  follower = new ClockFollower()
  known = null
}

export type ReceiverApi = typeof api
expose(api)
