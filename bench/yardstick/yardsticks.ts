import { drawingMs } from './drawing'
import { engravingMs } from './engraving'
import { processorMs } from './processor'
import { storageMs } from './storage'

/** What a figure is made of most: each kind has fixed work of its own that is measured beside it. */
export type WorkKind = 'processor' | 'engraving' | 'drawing' | 'storage'

/** How slow the machine is in these minutes, by kind: 1 is the usual machine, 2 half as fast. */
export type Slowness = Partial<Record<WorkKind, number>>

/** What each took where the limits were set: an Intel Xeon at 2.5 GHz in a quiet hour, Node.js 20. */
const usualMs: Record<WorkKind, number> = { processor: 130, engraving: 420, drawing: 110, storage: 130 }

const measureOf: Record<WorkKind, (address: string) => Promise<number>> = {
  processor: processorMs,
  engraving: engravingMs,
  drawing: drawingMs,
  storage: storageMs,
}

/**
 * Machines are shared, and one was seen to take twice as long from one hour to the next: figures of speed are judged against fixed work
 * of the same kind, measured just before and after them.
 *
 * @param address a page of the server that has nothing of the program in it
 */
export async function slownessNow(kinds: readonly WorkKind[], address: string): Promise<Slowness> {
  const now: Slowness = {}
  for (const kind of kinds) now[kind] = (await measureOf[kind](address)) / usualMs[kind]
  return now
}

/** Of two moments, the mean. */
export function between(one: Slowness, other: Slowness): Slowness {
  return Object.fromEntries(
    Object.entries(one).map(([kind, slowness]) => [kind, (slowness + other[kind as WorkKind]!) / 2]),
  )
}
