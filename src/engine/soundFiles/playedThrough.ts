import type { Milliseconds } from '@/core/time/units'
import type { ToEngine } from '../protocol'
import { commandFields, type TimedCommand } from '../synth/commands'
import { Engine } from '../transport/engine'

/** The engine's clock goes on by so much at a time; what is played does not depend on it. */
const stepMs: Milliseconds = 50
/** What begins before the end is followed for so long. */
const longestReleaseMs: Milliseconds = 10_000

/**
 * Plays a piece from its beginning in the same engine that plays it live, on a clock that nobody waits for: what the synthesiser is told,
 * in audio time from the beginning of the first bar, in order. Every note of it ends.
 *
 * @param messages set-up, generators and content, as a live engine is told of a piece
 * @param lastsMs what begins later is left out
 */
export function playedThrough(messages: readonly ToEngine[], lastsMs: Milliseconds): TimedCommand[] {
  let nowMs: Milliseconds = 0
  let startedAtMs: Milliseconds | null = null
  const rows: Float64Array[] = []
  const engine = new Engine({
    nowMs: () => nowMs,
    toSynth: (message) => {
      if (message.type === 'commands') rows.push(message.rows)
    },
    toWindow: (message) => {
      if (message.type === 'transport' && message.transport.state === 'playing')
        startedAtMs = message.transport.startedAtMs
    },
    toPorts: () => {},
    journal: { begin: async () => undefined, append: async () => nowMs, finish: async () => undefined },
  })
  for (const message of messages) engine.receive(message)
  engine.receive({ type: 'clock', sample: { contextSeconds: 0, epochMs: 0 } })
  engine.receive({ type: 'play', fromTicks: 0, untilTicks: null, loop: null })
  do {
    nowMs += stepMs
    engine.tick()
  } while (nowMs < (startedAtMs ?? 0) + lastsMs + longestReleaseMs)
  const startSeconds = (startedAtMs ?? 0) / 1000
  return ended(rows.flatMap(commandsIn), startSeconds, lastsMs / 1000)
}

function* commandsInRows(rows: Float64Array): Generator<TimedCommand> {
  for (let row = 0; row < rows.length; row += commandFields)
    yield {
      atSeconds: rows[row]!,
      synthChannel: rows[row + 1]!,
      status: rows[row + 2]!,
      data1: rows[row + 3]!,
      data2: rows[row + 4]!,
    }
}
const commandsIn = (rows: Float64Array) => [...commandsInRows(rows)]

/** In time from the beginning, without what begins behind the end, and with an end for every note. */
function ended(all: readonly TimedCommand[], startSeconds: number, lastsSeconds: number): TimedCommand[] {
  const open = new Map<string, TimedCommand>()
  const kept: TimedCommand[] = []
  const inOrder = all
    // What was to sound at once is the state of things at the beginning.
    .map((command) => ({ ...command, atSeconds: Math.max(0, command.atSeconds - startSeconds) }))
    .sort((a, b) => a.atSeconds - b.atSeconds)
  for (const command of inOrder) {
    const address = `${command.synthChannel} ${command.data1}`
    const kind = command.status & 0xf0
    const isOn = kind === 0x90 && command.data2 > 0
    const isOff = kind === 0x80 || (kind === 0x90 && command.data2 === 0)
    if (isOn && command.atSeconds >= lastsSeconds) continue
    if (isOn) open.set(address, command)
    if (isOff && !open.delete(address)) continue
    kept.push(command)
  }
  const lastSeconds = lastsSeconds + longestReleaseMs / 1000
  for (const { synthChannel, data1 } of open.values())
    kept.push({ atSeconds: lastSeconds, synthChannel, status: 0x80, data1, data2: 64 })
  return kept
}
