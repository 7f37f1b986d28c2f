import type { ControllerEvent } from '../event/note'
import { TICKS_PER_QUARTER, type Ticks } from '../time/units'
import type { WrittenNote } from './rhythm/rhythm'

/** How loud a part is while it sounds, as its player shaped it. */
export interface Swell {
  /** Breath is the force itself; expression is a share of the force that notes are struck with. */
  readonly by: 'breath' | 'expression'
  /** One for each eighth that it lasts, from 0 to 1, in order. */
  readonly points: readonly { readonly tick: Ticks; readonly share: number }[]
}

/** Controllers 2 (breath) and 11 (expression) of MIDI 1.0. */
const controllers = { breath: 2, expression: 11 } as const

/** It is looked at so often. */
const gridTicks: Ticks = TICKS_PER_QUARTER / 2
/** Fewer messages, or a smaller range, are settings and no playing. */
const fewestMessages = 8
const leastRange = 20

/**
 * How a part swells and fades by its breath or, where it has none, its expression; null where neither was played.
 *
 * @param events in order
 * @param endTicks end of the last note
 */
export function swellOf(events: readonly ControllerEvent[], endTicks: Ticks): Swell | null {
  for (const by of ['breath', 'expression'] as const) {
    const own = events.filter(({ kind, number }) => kind === 'controller' && number === controllers[by])
    if (own.length < fewestMessages) continue
    const values = own.map(({ value }) => value)
    const [low, high] = values.reduce(([a, b], value) => [Math.min(a, value), Math.max(b, value)], [127, 0])
    if (high - low < leastRange) continue
    const points: { tick: Ticks; share: number }[] = []
    let next = 0
    // Before the first message it is what that says.
    let value = own[0]!.value
    for (let tick = 0; tick < endTicks; tick += gridTicks) {
      let [sum, count] = [0, 0]
      // What it is during the eighth: the mean of what is said in it.
      for (; next < own.length && own[next]!.tick < tick + gridTicks; next++) {
        value = own[next]!.value
        sum += value
        count++
      }
      points.push({ tick, share: (count > 0 ? sum / count : value) / 127 })
    }
    return { by, points }
  }
  return null
}

/**
 * The force of each eighth in which a part sounds: 1 to 127.
 *
 * @param written in order of onset
 */
export function forcesOf(
  { by, points }: Swell,
  written: readonly WrittenNote[],
): { tick: Ticks; velocity: number }[] {
  const top = points.reduce((most, { share }) => Math.max(most, share), 0) || 1
  const forces: { tick: Ticks; velocity: number }[] = []
  let next = 0
  let sounding: WrittenNote[] = []
  for (const { tick, share } of points) {
    for (; next < written.length && written[next]!.onsetTicks < tick + gridTicks; next++)
      sounding.push(written[next]!)
    sounding = sounding.filter(({ endTicks }) => endTicks > tick)
    if (sounding.length === 0) continue
    const struck = sounding.reduce((most, { note }) => Math.max(most, note.velocity), 1)
    const force = by === 'breath' ? share * 127 : (share / top) * struck
    forces.push({ tick, velocity: Math.max(1, force) })
  }
  return forces
}
