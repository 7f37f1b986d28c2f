import type { Measure } from '../../time/meterMap'
import type { VoiceInMeasure } from '../score'
import type { AmendmentOf, Misfit } from './amendment'

/** Bars of a part in which rests that were told so are not printed; where there is no such rest, that is a misfit. */
export function hideRests(
  bars: readonly (readonly VoiceInMeasure[])[],
  measures: readonly Measure[],
  told: readonly AmendmentOf<'hiddenRest'>[],
): { readonly bars: readonly (readonly VoiceInMeasure[])[]; readonly misfits: readonly Misfit[] } {
  if (told.length === 0) return { bars, misfits: [] }
  const hidden = [...bars]
  const misfits: Misfit[] = []
  for (const amendment of told) {
    const bar = measures.findLastIndex(({ startTicks }) => startTicks <= amendment.tick)
    let wasFound = false
    const own = hidden[bar]?.map((line) => ({
      ...line,
      elements: line.elements.map((element) => {
        const isMeant =
          line.voice === amendment.voice &&
          element.kind === 'rest' &&
          measures[bar]!.startTicks + element.startTicks === amendment.tick
        if (isMeant) wasFound = true
        return isMeant ? { ...element, isHidden: true } : element
      }),
    }))
    if (own && wasFound) hidden[bar] = own
    else misfits.push({ amendment, why: 'there is no rest there' })
  }
  return { bars: hidden, misfits }
}
