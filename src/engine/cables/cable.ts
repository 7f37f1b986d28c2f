import { type ReceiverReport, receiverReportSchema } from '@/core/programs/receiver/report'
import type { Milliseconds } from '@/core/time/units'

/** A message on a cable with the sender's time stamp on the epoch clock; up to three bytes. */
export interface CableEvent {
  readonly timeMs: Milliseconds
  readonly bytes: readonly number[]
}

/** What travels between the ends of a cable. */
type CableMessage =
  | { readonly type: 'events'; readonly events: readonly CableEvent[] }
  /** Somebody asks who reads this cable. */
  | { readonly type: 'whoReads' }
  | { readonly type: 'reads'; readonly readerId: string; readonly program: string }
  | { readonly type: 'readsNoMore'; readonly readerId: string }
  /** Somebody asks what was written of what was sent; who writes nothing does not answer. */
  | { readonly type: 'whatIsWritten'; readonly sinceMs: Milliseconds }
  | { readonly type: 'wrote'; readonly report: unknown }

/** How often a writer asks who reads; who has not answered by the next time is gone. */
const askEveryMs = 2000

const channelName = (name: string) => `unbroken-cable ${name}`

/**
 * The end of a virtual cable that reads. A cable is known by its name alone: whoever writes to that name in any tab of this
 * browser is heard, in the order sent.
 *
 * @param program what is said to whoever asks who reads
 * @param report what is said to whoever asks what was written
 */
export class CableReader {
  private readonly channel: BroadcastChannel
  private readonly readerId = crypto.randomUUID()

  constructor(
    name: string,
    private readonly program: string,
    receive: (events: readonly CableEvent[]) => void,
    private readonly report: ((sinceMs: Milliseconds) => ReceiverReport) | null = null,
  ) {
    this.channel = new BroadcastChannel(channelName(name))
    this.channel.onmessage = ({ data }: MessageEvent<CableMessage>) => {
      if (data.type === 'events') receive(data.events)
      else if (data.type === 'whoReads') this.tell()
      else if (data.type === 'whatIsWritten' && this.report)
        this.post({ type: 'wrote', report: this.report(data.sinceMs) })
    }
    this.tell()
  }

  private tell(): void {
    this.post({ type: 'reads', readerId: this.readerId, program: this.program })
  }

  private post(message: CableMessage): void {
    this.channel.postMessage(message)
  }

  close(): void {
    this.post({ type: 'readsNoMore', readerId: this.readerId })
    this.channel.close()
  }
}

/** The end of a virtual cable that writes, and knows who reads. */
export class CableWriter {
  private readonly channel: BroadcastChannel
  private readonly readers = new Map<string, string>()
  /** Readers that have answered since they were last asked: a tab that was killed says no goodbye. */
  private answered = new Set<string>()
  private readonly timer: ReturnType<typeof setInterval>

  /** @param onOthers is told what others write to the same cable; a reader cannot tell whose it is */
  constructor(
    name: string,
    private readonly onReaders: (programs: readonly string[]) => void = () => undefined,
    onOthers: (events: readonly CableEvent[]) => void = () => undefined,
  ) {
    this.channel = new BroadcastChannel(channelName(name))
    this.channel.onmessage = ({ data }: MessageEvent<CableMessage>) => {
      if (data.type === 'reads') {
        this.answered.add(data.readerId)
        if (this.readers.has(data.readerId)) return
        this.readers.set(data.readerId, data.program)
      } else if (data.type === 'readsNoMore') this.readers.delete(data.readerId)
      else {
        if (data.type === 'events') onOthers(data.events)
        return
      }
      this.onReaders([...this.readers.values()])
    }
    this.ask()
    this.timer = setInterval(() => {
      this.forgetSilent()
      this.ask()
    }, askEveryMs)
  }

  private ask(): void {
    this.answered = new Set()
    this.channel.postMessage({ type: 'whoReads' } satisfies CableMessage)
  }

  private forgetSilent(): void {
    const silent = [...this.readers.keys()].filter((readerId) => !this.answered.has(readerId))
    for (const readerId of silent) this.readers.delete(readerId)
    if (silent.length > 0) this.onReaders([...this.readers.values()])
  }

  send(events: readonly CableEvent[]): void {
    this.channel.postMessage({ type: 'events', events } satisfies CableMessage)
  }

  close(): void {
    clearInterval(this.timer)
    this.channel.close()
  }
}

/**
 * What the readers of a cable have written of what was sent over it since a moment: whatever has been answered when the time is over.
 *
 * @returns also how many answered in a form that is not known
 */
export async function reportsOf(
  name: string,
  sinceMs: Milliseconds,
  waitMs: Milliseconds,
): Promise<{ readonly reports: readonly ReceiverReport[]; readonly unknown: number }> {
  const channel = new BroadcastChannel(channelName(name))
  const answers: unknown[] = []
  channel.onmessage = ({ data }: MessageEvent<CableMessage>) => {
    if (data.type === 'wrote') answers.push(data.report)
  }
  channel.postMessage({ type: 'whatIsWritten', sinceMs } satisfies CableMessage)
  await new Promise((resolve) => setTimeout(resolve, waitMs))
  channel.close()
  const read = answers.map((answer) => receiverReportSchema.safeParse(answer))
  return {
    reports: read.flatMap(({ success, data }) => (success ? [data] : [])),
    unknown: read.filter(({ success }) => !success).length,
  }
}
