import type { Ticks } from '../time/units'
import type { ControllerEvent } from './note'

/**
 * Where each controller rests that is held away from there by hand, foot or breath, as "Reset All Controllers" puts it back:
 * modulation, expression, the pedals and switches 64 to 69, bend and pressure. What sets a sound up (bank, volume, pan,
 * program, the depth of effects) has no rest.
 *
 * Source: MMA Recommended Practice RP-015, Response to Reset All Controllers; 68 and 69 are switches like 64 to 67.
 *
 * @returns null for what has no rest
 * @example restValueOf('controller', 64) // 0
 */
export function restValueOf(kind: ControllerEvent['kind'], number: number): number | null {
  switch (kind) {
    case 'controller':
      if (number === 11) return 127
      return number === 1 || (number >= 64 && number <= 69) ? 0 : null
    case 'bend':
      return 8192
    case 'channelPressure':
    case 'keyPressure':
      return 0
    case 'program':
      return null
  }
}

/**
 * The events that put everything back that is held at the end of a stream.
 *
 * @param controllers in any order of kinds, each kind in order of time
 */
export function eventsToRest(controllers: readonly ControllerEvent[], atTicks: Ticks): ControllerEvent[] {
  const held = new Map<string, ControllerEvent>()
  for (const event of controllers) {
    const rest = restValueOf(event.kind, event.number)
    if (rest === null) continue
    const address = `${event.kind} ${event.number} ${event.channel}`
    if (event.value === rest) held.delete(address)
    else held.set(address, { ...event, value: rest })
  }
  return [...held.values()].map((event) => ({ ...event, tick: Math.max(atTicks, event.tick) }))
}
