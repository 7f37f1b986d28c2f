import { wrap } from 'comlink'
import { cableName, cablePortId } from '@/core/routing/ports'
import { type CableEvent, CableReader, CableWriter } from '../cables/cable'
import { epochNowMs } from '../clock'
import type { JournalApi } from '../journal/journal.worker'
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

const journal = wrap<JournalApi>(
  new Worker(new URL('../journal/journal.worker.ts', import.meta.url), { type: 'module' }),
)

/** A finished take is told of when the journal has it, so that nobody reads it there too early. */
function toWindow(message: FromEngine): void {
  if (message.type !== 'takeFinished') self.postMessage(message)
  else void journal.settled().then(() => self.postMessage(message))
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
  if (message.type === 'connectSynth') synthPort = message.port
  engine.receive(message)
  if (message.type !== 'setup') return
  readCables(message.setup.cables)
  for (const { sendTo } of message.setup.tracks) if (sendTo) writerOf(sendTo.portId)
}

function readCables(names: readonly string[]): void {
  for (const [name, reader] of readers) {
    if (names.includes(name)) continue
    reader.close()
    readers.delete(name)
    engine.receive({ type: 'portLost', portId: cablePortId(name) })
  }
  for (const name of names) {
    if (readers.has(name)) continue
    const receive = (events: readonly CableEvent[]) =>
      engine.receive({
        type: 'input',
        events: events.map(({ timeMs, bytes }) => ({
          portId: cablePortId(name),
          timeMs,
          status: bytes[0] ?? 0,
          data1: bytes[1] ?? 0,
          data2: bytes[2] ?? 0,
        })),
      })
    readers.set(name, new CableReader(name, 'Unbroken Voice', receive))
  }
}

function writerOf(portId: string): CableWriter | null {
  const name = cableName(portId)
  if (name === null) return null
  let writer = writers.get(name)
  if (!writer) {
    writer = new CableWriter(name, (programs) => toWindow({ type: 'cableReaders', name, programs }))
    writers.set(name, writer)
  }
  return writer
}

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

setInterval(() => engine.tick(), 5)
