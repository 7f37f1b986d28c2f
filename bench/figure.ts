/** One measured figure. `ok` is whether the target is reached. */
export interface Figure {
  readonly name: string
  readonly value: number
  readonly unit: string
  readonly target: string
  readonly ok: boolean
  /** Of what a processor works at: its limit on the machine that limits were set on, until it is judged by the yardstick. */
  readonly work?: { readonly bound: 'most' | 'least'; readonly limit: number }
}

/** Work of a processor that may take so much on the usual machine: judged as a ratio to the yardstick of its own minutes. */
export function workAtMost(name: string, value: number, unit: string, most: number): Figure {
  return { ...atMost(name, value, unit, most), work: { bound: 'most', limit: most } }
}

/** Work of a processor that is done so many times as fast as something else, at least, on the usual machine. */
export function workAtLeast(name: string, value: number, unit: string, least: number): Figure {
  return { ...atLeast(name, value, unit, least), work: { bound: 'least', limit: least } }
}

/**
 * The figure with its limit for the machine as it was then.
 *
 * @param slowness the yardstick of these minutes against the usual one: 2 is half as fast
 */
export function judged({ work, ...figure }: Figure, slowness: number): Figure {
  if (!work) return figure
  const isMost = work.bound === 'most'
  const limit = isMost ? work.limit * slowness : work.limit / slowness
  return {
    ...figure,
    target: `${figure.target} ${isMost ? '×' : '÷'} yardstick ${slowness.toFixed(2)} = ${round(limit)}`,
    ok: isMost ? figure.value <= limit : figure.value >= limit,
  }
}

export function atMost(name: string, value: number, unit: string, most: number): Figure {
  return { name, value: round(value), unit, target: `at most ${most}`, ok: value <= most }
}

export function atLeast(name: string, value: number, unit: string, least: number): Figure {
  return { name, value: round(value), unit, target: `at least ${least}`, ok: value >= least }
}

function round(value: number): number {
  return Math.abs(value) < 10 ? Math.round(value * 10_000) / 10_000 : Math.round(value * 10) / 10
}

export function median(values: readonly number[]): number {
  return percentile(values, 0.5)
}

export function percentile(values: readonly number[], share: number): number {
  const sorted = [...values].sort((a, b) => a - b)
  return sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))] ?? Number.NaN
}
