import type { Slowness, WorkKind } from './yardstick/yardsticks'

/** One measured figure. `ok` is whether the target is reached. */
export interface Figure {
  readonly name: string
  readonly value: number
  readonly unit: string
  readonly target: string
  readonly ok: boolean
  /** Of what a machine works at: its limit on the machine that limits were set on, until it is judged by the yardstick of its kind. */
  readonly work?: { readonly kind: WorkKind; readonly bound: 'most' | 'least'; readonly limit: number }
}

/** Work that may take so much on the usual machine: judged as a ratio to the yardstick of its kind and its own minutes. */
export function workAtMost(
  name: string,
  value: number,
  unit: string,
  most: number,
  kind: WorkKind = 'processor',
): Figure {
  return { ...atMost(name, value, unit, most), work: { kind, bound: 'most', limit: most } }
}

/** Work that is done so many times as fast as something else, at least, on the usual machine. */
export function workAtLeast(
  name: string,
  value: number,
  unit: string,
  least: number,
  kind: WorkKind = 'processor',
): Figure {
  return { ...atLeast(name, value, unit, least), work: { kind, bound: 'least', limit: least } }
}

/**
 * The figure with its limit for the machine as it was then.
 *
 * @param measured the yardsticks of these minutes
 * @throws Error where the yardstick of its kind was not measured
 */
export function judged({ work, ...figure }: Figure, measured: Slowness): Figure {
  if (!work) return figure
  const slowness = measured[work.kind]
  if (slowness === undefined) throw new Error(`"${figure.name}" needs the yardstick of ${work.kind}`)
  const isMost = work.bound === 'most'
  const limit = isMost ? work.limit * slowness : work.limit / slowness
  return {
    ...figure,
    target: `${figure.target} ${isMost ? '×' : '÷'} ${work.kind} ${slowness.toFixed(2)} = ${round(limit)}`,
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
