import { clockStatus, isClockStatus, songPositionTicks } from '../../midi/clock'
import { parseChannelMessage } from '../../midi/message'
import { type Milliseconds, TICKS_PER_QUARTER, type Ticks } from '../../time/units'
import { ClockPlaces } from './clockPlaces'
import type { ReceiverSettings } from './receiverSettings'
import type { ReceiverReport } from './report'
import { type ArrivedNote, countedByReason, meterOf, type TakenDown, takeDown } from './takeDown'

/** What the receiver is doing. */
export type ReceiverState =
  | { readonly doing: 'nothing' }
  | { readonly doing: 'waiting'; readonly waitsFor: ReceiverSettings['begins'] }
  /** `fromMs`: the moment of the first bar, to come while it counts in; null where the clock tells. */
  | { readonly doing: 'writing'; readonly fromMs: Milliseconds | null }

interface Raw {
  readonly channel: number
  readonly key: number
  readonly velocity: number
  readonly onMs: Milliseconds
  offMs: Milliseconds | null
}

/** How a recording lies in time. */
interface Recording {
  readonly notes: Raw[]
  /** The moment of the first bar, where no clock is followed. */
  readonly startMs: Milliseconds | null
  readonly clock: ClockPlaces | null
  endMs: Milliseconds | null
}

/**
 * A small program that writes down what arrives on a cable while it records. Every recording is kept: a further one is written beside
 * what is there, never in place of it.
 */
export class Receiver {
  private state: ReceiverState = { doing: 'nothing' }
  private readonly recordings: Recording[] = []
  /** Of the run that goes on. */
  private clock: ClockPlaces | null = null
  /** Where the clock goes on from. */
  private positionTicks: Ticks = 0

  constructor(private settings: ReceiverSettings) {
    this.beReady()
  }

  get doing(): ReceiverState {
    return this.state
  }

  get set(): ReceiverSettings {
    return this.settings
  }

  /** Everything that has arrived is written anew by these. */
  setUp(settings: ReceiverSettings): void {
    const isOther = settings.begins !== this.settings.begins
    this.settings = settings
    if (isOther && this.state.doing !== 'writing') this.beReady()
  }

  /** What begins by itself is waited for; a count-in is begun by hand. */
  private beReady(): void {
    const { begins } = this.settings
    this.state = begins === 'with the clock' ? { doing: 'waiting', waitsFor: begins } : { doing: 'nothing' }
  }

  /** Gets ready, or begins after the count-in. */
  record(nowMs: Milliseconds): void {
    this.stop(nowMs)
    const { begins, countInBars } = this.settings
    if (begins !== 'after a count-in') {
      this.state = { doing: 'waiting', waitsFor: begins }
      return
    }
    const barTicks = meterOf(this.settings).measure(0).lengthTicks
    this.begin(nowMs + ((barTicks * countInBars) / TICKS_PER_QUARTER) * this.ownMsPerQuarter)
  }

  /** Ends the recording, and what is still held in it. */
  stop(nowMs: Milliseconds): void {
    const recording = this.current
    if (recording) recording.endMs = nowMs
    this.state = { doing: 'nothing' }
  }

  /** Lets go of everything that was written. */
  clear(): void {
    this.recordings.length = 0
    this.beReady()
  }

  receive(timeMs: Milliseconds, bytes: readonly number[]): void {
    const [status = 0, data1 = 0, data2 = 0] = bytes
    if (isClockStatus(status)) {
      this.receiveClock(status, data1, data2, timeMs)
      return
    }
    const message = parseChannelMessage(status, data1, data2)
    if (message?.type !== 'noteOn' && message?.type !== 'noteOff') return
    const { channel, key } = message
    if (channel === this.settings.clickChannel) return
    if (message.type === 'noteOn') {
      if (this.state.doing === 'waiting' && this.state.waitsFor === 'with the first note') this.begin(timeMs)
      const recording = this.current
      if (!recording) return
      end(recording, channel, key, timeMs)
      recording.notes.push({ channel, key, velocity: message.velocity, onMs: timeMs, offMs: null })
    } else if (this.recordings.length > 0) end(this.recordings.at(-1)!, channel, key, timeMs)
  }

  private receiveClock(status: number, data1: number, data2: number, timeMs: Milliseconds): void {
    switch (status) {
      case clockStatus.songPosition:
        this.positionTicks = songPositionTicks(data1, data2)
        break
      case clockStatus.start:
        this.positionTicks = 0
        this.run()
        break
      case clockStatus.continue:
        this.run()
        break
      case clockStatus.clock:
        this.clock?.clock(timeMs)
        break
      case clockStatus.stop:
        if (this.clock) this.positionTicks = this.clock.endTicks
        this.clock = null
        if (!this.current?.clock) break
        this.current.endMs = timeMs
        // Ready for what is sent next.
        this.state = { doing: 'waiting', waitsFor: 'with the clock' }
        break
    }
  }

