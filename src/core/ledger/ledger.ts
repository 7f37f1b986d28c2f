/** Why a captured note is not on the page. */
export type FilterReason = 'too quiet' | 'too short'

/**
 * Account of the notes of a part, from what was captured to what is written. Always
 * captured = written + merged + all filtered.
 */
export interface Ledger {
  readonly captured: number
  readonly written: number
  /** Doubles: the same key struck twice at one place, written once. */
  readonly merged: number
  /** Of the written: notes on the place and key of another voice's; each has a head of its own. */
  readonly coincident: number
  readonly filtered: readonly { readonly reason: FilterReason; readonly count: number }[]
}

export function sumLedgers(ledgers: readonly Ledger[]): Ledger {
  const byReason = new Map<FilterReason, number>()
  let [captured, written, merged, coincident] = [0, 0, 0, 0]
  for (const ledger of ledgers) {
    captured += ledger.captured
    written += ledger.written
    merged += ledger.merged
    coincident += ledger.coincident
    for (const { reason, count } of ledger.filtered) byReason.set(reason, (byReason.get(reason) ?? 0) + count)
  }
  const filtered = [...byReason].map(([reason, count]) => ({ reason, count }))
  return { captured, written, merged, coincident, filtered }
}

export function isBalanced(ledger: Ledger): boolean {
  const filtered = ledger.filtered.reduce((sum, { count }) => sum + count, 0)
  return ledger.captured === ledger.written + ledger.merged + filtered
}

/** A floor that takes more than this share of the notes takes more than slips. */
const mostSlips = 1 / 100

/** The floors that take so many notes of a part that somebody should know. */
export function heavyFloors({ captured, filtered }: Ledger): Ledger['filtered'] {
  return filtered.filter(({ count }) => count > captured * mostSlips)
}

/**
 * What a floor that takes many notes has taken, as a sentence.
 *
 * @example floorSentence('Flute', 200, { reason: 'too short', count: 40 }, 2, 20)
 * // 'Flute: 40 of 200 notes are shorter than 20 ms and left out'
 */
export function floorSentence(
  name: string,
  captured: number,
  { reason, count }: Ledger['filtered'][number],
  minVelocity: number,
  minLengthMs: number,
): string {
  const number = (value: number) => value.toLocaleString('en')
  const floor = reason === 'too short' ? `shorter than ${minLengthMs} ms` : `quieter than ${minVelocity}`
  return `${name}: ${number(count)} of ${number(captured)} notes are ${floor} and left out`
}
