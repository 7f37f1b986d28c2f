import { wrap } from 'comlink'
import { cableName, cablePortId } from '@/core/routing/ports'
import { type CableEvent, CableReader, CableWriter } from '../cables/cable'
import { clockName, epochNowMs } from '../clock'
import type { JournalApi } from '../journal/journal.worker'
import { readSourceEvent } from '../midiInput/sourceEvent'
import type { FromEngine, ToEngine } from '../protocol'
import { Engine } from './engine'
import type { PortMessage } from './portSender'

/**
 * The engine's thread: not slowed by a busy page, and with timers that a hidden tab does not stop. Cables end here, so that
 * what travels over them never waits for a page; MIDI ports are reached through the window, the only place that has them.
 */
let synthPort: MessagePort | null = null
const readers = new Map<string, CableReader>()
const writers = new Map<string, CableWriter>()

const journalWorker = new Worker(new URL('../journal/journal.worker.ts', import.meta.url), {
  type: 'module',
  name: clockName,
})
journalWorker.onerror = (event) => {
  event.preventDefault()
  const reason = event.message || 'the journal could not be loaded'
  self.postMessage({ type: 'journalFailed', isFull: false, reason } satisfies FromEngine)
}
const journal = wrap<JournalApi>(journalWorker)

/** The journal is waited for this long when a take is handed over: the take itself is more than its copy there. */
const longestJournalMs = 3000

/** A finished take is told of when the journal has it, so that nobody reads it there too early. */
function toWindow(message: FromEngine): void {
  if (message.type !== 'takeFinished' && message.type !== 'left') {
    self.postMessage(message)
    return
  }
  const tooLong = new Promise<void>((resolve) => setTimeout(resolve, longestJournalMs))
  void Promise.race([journal.settled(), tooLong]).then(() => self.postMessage(message))
}

let lastFailureMs = Number.NEGATIVE_INFINITY

/** What goes wrong in here is said, and the next message is taken all the same. */
function guarded(work: () => void): void {
  try {
    work()
  } catch (error) {
    console.error(error)
    if (epochNowMs() - lastFailureMs < 1000) return
    lastFailureMs = epochNowMs()
    toWindow({ type: 'failed', reason: error instanceof Error ? error.message : String(error) })
  }
}

const engine = new Engine({
  nowMs: epochNowMs,
  toSynth: (message) =>
    synthPort?.postMessage(message, message.type === 'commands' ? [message.rows.buffer] : []),
  toWindow,
  toPorts,
  journal,
})

self.onmessage = (event: MessageEvent<ToEngine>) => {
  const message = event.data
  // The clocks of sound and time are compared all the time.
  if (message.type !== 'clock') wake()
  if (message.type === 'connectSynth') synthPort = message.port
  guarded(() => {
    engine.receive(message)
    if (message.type !== 'setup') return
    readCables(message.setup.cables)
    for (const { sendTo } of message.setup.tracks) if (sendTo) writerOf(sendTo.portId)
  })
}

function readCables(names: readonly string[]): void {
  for (const [name, reader] of readers) {
    if (names.includes(name)) continue
    reader.close()
    readers.delete(name)
    engine.receive({ type: 'portLost', portId: cablePortId(name), atMs: epochNowMs() })
  }
  for (const name of names) {
    if (readers.has(name)) continue
    const portId = cablePortId(name)
    let isTold = false
    const refuse = (reason: string) => {
      if (!isTold) toWindow({ type: 'refused', portId, reason })
      isTold = true
    }
    const receive = (events: readonly CableEvent[]) => {
      wake()
      engine.receive({
        type: 'input',
        events: events.flatMap(({ timeMs, bytes }) => readSourceEvent(portId, timeMs, bytes, refuse) ?? []),
      })
    }
    readers.set(name, new CableReader(name, 'Unbroken Voice', receive))
  }
}

function writerOf(portId: string): CableWriter | null {
  const name = cableName(portId)
  if (name === null) return null
  let writer = writers.get(name)
  if (!writer) {
    writer = new CableWriter(
      name,
      (programs) => toWindow({ type: 'cableReaders', name, programs }),
      (events) => {
        if (events.some(isNoteOn)) toWindow({ type: 'cableShared', name })
      },
    )
    writers.set(name, writer)
  }
  return writer
}

const isNoteOn = ({ bytes: [status = 0, , velocity = 0] }: CableEvent) =>
  (status & 0xf0) === 0x90 && velocity > 0

function toPorts(messages: readonly PortMessage[]): void {
  const forWindow: PortMessage[] = []
  const byCable = new Map<CableWriter, CableEvent[]>()
  for (const message of messages) {
    const writer = writerOf(message.portId)
    if (!writer) forWindow.push(message)
    else byCable.set(writer, [...(byCable.get(writer) ?? []), message])
  }
  for (const [writer, events] of byCable) writer.send(events.map(({ timeMs, bytes }) => ({ timeMs, bytes })))
  if (forWindow.length > 0) toWindow({ type: 'send', messages: forWindow })
}

/** From tick to tick while something goes on, and while nothing does. */
const tickMs = 5
const restingTickMs = 100
/** After the last message it stays awake for this long: whoever plays goes on. */
const awakeMs = 3000

let lastMessageMs = Number.NEGATIVE_INFINITY
let timer: ReturnType<typeof setTimeout> | undefined
let isResting = false

function beat(): void {
  guarded(() => engine.tick())
  isResting = engine.isAtRest && epochNowMs() - lastMessageMs > awakeMs
  timer = setTimeout(beat, isResting ? restingTickMs : tickMs)
}

function wake(): void {
  lastMessageMs = epochNowMs()
  if (!isResting) return
  isResting = false
  clearTimeout(timer)
  timer = setTimeout(beat, 0)
}

beat()