  private run(): void {
    this.clock = new ClockPlaces(this.positionTicks)
    const isWaiting = this.state.doing === 'waiting' && this.state.waitsFor === 'with the clock'
    // A run within a run goes on elsewhere: a recording of its own.
    if (isWaiting || this.current?.clock) this.begin(null)
  }

  /** @param startMs the moment of the first bar; null: the clock tells places */
  private begin(startMs: Milliseconds | null): void {
    this.recordings.push({ notes: [], startMs, clock: startMs === null ? this.clock : null, endMs: null })
    this.state = { doing: 'writing', fromMs: startMs }
  }

  private get current(): Recording | null {
    return this.state.doing === 'writing' ? (this.recordings.at(-1) ?? null) : null
  }

  private get ownMsPerQuarter(): Milliseconds {
    return 60_000 / this.settings.tempoBpm
  }

  private arrivedIn(recording: Recording, index: number): ArrivedNote[] {
    const ticksAt = (ms: Milliseconds): Ticks | null =>
      recording.clock
        ? recording.clock.ticksAt(ms)
        : ((ms - recording.startMs!) / this.ownMsPerQuarter) * TICKS_PER_QUARTER
    // What is a little early is of the first beat.
    const early = -TICKS_PER_QUARTER / 4
    return recording.notes.flatMap(({ onMs, offMs, ...note }): ArrivedNote[] => {
      const onsetTicks = ticksAt(onMs)
      if (onsetTicks === null || onsetTicks < early) return []
      const endMs = offMs ?? recording.endMs
      const endTicks = endMs === null ? null : ticksAt(endMs)
      return [
        {
          ...note,
          onMs,
          onsetTicks,
          endTicks,
          lengthMs: endMs === null ? null : endMs - onMs,
          recording: index,
        },
      ]
    })
  }

  /** Everything as it is written now. */
  written(nowMs: Milliseconds): TakenDown {
    const arrived = this.recordings.flatMap((recording, index) => this.arrivedIn(recording, index))
    return takeDown(arrived, this.settings, this.msPerQuarter, Math.max(0, this.ticksAt(nowMs) ?? 0))
  }

  /** The place in its music; null while it does not write. */
  ticksAt(timeMs: Milliseconds): Ticks | null {
    const recording = this.current
    if (!recording) return null
    if (recording.clock) return recording.clock.ticksAt(timeMs)
    return ((timeMs - recording.startMs!) / this.ownMsPerQuarter) * TICKS_PER_QUARTER
  }

  private get msPerQuarter(): Milliseconds {
    return this.recordings.at(-1)?.clock?.msPerQuarter ?? this.ownMsPerQuarter
  }

  /** Of its music: that of the clock as it began, or its own. */
  get tempoBpm(): number {
    const followed = this.recordings[0]?.clock?.firstMsPerQuarter
    return followed ? Math.round(60_000 / followed) : this.settings.tempoBpm
  }

  /**
   * What became of the notes that have come since a moment, by their stamps: also of those that stood there already.
   *
   * @param sinceMs that of the sender's beginning
   */
  report(program: string, nowMs: Milliseconds, sinceMs: Milliseconds): ReceiverReport {
    const { parts, notes, again, leftOut } = this.written(nowMs)
    const { 'written already': _, ...unwritten } = countedByReason(
      leftOut.filter(({ onMs }) => onMs >= sinceMs),
    )
    const firstStaff = parts.map((_, index) =>
      parts.slice(0, index).reduce((sum, { staves }) => sum + staves.length, 0),
    )
    return {
      program,
      staves: parts.flatMap(({ name, staves }) =>
        staves.map((_, index) =>
          staves.length === 1 ? name : `${name}, ${index === 0 ? 'upper' : 'lower'}`,
        ),
      ),
      written: [...notes, ...again].flatMap(
        ({ channel, key, onsetTicks, endTicks, partIndex, staff, onMs }) =>
          onMs >= sinceMs
            ? [
                {
                  channel,
                  key,
                  onsetTicks: Math.round(onsetTicks),
                  durationTicks: Math.max(1, Math.round(endTicks - onsetTicks)),
                  staff: firstStaff[partIndex]! + staff - 1,
                },
              ]
            : [],
      ),
      leftOut: unwritten,
    }
  }
}

function end({ notes }: Recording, channel: number, key: number, timeMs: Milliseconds): void {
  const open = notes.findLast((note) => note.channel === channel && note.key === key && note.offMs === null)
  if (open) open.offMs = timeMs
}
