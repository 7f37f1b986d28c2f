import { type HeardPlace, Listening } from '@/core/capture/listening'
import type { LoopedTime } from '@/core/capture/passes'
import { type TakeEvents, TakeRecorder } from '@/core/capture/takeEvents'
import type { PlayedTo } from '@/core/capture/takeInfo'
import type { ClockPoint } from '@/core/capture/takePlacement'
import type { Milliseconds, Ticks } from '@/core/time/units'
import type { JournalTake } from '../journal/journalTake'
import type { EngineSetup, FromEngine, JournalWaits, SourceEvent, StreamCount } from '../protocol'
import { playedToFrom } from './playedTo'

/** Where takes are kept as they are played. */
export interface TakeJournal {
  begin(take: JournalTake): Promise<void>
  /** @returns the moment it was stored */
  append(
    projectId: string,
    takeSerial: number,
    sequence: number,
    events: TakeEvents,
    clockPoints: readonly ClockPoint[],
  ): Promise<Milliseconds>
  finish(take: JournalTake): Promise<void>
}

/** What could not be stored is tried again this often, until there is room. */
const retryEveryMs = 1000

/** An event is handed to the journal within this time; writing takes some more, on a busy machine as much again. */
const journalEveryMs = 60

/** What a busy page holds back of a take that has ended is waited for at most this long. */
const longestSettlingMs = 30_000

interface Recording {
  take: JournalTake & { readonly playedTo: PlayedTo }
  readonly recorder: TakeRecorder
  readonly clockPoints: ClockPoint[]
  journaledCount: number
  journaledClockPoints: number
  sequence: number
  /** When the oldest event came that is not in the journal yet, and the earliest time stamp of those. */
  oldestWaitingMs: Milliseconds | null
  earliestStampMs: Milliseconds
}

/** A take whose time is over, still waiting for what was played in it. */
interface Ending extends Recording {
  readonly endMs: Milliseconds
  readonly sinceMs: Milliseconds
}

/**
 * Keeps everything that arrives, as it arrives: into the take that is being recorded, and from there into the journal;
 * into what is remembered otherwise.
 */
export class Capture {
  private recording: Recording | null = null
  /** The earliest first. */
  private endings: Ending[] = []
  private readonly listening = new Listening()
  private readonly streams = new Map<string, StreamCount>()
  /** Whether what is played outside recording is remembered. */
  isListening = true
  private lastJournalMs = 0
  /** What could not be stored yet, in order. */
  private unstored: (() => Promise<void>)[] = []
  private isRetrying = false
  private lastRetryMs = 0
  private longestInEngineMs: Milliseconds = 0
  private longestFromSourceMs: Milliseconds = 0

  constructor(
    private readonly journal: TakeJournal,
    private readonly tell: (message: FromEngine) => void,
    private readonly nowMs: () => Milliseconds,
  ) {}

  /** Notes that can still become a take. */
  get listenedNotes(): number {
    return this.listening.noteCount
  }

  /** What was heard from every stream, recorded or not. */
  get streamCounts(): readonly StreamCount[] {
    return [...this.streams.values()]
  }

  get waits(): JournalWaits {
    const { longestInEngineMs, longestFromSourceMs } = this
    return { longestInEngineMs, longestFromSourceMs }
  }

  /** Something is still to be stored. */
  get isBusy(): boolean {
    return this.recording !== null || this.endings.length > 0 || this.unstored.length > 0
  }

  get isRecording(): boolean {
    return this.recording !== null
  }

  /**
   * @param placeOf where the transport has the event, while it plays: what is remembered is laid there
   */
  keep({ portId, timeMs, status, data1, data2 }: SourceEvent, placeOf?: () => HeardPlace | null): void {
    const recording = this.endings.find(({ endMs }) => timeMs <= endMs) ?? this.recording
    if ((status & 0xf0) === 0x90 && data2 > 0) this.count(portId, (status & 0x0f) + 1, recording !== null)
    if (recording) {
      recording.recorder.add(portId, timeMs, status, data1, data2)
      recording.oldestWaitingMs ??= this.nowMs()
      recording.earliestStampMs = Math.min(recording.earliestStampMs, timeMs)
    } else if (this.isListening) this.listening.add(portId, timeMs, status, data1, data2, placeOf)
  }

  private count(portId: string, channel: number, isRecorded: boolean): void {
    const address = `${channel} ${portId}`
    let stream = this.streams.get(address)
    if (!stream) {
      stream = { portId, channel, noteOns: 0, outside: 0 }
      this.streams.set(address, stream)
    }
    stream.noteOns++
    if (!isRecorded) stream.outside++
  }

  /** Begins a take; one that is still being recorded ends. */
  begin(take: Omit<Recording['take'], 'endMs'>, nowMs: Milliseconds): void {
    this.end(nowMs)
    this.recording = {
      take: { ...take, endMs: null },
      recorder: new TakeRecorder(),
      clockPoints: [],
      journaledCount: 0,
      journaledClockPoints: 0,
      sequence: 0,
      oldestWaitingMs: null,
      earliestStampMs: Number.POSITIVE_INFINITY,
    }
    const journalled = this.recording.take
    void this.store(() => this.journal.begin(journalled))
  }

  /**
   * The set-up was changed: where that is part of the take that goes on, the journal has it too.
   *
   * @param place where the piece is
   */
  setupChanged(setup: EngineSetup, place: () => Ticks): void {
    const { recording } = this
    if (!recording) return
    const played = playedToFrom(recording.take.playedTo, setup, place())
    if (played === recording.take.playedTo) return
    const take = { ...recording.take, playedTo: played }
    recording.take = take
    void this.store(() => this.journal.begin(take))
  }

