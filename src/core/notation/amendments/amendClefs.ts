import type { Measure } from '../../time/meterMap'
import type { StaffClefs } from '../clefs'
import type { AmendmentOf, Misfit } from './amendment'

/**
 * The clefs of a staff with those that were told by hand. A clef holds until the next change; where it was told, there are no octave
 * lines until then, since they were found for another.
 *
 * @param told of this staff
 */
export function amendClefs(
  found: StaffClefs,
  told: readonly AmendmentOf<'clef'>[],
  measures: readonly Measure[],
  misfits: Misfit[],
): StaffClefs {
  let amended = found
  for (const amendment of [...told].sort((a, b) => a.tick - b.tick)) {
    const bar = measures.findIndex(({ startTicks }) => startTicks === amendment.tick)
    const problem =
      bar < 0
        ? 'no bar begins there'
        : amended.clef === 'percussion'
          ? 'the staff is one of percussion'
          : amendment.clef === null && bar === 0
            ? 'a staff begins with a clef'
            : null
    if (problem !== null) {
      misfits.push({ amendment, why: problem })
      continue
    }
    amended = withClef(amended, bar, amendment.clef, measures)
  }
  return amended
}

function withClef(
  { clef, changes, octaveLines }: StaffClefs,
  bar: number,
  told: AmendmentOf<'clef'>['clef'],
  measures: readonly Measure[],
): StaffClefs {
  const others = changes.filter((change) => change.bar !== bar)
  if (told === null) return { clef, octaveLines, changes: others }
  const fromTicks = measures[bar]!.startTicks
  const next = others.find((change) => change.bar > bar)
  const untilTicks = next ? measures[next.bar]!.startTicks : Number.POSITIVE_INFINITY
  return {
    clef: bar === 0 ? told : clef,
    changes: bar === 0 ? others : [...others, { bar, clef: told }].sort((a, b) => a.bar - b.bar),
    octaveLines: octaveLines.filter(
      ({ startTicks, endTicks }) => endTicks <= fromTicks || startTicks >= untilTicks,
    ),
  }
}
