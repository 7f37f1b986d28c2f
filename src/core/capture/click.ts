import type { MusicalContext } from '../effects/noteEffect'
import { beatUnitTicks, MeterMap } from '../time/meterMap'
import type { Milliseconds, Ticks } from '../time/units'
import type { ClickSettings } from './clickSettings'

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

/** The strokes of a count-in with their distance from its beginning: those of the bar that begins, as often as it is counted. */
export function countInStrokes(
  { tempoMap, meterMap }: MusicalContext,
  fromTicks: Ticks,
  bars: number,
  settings: Pick<ClickSettings, 'hasAccent' | 'subdivision' | 'level'>,
): {
  readonly lengthMs: Milliseconds
  readonly strokes: (ClickStroke & { readonly afterMs: Milliseconds })[]
} {
  const bar = meterMap.measureAt(fromTicks)
  const startMs = tempoMap.msAt(fromTicks)
  const barMs = tempoMap.msAt(fromTicks + bar.lengthTicks) - startMs
  // A count-in is heard also where the click is turned down.
  const audible = settings.level === 0 ? { ...settings, level: 0.5 } : settings
  const strokes = clicksBetween(new MeterMap([{ ...bar, tick: 0 }]), 0, bar.lengthTicks, audible)
  return {
    lengthMs: barMs * bars,
    strokes: Array.from({ length: bars }, (_, count) =>
      strokes.map((stroke) => ({
        ...stroke,
        afterMs: count * barMs + tempoMap.msAt(fromTicks + stroke.ticks) - startMs,
      })),
    ).flat(),
  }
}
