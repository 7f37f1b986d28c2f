import type { ClickSettings } from '@/core/project/schema'
import { beatUnitTicks, type MeterMap } from '@/core/time/meterMap'
import type { Ticks } from '@/core/time/units'

/** Hi and low wood block of the General MIDI percussion map, and the claves between beats. */
const keys = { accent: 76, beat: 77, between: 75 } as const

export interface ClickStroke {
  readonly ticks: Ticks
  readonly key: number
  readonly velocity: number
}

/** The strokes of the click in a stretch: accents on downbeats, beats, and the subdivision between them. */
export function clicksBetween(
  meterMap: MeterMap,
  fromTicks: Ticks,
  toTicks: Ticks,
  settings: Pick<ClickSettings, 'hasAccent' | 'subdivision' | 'level'>,
): ClickStroke[] {
  const strokes: ClickStroke[] = []
  let measure = meterMap.measureAt(fromTicks)
  while (measure.startTicks < toTicks) {
    const beatTicks = beatUnitTicks(measure)
    const stepTicks = beatTicks / settings.subdivision
    for (let at = 0; at < measure.lengthTicks; at += stepTicks) {
      const ticks = Math.round(measure.startTicks + at)
      if (ticks < fromTicks || ticks >= toTicks) continue
      const isBeat = Math.abs(at % beatTicks) < 1
      const isAccent = at === 0 && settings.hasAccent
      const loudness = isAccent ? 120 : isBeat ? 92 : 58
      strokes.push({
        ticks,
        key: isAccent ? keys.accent : isBeat ? keys.beat : keys.between,
        velocity: Math.max(1, Math.min(127, Math.round(loudness * (0.3 + settings.level)))),
      })
    }
    measure = meterMap.measureAt(measure.startTicks + measure.lengthTicks)
  }
  return settings.level === 0 ? [] : strokes
}
