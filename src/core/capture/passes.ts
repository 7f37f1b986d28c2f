import { parseChannelMessage } from '../midi/message'
import { pairNotes } from '../midi/notePairs'
import type { Milliseconds } from '../time/units'
import type { TakeEvents } from './takeEvents'

/** A loop on the sources' clock. */
export interface LoopedTime {
  /** The moment the first pass begins. */
  readonly anchorMs: Milliseconds
  readonly passMs: Milliseconds
  /** Notes up to this much before a pass begins belong to its downbeat. */
  readonly earlyMs: Milliseconds
}

export interface Pass {
  /** From 0. */
  readonly index: number
  readonly anchorMs: Milliseconds
  readonly endMs: Milliseconds
  readonly events: TakeEvents
}

/** Controllers that are held like a key: sustain, sostenuto, soft (MIDI 1.0, controllers 64, 66, 67). */
const pedals = [64, 66, 67]

/**
 * Divides what was recorded in a loop into its passes, so that every event is in exactly one of them. A note-on just
 * before a pass begins belongs to that pass. A release is in the pass of its stroke, however late it comes, so that a note
 * held over the end of the loop is whole; likewise the release of a pedal.
 *
 * @returns a pass for each turn of the loop in which something was played, in order
 */
export function splitPasses(events: TakeEvents, loop: LoopedTime, endMs: Milliseconds): Pass[] {
  const lastPass = Math.max(0, Math.ceil((endMs - loop.anchorMs) / loop.passMs - 1e-9) - 1)
  const passAt = (timeMs: Milliseconds) =>
    Math.max(0, Math.min(lastPass, Math.floor((timeMs - loop.anchorMs + loop.earlyMs) / loop.passMs)))
  const passes = new Int32Array(events.count)
  for (let i = 0; i < events.count; i++) passes[i] = passAt(events.timesMs[i]!)
  const messages = Array.from({ length: events.count }, (_, i) =>
    parseChannelMessage(events.statuses[i]!, events.data1[i]!, events.data2[i]!),
  )
  const { pairs } = pairNotes(
    messages,
    (index) => events.timesMs[index]!,
    (index) => events.ports[index]!,
  )
  // A note that was ended by a further stroke leaves that stroke in its own pass.
  for (const { onIndex, offIndex } of pairs)
    if (messages[offIndex]?.type === 'noteOff') passes[offIndex] = passes[onIndex]!
  keepPedalsWhole(events, passes)
  const used = [...new Set(passes)].sort((a, b) => a - b)
  return used.map((index) => ({
    index,
    anchorMs: loop.anchorMs + index * loop.passMs,
    endMs: Math.min(endMs, loop.anchorMs + (index + 1) * loop.passMs),
    events: pickEvents(events, (i) => passes[i] === index),
  }))
}

function keepPedalsWhole(events: TakeEvents, passes: Int32Array): void {
  const pressedIn = new Map<number, number>()
  for (let i = 0; i < events.count; i++) {
    if ((events.statuses[i]! & 0xf0) !== 0xb0 || !pedals.includes(events.data1[i]!)) continue
    const pedal = (events.ports[i]! * 16 + (events.statuses[i]! & 0x0f)) * 128 + events.data1[i]!
    if (events.data2[i]! >= 64) {
      if (!pressedIn.has(pedal)) pressedIn.set(pedal, passes[i]!)
    } else {
      const pressed = pressedIn.get(pedal)
      if (pressed !== undefined) passes[i] = pressed
      pressedIn.delete(pedal)
    }
  }
}

/** The events for which the test holds, in their order. */
export function pickEvents(events: TakeEvents, isPicked: (index: number) => boolean): TakeEvents {
  const picked: number[] = []
  for (let i = 0; i < events.count; i++) if (isPicked(i)) picked.push(i)
  return {
    count: picked.length,
    portIds: events.portIds,
    timesMs: Float64Array.from(picked, (i) => events.timesMs[i]!),
    ports: Uint16Array.from(picked, (i) => events.ports[i]!),
    statuses: Uint8Array.from(picked, (i) => events.statuses[i]!),
    data1: Uint8Array.from(picked, (i) => events.data1[i]!),
    data2: Uint8Array.from(picked, (i) => events.data2[i]!),
  }
}
