import type { PerformedMessage } from '@/core/capture/performer'
import { epochNowMs } from '../clock'
import { HeldOnPorts } from '../midiInput/heldOnPorts'

/** What the stand-in players are told. */
export type ToStandIns =
  | { readonly type: 'perform'; readonly startMs: number; readonly messages: readonly PerformedMessage[] }
  | { readonly type: 'stop' }

/** A message leaving a stand-in's instrument, with the moment it was played. */
export interface StandInMessage {
  readonly epochMs: number
  readonly bytes: readonly number[]
}

let queue: { epochMs: number; bytes: readonly number[] }[] = []
let next = 0
let timer: ReturnType<typeof setInterval> | undefined
/** As exact as a hand. */
const strokeEveryMs = 3
/** Every player of this worker is at one port. */
const held = new HeldOnPorts()
const portId = ''

self.onmessage = (event: MessageEvent<ToStandIns>) => {
  if (event.data.type === 'perform') {
    const { startMs, messages } = event.data
    releaseAll()
    queue = messages.map(({ timeMs, bytes }) => ({ epochMs: startMs + timeMs, bytes }))
    next = 0
    timer ??= setInterval(playWhatIsDue, strokeEveryMs)
  } else {
    queue = []
    next = 0
    releaseAll()
  }
}

/** Lifts every finger and foot, as a player does on "stop". */
function releaseAll(): void {
  const epochMs = epochNowMs()
  for (const { bytes } of held.letGo()) send({ epochMs, bytes })
}

function send(message: StandInMessage): void {
  self.postMessage(message)
}

/** Plays what is due, and rests when that was all. The time stamp is the moment of the stroke, as a device's driver gives it. */
function playWhatIsDue(): void {
  const nowMs = epochNowMs()
  while (next < queue.length && queue[next]!.epochMs <= nowMs) {
    const message = queue[next++]!
    held.follow({ portId, bytes: message.bytes })
    send(message)
  }
  if (next < queue.length) return
  clearInterval(timer)
  timer = undefined
}
