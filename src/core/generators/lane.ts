import { z } from '../border/checks'
import { chance } from '../effects/chance'
import { type NoteValue, noteValueNames, noteValues } from '../effects/settings'
import { movedTo, movementFields } from '../effects/shape/movement'
import { longestName } from '../text/bounded'
import type { Ticks } from '../time/units'
import { euclid } from './euclid'
import type { GeneratedNote } from './generated'

export const directions = ['forwards', 'backwards', 'there and back', 'by chance'] as const

const key = z.number().int().min(0).max(127)
const percent = z.number().min(0).max(100)

const stepSchema = z.object({
  /** null: a rest. */
  key: key.nullable(),
  velocity: z.number().int().min(1).max(127),
  /** Goes on sounding from the step before. */
  isTied: z.boolean(),
  chance: percent,
})

const ownSettings = ['transpose', 'gate', 'force', 'chance', 'swing'] as const
const pulseSettings = ['pulses', 'steps', 'rotation', 'accent'] as const

type OwnSetting = (typeof ownSettings)[number]
type PulseSetting = (typeof pulseSettings)[number]

const movementSchema = z.object({ setting: z.enum([...ownSettings, ...pulseSettings]), ...movementFields })

export const laneSchema = z.object({
  id: z.string().min(1).max(100),
  name: z.string().min(1).max(longestName),
  isOn: z.boolean(),
  channel: z.number().int().min(1).max(16),
  /** A cable that gets the lane's notes too. */
  cable: z.string().max(longestName).nullable(),
  rate: z.enum(noteValueNames as [NoteValue, ...NoteValue[]]),
  direction: z.enum(directions),
  /** Place of the second of two steps, in percent: 50 is even. */
  swing: z.number().min(50).max(75),
  gate: z.number().min(5).max(100),
  transpose: z.number().min(-48).max(48),
  force: z.number().min(10).max(200),
  chance: percent,
  movements: z.array(movementSchema).max(8),
  pattern: z.discriminatedUnion('kind', [
    z.object({ kind: z.literal('steps'), steps: z.array(stepSchema).min(1).max(64) }),
    z.object({
      kind: z.literal('euclid'),
      pulses: z.number().int().min(0).max(64),
      steps: z.number().int().min(1).max(64),
      rotation: z.number().int().min(-64).max(64),
      key,
      velocity: z.number().int().min(1).max(127),
      /** Added to the first pulse of the pattern. */
      accent: z.number().int().min(0).max(60),
    }),
  ]),
})

export type Lane = Readonly<z.infer<typeof laneSchema>>
export type LaneStep = Readonly<z.infer<typeof stepSchema>>
export type LaneMovement = Readonly<z.infer<typeof movementSchema>>

export type MovableSetting = LaneMovement['setting']

/** Settings of a lane that can move with the bars: its numbers, and those of its pulses where it has any. */
export function movableSettings(lane: Lane): readonly MovableSetting[] {
  return lane.pattern.kind === 'euclid' ? [...ownSettings, ...pulseSettings] : ownSettings
}

/** Least and greatest value of what can move. */
export const movableRanges: Readonly<Record<MovableSetting, readonly [number, number]>> = {
  transpose: [-48, 48],
  gate: [5, 100],
  force: [10, 200],
  chance: [0, 100],
  swing: [50, 75],
  pulses: [0, 64],
  steps: [1, 64],
  rotation: [-64, 64],
  accent: [0, 60],
}

/** Steps as they are played: a Euclidean rhythm is steps too. */
export function stepsOf(pattern: Lane['pattern']): readonly LaneStep[] {
  if (pattern.kind === 'steps') return pattern.steps
  let isFirst = true
  return euclid(pattern.pulses, pattern.steps, pattern.rotation).map((isPulse) => {
    const velocity = Math.min(127, pattern.velocity + (isPulse && isFirst ? pattern.accent : 0))
    if (isPulse) isFirst = false
    return { key: isPulse ? pattern.key : null, velocity, isTied: false, chance: 100 }
  })
}

/**
 * The notes of a lane that begin within a stretch of time. Everything follows from the number of the step and the seed, so
 * that any stretch gives the same notes.
 */
