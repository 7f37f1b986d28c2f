/** One measured figure. `ok` is whether the target is reached. */
export interface Figure {
  readonly name: string
  readonly value: number
  readonly unit: string
  readonly target: string
  readonly ok: boolean
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
