import type { Project } from '@/core/project/schema'

type Meter = Pick<Project['meters'][number], 'numerator' | 'denominator'>

const usualMeters = ['2/4', '3/4', '4/4', '5/4', '6/8', '7/8', '9/8', '12/8', '2/2', '3/8'] as const

/** The meters offered, with one that is in use and not among them first. */
export function meterOptions(current: string): readonly string[] {
  return usualMeters.some((meter) => meter === current) ? usualMeters : [current, ...usualMeters]
}

/** A meter that is offered, by its text. */
export function meterFrom(text: string): Meter {
  const [numerator, denominator] = text.split('/').map(Number) as [number, Meter['denominator']]
  return { numerator, denominator }
}