  /** A point along the clock that is followed while recording. */
  keepClockPoint(point: ClockPoint): void {
    this.recording?.clockPoints.push(point)
  }

  /** What has been recorded so far. */
  recordedSoFar(): TakeEvents | null {
    return this.recording?.recorder.slice() ?? null
  }

  /** The loop of the take that is being recorded. */
  get loop(): LoopedTime | null {
    const take = this.recording?.take
    return take?.passMs ? { anchorMs: take.anchorMs, passMs: take.passMs, earlyMs: take.earlyMs } : null
  }

  /**
   * Ends the take, if one is being recorded. What was played before this moment and arrives later still belongs to it, until
   * the window says that it holds nothing back.
   */
  end(endMs: Milliseconds): void {
    if (!this.recording) return
    this.endings.push({ ...this.recording, endMs, sinceMs: this.nowMs() })
    const { takeSerial } = this.recording.take
    this.recording = null
    this.tell({ type: 'settle', takeSerial })
  }

  /** Nothing more is waited for. */
  settleAll(): void {
    for (const { take } of this.endings) this.settled(take.takeSerial)
  }

  /** A take that has ended is whole: it is handed over. */
  settled(takeSerial: number): void {
    const ending = this.endings.find(({ take }) => take.takeSerial === takeSerial)
    if (!ending) return
    this.writeJournal(ending)
    this.endings = this.endings.filter((each) => each !== ending)
    const { take, recorder, clockPoints, endMs } = ending
    void this.store(() => this.journal.finish({ ...take, endMs }))
    this.tell({ type: 'takeFinished', ...take, endMs, clockPoints, events: recorder.slice() })
  }

  /**
   * Makes what is remembered a take. What was played along to the piece lies where it was played; otherwise its first note
   * falls on the first downbeat. Everything else keeps its distance in time, at the tempo in force.
   */
  keepListened(projectId: string, takeSerial: number, played: PlayedTo): void {
    const { events, place } = this.listening.take()
    if (events.count === 0) return
    const take = {
      projectId,
      takeSerial,
      startTicks: place?.ticks ?? 0,
      endTicks: null,
      anchorMs: place?.timeMs ?? events.timesMs[0]!,
      endMs: events.timesMs[events.count - 1]!,
      earlyMs: 0,
      passMs: null,
      playedTo: place ? { ...played, tempos: [...place.tempos] } : played,
    }
    void this.store(() =>
      this.journal.append(projectId, takeSerial, 0, events, []).then(() => this.journal.finish(take)),
    )
    this.tell({ type: 'takeFinished', ...take, clockPoints: [], events })
  }

  forgetListened(): void {
    this.listening.clear()
  }

  /** To be called often: writes to the journal when it is time. */
  tick(nowMs: Milliseconds): void {
    if (this.unstored.length > 0 && !this.isRetrying && nowMs - this.lastRetryMs >= retryEveryMs)
      void this.retry(nowMs)
    for (const { take, sinceMs } of this.endings)
      if (nowMs - sinceMs > longestSettlingMs) this.settled(take.takeSerial)
    if (nowMs - this.lastJournalMs < journalEveryMs) return
    this.lastJournalMs = nowMs
    for (const ending of this.endings) this.writeJournal(ending)
    if (this.recording) this.writeJournal(this.recording)
  }

  private writeJournal(recording: Recording): void {
    const clockPoints = recording.clockPoints.slice(recording.journaledClockPoints)
    if (recording.recorder.count === recording.journaledCount && clockPoints.length === 0) return
    const events = recording.recorder.slice(recording.journaledCount)
    recording.journaledCount = recording.recorder.count
    recording.journaledClockPoints = recording.clockPoints.length
    const { projectId, takeSerial } = recording.take
    const waitingSinceMs = recording.oldestWaitingMs ?? this.nowMs()
    const stampMs = recording.earliestStampMs
    recording.oldestWaitingMs = null
    recording.earliestStampMs = Number.POSITIVE_INFINITY
    const sequence = recording.sequence++
    void this.store(async () => {
      const storedMs = await this.journal.append(projectId, takeSerial, sequence, events, clockPoints)
      this.longestInEngineMs = Math.max(this.longestInEngineMs, storedMs - waitingSinceMs)
      this.longestFromSourceMs = Math.max(this.longestFromSourceMs, storedMs - stampMs)
    })
  }

  /** Stores something; where that fails, it is said, and tried again until it succeeds. */
  private async store(work: () => Promise<void>): Promise<void> {
    try {
      await work()
    } catch (error) {
      const { name, message } = error as Partial<Error>
      if (this.unstored.length === 0)
        this.tell({
          type: 'journalFailed',
          isFull: name === 'QuotaExceededError',
          reason: String(message ?? error),
        })
      this.unstored.push(work)
    }
  }

  private async retry(nowMs: Milliseconds): Promise<void> {
    this.lastRetryMs = nowMs
    this.isRetrying = true
    try {
      while (this.unstored.length > 0) {
        await this.unstored[0]!()
        this.unstored.shift()
      }
    } catch {
      // It has been said; the next try comes by itself.
      return
    } finally {
      this.isRetrying = false
    }
    this.tell({ type: 'journalCaughtUp' })
  }
}
