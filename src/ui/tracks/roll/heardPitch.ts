import { noPlace } from '@/core/sound/keptSound'
import type { Ticks } from '@/core/time/units'
import { paperColours } from '../canvas'
import type { RollGeometry } from './rollGeometry'

/** The pitch that was heard in a piece of kept sound, from step to step. */
export interface HeardPitch {
  readonly startTicks: Ticks
  readonly ticksPerStep: Ticks
  /** In hundredths of a key; `noPlace` for none. */
  readonly places: Int16Array
  /** 255 for wholly sure. */
  readonly confidences: Uint8Array
}

/** Further apart than this, in hundredths of a key, one pitch does not lead to the next. */
const longestLeap = 200

/** Draws where the pitch was, over the notes that were made of it: the surer, the darker. */
export function paintHeardPitch(
  context: CanvasRenderingContext2D,
  { xOf, yOf, rowHeight, left, width, isKit }: RollGeometry,
  heard: readonly HeardPitch[],
): void {
  if (isKit) return
  const middle = rowHeight / 2
  context.strokeStyle = paperColours.ink
  context.lineWidth = 1.5
  for (const { startTicks, ticksPerStep, places, confidences } of heard) {
    if (xOf(startTicks) > left + width || xOf(startTicks + ticksPerStep * places.length) < left) continue
    // From far away, no more lines than there are pixels.
    const stride = Math.max(1, Math.ceil(1 / (xOf(startTicks + ticksPerStep) - xOf(startTicks))))
    for (let step = stride; step < places.length; step += stride) {
      const from = places[step - stride]!
      const to = places[step]!
      if (from === noPlace || to === noPlace || Math.abs(to - from) > longestLeap) continue
      context.globalAlpha = Math.max(0.1, confidences[step]! / 255)
      context.beginPath()
      context.moveTo(xOf(startTicks + (step - stride) * ticksPerStep), yOf(from / 100) + middle)
      context.lineTo(xOf(startTicks + step * ticksPerStep), yOf(to / 100) + middle)
      context.stroke()
    }
  }
  context.globalAlpha = 1
  context.lineWidth = 1
}
