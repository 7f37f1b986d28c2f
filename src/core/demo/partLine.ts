import type { PartNote } from '../capture/performer'
import { parseKeyName } from '../event/note'
import { TICKS_PER_QUARTER } from '../time/units'

/** Reads a line such as "A4:1 D5:.5 r:1.5": note or rest, length in quarters; bar lines are for the eye. */
export function partLine(text: string, velocity: number): PartNote[] {
  const notes: PartNote[] = []
  let position = 0
  for (const word of text.split(/[\s|]+/).filter(Boolean)) {
    const [name, length] = word.split(':') as [string, string]
    const [over, under] = length.split('/').map(Number) as [number, number | undefined]
    const ticks = (over / (under ?? 1)) * TICKS_PER_QUARTER
    const onsetTicks = Math.round(position)
    const durationTicks = Math.round(position + ticks) - onsetTicks
    if (name !== 'r')
      for (const single of name.split('+')) {
        const key = parseKeyName(single)
        if (key === undefined) throw new Error(`"${single}" is not a note`)
        notes.push({ onsetTicks, durationTicks, key, velocity })
      }
    position += ticks
  }
  return notes
}
