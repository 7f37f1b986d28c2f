import type { EffectKind } from '@/core/effects/catalogue'
import { keptChains } from '@/state/rig'
import { useKept } from '../controls/useKept'

/** Chains kept under a name; a chain of one effect is its preset. */
export function useKeptChains() {
  const { kept, keep, forget } = useKept(keptChains, 'chain')
  return {
    chains: kept,
    presetsOf: (kind: EffectKind) =>
      kept.filter(({ slots }) => slots.length === 1 && slots[0]!.kind === kind),
    keep,
    forget,
  }
}
