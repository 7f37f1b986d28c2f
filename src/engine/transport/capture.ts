import { Listening } from '@/core/capture/listening'
import { type TakeEvents, TakeRecorder } from '@/core/capture/takeEvents'
import type { Milliseconds, Ticks } from '@/core/time/units'
import type { FromEngine, SourceEvent } from '../protocol'

/** How a take lies in a project, as the journal keeps it. */
interface JournalTake {
  readonly projectId: string
  readonly takeSerial: number
  readonly startTicks: Ticks
  readonly anchorMs: Milliseconds
  readonly endMs: Milliseconds | null
}

/** Where takes are kept as they are played. */
export interface TakeJournal {
  begin(take: JournalTake): Promise<void>
  append(projectId: string, takeSerial: number, sequence: number, events: TakeEvents): Promise<void>
  finish(take: JournalTake): Promise<void>
}

/** Longest time an event waits before it is in the journal. */
const journalEveryMs = 200

interface Recording {
  readonly take: JournalTake
  readonly recorder: TakeRecorder
  journaledCount: number
  sequence: number
}

/**
 * Keeps everything that arrives, as it arrives: into the take that is being recorded, and from there into the journal;
 * into what is remembered otherwise.
 */
export class Capture {
  private recording: Recording | null = null
  private readonly listening = new Listening()
  private lastJournalMs = 0

  constructor(
    private readonly journal: TakeJournal,
    private readonly tell: (message: FromEngine) => void,
  ) {}

  /** Notes that can still become a take. */
  get listenedNotes(): number {
    return this.listening.noteCount
  }

  keep({ portId, timeMs, status, data1, data2 }: SourceEvent): void {
    const keeper = this.recording?.recorder ?? this.listening
    keeper.add(portId, timeMs, status, data1, data2)
  }

  /** Begins a take; one that is still being recorded is finished first. */
  begin(take: Omit<JournalTake, 'endMs'>, nowMs: Milliseconds): void {
    this.finish(nowMs)
    this.recording = {
      take: { ...take, endMs: null },
      recorder: new TakeRecorder(),
      journaledCount: 0,
      sequence: 0,
    }
    this.guard(this.journal.begin(this.recording.take))
  }

  /** Ends the take, if one is being recorded, and hands it over. */
  finish(nowMs: Milliseconds): void {
    if (!this.recording) return
    this.writeJournal(nowMs)
    const { take, recorder } = this.recording
    this.recording = null
    this.guard(this.journal.finish({ ...take, endMs: nowMs }))
    this.handOver({ ...take, endMs: nowMs }, recorder.slice())
  }

  /**
   * Makes what is remembered a take: its first note falls on the first downbeat, at the tempo in force; everything else
   * keeps its distance in time.
   */
  keepListened(projectId: string, takeSerial: number): void {
    const events = this.listening.take()
    if (events.count === 0) return
    const anchorMs = events.timesMs[0]!
    const take = { projectId, takeSerial, startTicks: 0, anchorMs, endMs: events.timesMs[events.count - 1]! }
    this.guard(this.journal.append(projectId, takeSerial, 0, events).then(() => this.journal.finish(take)))
    this.handOver(take, events)
  }

  forgetListened(): void {
    this.listening.clear()
  }

  /** To be called often: writes to the journal when it is time. */
  tick(nowMs: Milliseconds): void {
    if (this.recording && nowMs - this.lastJournalMs >= journalEveryMs) this.writeJournal(nowMs)
  }

  private writeJournal(nowMs: Milliseconds): void {
    const recording = this.recording
    this.lastJournalMs = nowMs
    if (!recording || recording.recorder.count === recording.journaledCount) return
    const events = recording.recorder.slice(recording.journaledCount)
    recording.journaledCount = recording.recorder.count
    const { projectId, takeSerial } = recording.take
    this.guard(this.journal.append(projectId, takeSerial, recording.sequence++, events))
  }

  private handOver(take: JournalTake & { readonly endMs: Milliseconds }, events: TakeEvents): void {
    const { takeSerial, startTicks, anchorMs, endMs } = take
    this.tell({ type: 'takeFinished', takeSerial, startTicks, anchorMs, endMs, events })
  }

  private guard(work: Promise<void>): void {
    work.catch((error) => this.tell({ type: 'journalFailed', reason: String(error?.message ?? error) }))
  }
}
