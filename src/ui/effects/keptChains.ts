import { useEffect } from 'react'
import { useStore } from 'zustand'
import { createStore } from 'zustand/vanilla'
import type { EffectKind } from '@/core/effects/catalogue'
import { type ChainPreset, deleteChainPreset, listChainPresets, saveChainPreset } from '@/state/rig'
import { useSession } from '../workspace/sessionContext'

const kept = createStore<readonly ChainPreset[]>(() => [])

/** @returns names of chains that cannot be read */
async function refresh(): Promise<readonly string[]> {
  const { presets, unreadable } = await listChainPresets()
  kept.setState(presets, true)
  return unreadable
}

/** Chains kept under a name, for any project, and what can be done with them; a chain of one effect is its preset. */
export function useKeptChains() {
  const session = useSession()
  const chains = useStore(kept)
  useEffect(() => {
    refresh()
      .then((unreadable) => {
        if (unreadable.length > 0)
          session.notify(
            `The kept chain ${unreadable.map((name) => `“${name}”`).join(', ')} cannot be read and cannot be chosen. Nothing of it was deleted.`,
            true,
          )
      })
      .catch((error) => session.notify(`Kept chains cannot be read: ${error.message}`, true))
  }, [session])
  const attempt = (work: Promise<void>) =>
    work
      .then(refresh)
      .then(() => true)
      .catch((error) => {
        session.notify(`Nothing was kept: ${error.message}`, true)
        return false
      })
  return {
    chains,
    presetsOf: (kind: EffectKind) =>
      chains.filter(({ slots }) => slots.length === 1 && slots[0]!.kind === kind),
    /** @returns whether it is kept now */
    keep: (chain: ChainPreset) => attempt(saveChainPreset(chain)),
    forget: (name: string) => attempt(deleteChainPreset(name)),
  }
}