export function laneNotes(lane: Lane, seed: number, fromTicks: Ticks, toTicks: Ticks): GeneratedNote[] {
  if (!lane.isOn) return []
  const stepTicks = noteValues[lane.rate]
  const lateOf = (index: number) =>
    index % 2 === 1
      ? Math.round((settingAt(lane, 'swing', lane.swing, index * stepTicks, seed) / 50 - 1) * stepTicks)
      : 0
  const onsetOf = (index: number) => index * stepTicks + lateOf(index)
  const stepsAt = patternAlong(lane, seed)
  const stepAt = (index: number) => {
    const steps = stepsAt(index * stepTicks)
    return steps[stepNumber(index, steps.length, lane.direction, seed)]!
  }
  const longestTie = lane.pattern.kind === 'steps' ? lane.pattern.steps.length : 0
  const notes: GeneratedNote[] = []
  // Swing puts a step off by half of it at the most.
  const first = Math.max(0, Math.floor((fromTicks - stepTicks / 2) / stepTicks))
  for (let index = first; onsetOf(index) < toTicks; index++) {
    const onsetTicks = onsetOf(index)
    if (onsetTicks < fromTicks) continue
    const step = stepAt(index)
    if (step.key === null || step.isTied) continue
    const at = (setting: OwnSetting) => settingAt(lane, setting, lane[setting], onsetTicks, seed)
    if (chance(seed, index, 1) * 100 >= step.chance || chance(seed, index, 2) * 100 >= at('chance')) continue
    let last = index
    while (last - index < longestTie && stepAt(last + 1).isTied) last++
    const key = step.key + Math.round(at('transpose'))
    if (key < 0 || key > 127) continue
    const untilTicks =
      onsetOf(last) + Math.max(1, Math.round(((onsetOf(last + 1) - onsetOf(last)) * at('gate')) / 100))
    notes.push({
      onsetTicks,
      durationTicks: untilTicks - onsetTicks,
      key,
      velocity: Math.max(1, Math.min(127, Math.round((step.velocity * at('force')) / 100))),
      channel: lane.channel,
      ...(lane.cable !== null && { cable: lane.cable }),
    })
  }
  return notes
}

/** The pattern at any place: pulses that move are spread anew for each step. */
function patternAlong(lane: Lane, seed: number): (tick: Ticks) => readonly LaneStep[] {
  const { pattern } = lane
  const isStill = !lane.movements.some(({ setting }) => pulseSettings.includes(setting as PulseSetting))
  if (pattern.kind === 'steps' || isStill) {
    const steps = stepsOf(pattern)
    return () => steps
  }
  const known = new Map<string, readonly LaneStep[]>()
  return (tick) => {
    const at = (setting: PulseSetting) => Math.round(settingAt(lane, setting, pattern[setting], tick, seed))
    const steps = Math.max(1, at('steps'))
    const moved = {
      ...pattern,
      steps,
      pulses: Math.min(at('pulses'), steps),
      rotation: at('rotation'),
      accent: at('accent'),
    }
    const address = `${moved.pulses} ${moved.steps} ${moved.rotation} ${moved.accent}`
    let result = known.get(address)
    if (!result) {
      result = stepsOf(moved)
      known.set(address, result)
    }
    return result
  }
}

/** A setting at a position, within its range; `still` where it does not move. */
function settingAt(lane: Lane, setting: MovableSetting, still: number, tick: Ticks, seed: number): number {
  const index = lane.movements.findIndex((movement) => movement.setting === setting)
  const movement = lane.movements[index]
  if (!movement) return still
  const [low, high] = movableRanges[setting]
  return Math.max(low, Math.min(high, movedTo(movement, tick, seed + index)))
}

function stepNumber(index: number, count: number, direction: Lane['direction'], seed: number): number {
  switch (direction) {
    case 'forwards':
      return index % count
    case 'backwards':
      return count - 1 - (index % count)
    case 'there and back': {
      const period = Math.max(1, 2 * count - 2)
      const within = index % period
      return within < count ? within : period - within
    }
    case 'by chance':
      return Math.floor(chance(seed, index, 3) * count)
  }
}
