import { type ControllerEvent, mostLines, type Note } from '../event/note'
import { lastTick } from '../time/units'

/** Whole and between two bounds that fit 32 bits; a hundred thousand notes are asked in one edit. */
const isWithin = (value: number, low: number, high: number) =>
  (value | 0) === value && value >= low && value <= high

/** What keeps a note from being stored; null when nothing does. */
export function noteProblem(note: Note): string | null {
  const { onsetTicks, durationTicks, key, velocity, releaseVelocity, channel, voice, staff } = note
  if (!isWithin(onsetTicks, 0, lastTick)) return `it would begin at ${onsetTicks}`
  if (!isWithin(durationTicks, 1, lastTick) || onsetTicks + durationTicks > 2_147_483_647)
    return `it would last ${durationTicks} ticks`
  if (!isWithin(key, 0, 127)) return `its key would be ${key}`
  if (!isWithin(velocity, 1, 127) || !isWithin(releaseVelocity, 0, 127))
    return `its velocity would be ${velocity}`
  if (voice !== undefined && !isWithin(voice, 1, mostLines)) return `its voice would be ${voice}`
  if (staff !== undefined && !isWithin(staff, 1, 2)) return `its staff would be ${staff}`
  return isWithin(channel, 1, 16) ? null : `its channel would be ${channel}`
}

function controllerProblem({ tick, channel, number, value }: ControllerEvent): string | null {
  if (!isWithin(tick, 0, lastTick)) return `it would lie at ${tick}`
  if (!isWithin(channel, 1, 16)) return `its channel would be ${channel}`
  return isWithin(number, 0, 127) && isWithin(value, 0, 16_383) ? null : `its value would be ${value}`
}

/** What keeps the inside of a clip from being stored; null when nothing does. */
export function clipProblem({
  notes,
  controllers,
}: {
  readonly notes: readonly Note[]
  readonly controllers: readonly ControllerEvent[]
}): string | null {
  for (const note of notes) {
    const problem = noteProblem(note)
    if (problem) return problem
  }
  for (const event of controllers) {
    const problem = controllerProblem(event)
    if (problem) return problem
  }
  return null
}
