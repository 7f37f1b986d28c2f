import type { ControllerEvent } from '@/core/event/note'
import { restValueOf } from '@/core/event/resting'
import type { Milliseconds } from '@/core/time/units'

/** A controller away from rest: the three bytes that put it back, and how and when it was moved last. */
interface HeldControl {
  readonly bytes: readonly [status: number, data1: number, data2: number]
  /** The bytes that moved it to where it is. */
  readonly movedBy: readonly [status: number, data1: number, data2: number]
  readonly movedAtMs: Milliseconds
}

const kinds: Readonly<Record<number, ControllerEvent['kind']>> = {
  160: 'keyPressure',
  176: 'controller',
  208: 'channelPressure',
  224: 'bend',
}

/** What one channel of one output or source holds away from rest: pedals, bend, pressure. */
export class HeldControls {
  private readonly held = new Map<number, HeldControl>()

  /** @param canBeTakenBack the way back to rest may be cancelled before it is carried out: what was moved counts as held */
  constructor(private readonly canBeTakenBack = false) {}

  /** @param status with or without a channel; it comes back as it was given */
  follow(status: number, data1: number, data2: number, timeMs: Milliseconds): void {
    const kind = kinds[status & 0xf0]
    if (!kind) return
    const hasNumber = kind === 'controller' || kind === 'keyPressure'
    const rest = restValueOf(kind, hasNumber ? data1 : 0)
    if (rest === null) return
    const address = (status & 0xf0) * 128 + (hasNumber ? data1 : 0)
    const value = kind === 'bend' ? data1 | (data2 << 7) : kind === 'channelPressure' ? data1 : data2
    if (value === rest) {
      if (!this.canBeTakenBack) this.held.delete(address)
    } else
      this.held.set(address, {
        bytes: restBytes(kind, status, data1, rest),
        movedBy: [status, data1, data2],
        movedAtMs: timeMs,
      })
  }

  /** What is away from rest. */
  list(): readonly HeldControl[] {
    return [...this.held.values()]
  }

  /** What puts everything back; it is at rest from then on. */
  putBack(): HeldControl[] {
    const all = [...this.held.values()]
    this.held.clear()
    return all
  }
}

function restBytes(
  kind: ControllerEvent['kind'],
  status: number,
  number: number,
  rest: number,
): HeldControl['bytes'] {
  if (kind === 'bend') return [status, rest & 0x7f, rest >> 7]
  return kind === 'channelPressure' ? [status, rest, 0] : [status, number, rest]
}
