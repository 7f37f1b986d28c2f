import type { Measure } from '../../time/meterMap'
import { type Amendment, addressOf } from './amendment'
import { type Chosen, type Drawn, drawn, refuse, type Stroke } from './stroke'

/** Strokes on bars: those of what is chosen, from the first to the last. */
export type BarStroke = Extract<Stroke, { readonly to: 'clef' | 'barLine' | 'repeat' | 'ending' | 'break' }>

/** What a stroke changes of bars. */
export function drawOnBars({ score, first, existing }: Chosen, stroke: BarStroke): Drawn {
  const at = (bar: number): Measure => score.measures[bar]!
  const tick = at(first.bar).startTicks
  const lastBarTick = at(first.lastBar).startTicks
  const toggled = (amendment: Amendment): Drawn =>
    existing.has(addressOf(amendment)) ? drawn([], [addressOf(amendment)]) : drawn([amendment])
  switch (stroke.to) {
    case 'clef': {
      const part = score.parts[first.partIndex]!
      if (part.clefs[0] === 'percussion') return refuse('A staff of percussion has no other clef.')
      const staff = first.staff as 1 | 2
      const own = { aspect: 'clef', tick, trackId: part.id, staff } as const
      if (stroke.clef !== null) return drawn([{ ...own, clef: stroke.clef }])
      const address = addressOf({ ...own, clef: null })
      if (existing.has(address)) return drawn([], [address])
      return part.clefChanges.some((change) => change.staff === staff && change.bar === first.bar)
        ? drawn([{ ...own, clef: null }])
        : refuse('The clef does not change in this bar.')
    }
    case 'barLine': {
      // The line behind the last of the chosen bars.
      const address = `barLine ${lastBarTick}`
      if (stroke.style === null)
        return existing.has(address) ? drawn([], [address]) : refuse('The bar line is as it was read.')
      return drawn([{ aspect: 'barLine', tick: lastBarTick, style: stroke.style }])
    }
    case 'repeat':
      return toggled({ aspect: 'repeat', tick, lastBarTick })
    case 'ending':
      return toggled({ aspect: 'ending', tick, lastBarTick, time: stroke.time })
    case 'break': {
      if (first.bar === 0) return refuse('The first line begins with the first bar.')
      const standing = existing.get(`break ${tick}`)
      return standing?.aspect === 'break' && standing.of === stroke.of
        ? drawn([], [addressOf(standing)])
        : drawn([{ aspect: 'break', tick, of: stroke.of }])
    }
  }
}

/** A rest that is chosen is not printed. */
export function hideRest({ rest }: Chosen): Drawn {
  if (!rest) return refuse('Choose a rest for that.')
  const { partId, voice, tick } = rest
  return drawn([{ aspect: 'hiddenRest', tick, trackId: partId, voice }])
}
