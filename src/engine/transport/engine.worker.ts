import { epochNowMs } from '../clock'
import { journal } from '../journal/journal'
import type { FromEngine, ToEngine } from '../protocol'
import { Engine } from './engine'

/** The engine's thread: not slowed by a busy page, and with timers that a hidden tab does not stop. */
let synthPort: MessagePort | null = null

const engine = new Engine({
  nowMs: epochNowMs,
  toSynth: (message) =>
    synthPort?.postMessage(message, message.type === 'commands' ? [message.rows.buffer] : []),
  toWindow: (message: FromEngine) => self.postMessage(message),
  journal,
})

self.onmessage = (event: MessageEvent<ToEngine>) => {
  if (event.data.type === 'connectSynth') synthPort = event.data.port
  engine.receive(event.data)
}

setInterval(() => engine.tick(), 5)
