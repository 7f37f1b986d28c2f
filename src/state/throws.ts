import { type EffectSlot, effectOf } from '@/core/effects/catalogue'
import type { Project } from '@/core/project/schema'

const mostEarlier = 50

interface Thrown {
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
  const slots = (list: readonly EffectSlot[]) =>
    list.some(isThrown) ? list.map((slot) => (isThrown(slot) ? throwAnew(slot) : slot)) : list
  const isAny =
    project.tracks.some((track) => track.effects.some(isThrown)) ||
    project.sources.some((source) => source.effects.some(isThrown)) ||
    project.generators.some((generator) => generator.isPlaying && !generator.isSeedKept)
  if (!isAny) return project
  return {
    ...project,
    tracks: project.tracks.map((track) => ({ ...track, effects: slots(track.effects) })),
    sources: project.sources.map((source) => ({ ...source, effects: [...slots(source.effects)] })),
    generators: project.generators.map((generator) =>
      generator.isPlaying && !generator.isSeedKept ? throwAnew(generator) : generator,
    ),
  }
}

function isThrown(slot: EffectSlot): boolean {
  return slot.isOn && !slot.isSeedKept && effectOf(slot.kind).usesChance
}
