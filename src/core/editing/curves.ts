import type { ControllerEvent } from '../event/note'
import type { Ticks } from '../time/units'

/** Which curve of a track: a controller by number, or one of the kinds there is one of. */
export interface CurveName {
  readonly kind: ControllerEvent['kind']
  /** Controller or key number; 0 where the kind has none. */
  readonly number: number
}

/** Distance of the points of a drawn curve: about 10 ms at 120 bpm, as controllers send. */
export const drawnStepTicks: Ticks = 210

/** Largest value of a curve: a bend has 14 bits. */
export function highestValue(kind: ControllerEvent['kind']): number {
  return kind === 'bend' ? 16_383 : 127
}

/** Names of MIDI 1.0 and General MIDI for the controllers that are met most; others by number. */
const controllerNames: Readonly<Record<number, string>> = {
  1: 'modulation',
  2: 'breath',
  4: 'foot, hi-hat openness',
  7: 'volume',
  10: 'pan',
  11: 'expression',
  64: 'sustain pedal',
  66: 'sostenuto pedal',
  67: 'soft pedal',
  74: 'brightness',
}

export function curveTitle({ kind, number }: CurveName): string {
  switch (kind) {
    case 'controller':
      return controllerNames[number] ? `${controllerNames[number]} (${number})` : `controller ${number}`
    case 'bend':
      return 'pitch bend'
    case 'channelPressure':
      return 'pressure'
    case 'keyPressure':
      return `pressure of key ${number}`
    case 'program':
      return 'program'
  }
}

const isOf = (event: ControllerEvent, name: CurveName) =>
  event.kind === name.kind && event.number === name.number

/** The curves a track has, most events first. */
export function curvesOf(controllers: readonly ControllerEvent[]): CurveName[] {
  const counts = new Map<string, { name: CurveName; count: number }>()
  for (const { kind, number } of controllers) {
    const key = `${kind} ${number}`
    const known = counts.get(key)
    if (known) known.count++
    else counts.set(key, { name: { kind, number }, count: 1 })
  }
  return [...counts.values()].sort((a, b) => b.count - a.count).map(({ name }) => name)
}

/** The events of one curve, in order. */
export function curveEvents(controllers: readonly ControllerEvent[], name: CurveName): ControllerEvent[] {
  return controllers.filter((event) => isOf(event, name)).sort((a, b) => a.tick - b.tick)
}

/**
 * Draws a straight piece of a curve over what was there: from one point to another, in either direction. Everything outside
 * stays.
 */
export function drawCurve(
  controllers: readonly ControllerEvent[],
  name: CurveName,
  channel: number,
  from: { readonly tick: Ticks; readonly value: number },
  to: { readonly tick: Ticks; readonly value: number },
): ControllerEvent[] {
  const [first, last] = from.tick <= to.tick ? [from, to] : [to, from]
  const kept = controllers.filter(
    (event) => !isOf(event, name) || event.tick < first.tick || event.tick > last.tick,
  )
  const top = highestValue(name.kind)
  const drawn: ControllerEvent[] = []
  const span = last.tick - first.tick
  const steps = Math.max(1, Math.ceil(span / drawnStepTicks))
  for (let step = 0; step <= (span === 0 ? 0 : steps); step++) {
    const part = step / steps
    const value = Math.round(first.value + (last.value - first.value) * part)
    drawn.push({
      tick: Math.max(0, Math.round(first.tick + span * part)),
      channel,
      kind: name.kind,
      number: name.number,
      value: Math.max(0, Math.min(top, value)),
    })
  }
  return [...kept, ...drawn].sort((a, b) => a.tick - b.tick)
}

/** Takes the events of a curve in a stretch out. */
export function eraseCurve(
  controllers: readonly ControllerEvent[],
  name: CurveName,
  fromTicks: Ticks,
  toTicks: Ticks,
): readonly ControllerEvent[] {
  return controllers.filter((event) => !isOf(event, name) || event.tick < fromTicks || event.tick >= toTicks)
}
