import { type EffectSlot, isByChance } from '@/core/effects/catalogue'
import type { Project } from '@/core/project/schema'

const mostEarlier = 50

/** Something that plays by chance: its throw, and the throws before. */
export interface Thrown {
  readonly seed: number
  readonly isSeedKept: boolean
  readonly earlierSeeds: readonly number[]
}

/** A new seed; the one before can be returned to. */
export function throwAnew<Thing extends Thrown>(thing: Thing, seed = newSeed()): Thing {
  const earlierSeeds = [...thing.earlierSeeds.filter((earlier) => earlier !== seed), thing.seed].slice(
    -mostEarlier,
  )
  return { ...thing, seed, earlierSeeds }
}

export function newSeed(): number {
  return Math.floor(Math.random() * 1_000_000)
}

/**
 * Throws the dice of everything whose throw is not kept, as at every start.
 *
 * @returns the same project where there is nothing to throw
 */
export function throwForStart(project: Project): Project {
  const tracks = project.tracks.map(withThrownEffects)
  const sources = project.sources.map(withThrownEffects)
  const generators = project.generators.map((generator) =>
    generator.isPlaying && !generator.isSeedKept ? throwAnew(generator) : generator,
  )
  const isSame = <Thing>(now: readonly Thing[], before: readonly Thing[]) =>
    now.every((thing, index) => thing === before[index])
  if (
    isSame(tracks, project.tracks) &&
    isSame(sources, project.sources) &&
    isSame(generators, project.generators)
  )
    return project
  return { ...project, tracks, sources, generators }
}

function withThrownEffects<Owner extends { readonly effects: readonly EffectSlot[] }>(owner: Owner): Owner {
  if (!owner.effects.some(isThrown)) return owner
  return { ...owner, effects: owner.effects.map((slot) => (isThrown(slot) ? throwAnew(slot) : slot)) }
}

function isThrown(slot: EffectSlot): boolean {
  return slot.isOn && !slot.isSeedKept && isByChance(slot)
}
