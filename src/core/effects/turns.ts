import type { EffectSlot } from './catalogue'
import type { ChainPlan } from './chainRun'
import { chance } from './chance'

/**
 * The throw of a turn of a loop: the first turn has the throw itself, each further one another, always the same for the same turn,
 * so that the one that is liked can be kept.
 */
export function seedOfTurn(seed: number, turn: number): number {
  return turn === 0 ? seed : Math.floor(chance(seed, turn) * 1_000_000)
}

/** A chain with the throws of a turn; throws that are kept stay. The same list again for the same turn. */
export function slotsOfTurn(slots: readonly EffectSlot[], turn: number): readonly EffectSlot[] {
  if (turn === 0 || slots.every(({ isSeedKept }) => isSeedKept)) return slots
  const known = thrown.get(slots)
  if (known?.turn === turn) return known.slots
  const next = slots.map((slot) => (slot.isSeedKept ? slot : { ...slot, seed: seedOfTurn(slot.seed, turn) }))
  thrown.set(slots, { turn, slots: next })
  return next
}

const thrown = new WeakMap<
  readonly EffectSlot[],
  { readonly turn: number; readonly slots: readonly EffectSlot[] }
>()

/** The same for a chain with what was changed of it while it played. */
export function planOfTurn<Plan extends ChainPlan>(plan: Plan, turn: number): Plan {
  if (turn === 0) return plan
  return {
    ...plan,
    slots: slotsOfTurn(plan.slots, turn),
    changes: plan.changes.map((change) => ({ ...change, slots: slotsOfTurn(change.slots, turn) })),
  }
}
