import { useState } from 'react'
import { type EffectSettings, type EffectSlot, effectOf } from '@/core/effects/catalogue'
import { KeepForm } from '../controls/KeepForm'
import { useKeptChains } from './keptChains'
import type { ChangeSlot } from './slotTypes'

const keepIt = 'keep'

/** The presets of an effect, those that come with it and those that were kept. */
export function PresetChoice({ slot, onChange }: { slot: EffectSlot; onChange: ChangeSlot }) {
  const { title, presets } = effectOf(slot.kind)
  const { chains, presetsOf, keep, forget } = useKeptChains()
  const [isKeeping, setKeeping] = useState(false)
  const kept = presetsOf(slot.kind)
  const take = (name: string, settings: EffectSettings, movements = slot.movements) =>
    onChange(`take the preset “${name}”`, (old) => ({
      ...old,
      settings: { ...old.settings, ...settings },
      movements,
    }))
  const choose = (value: string) => {
    const [from, name] = [value.slice(0, value.indexOf(' ')), value.slice(value.indexOf(' ') + 1)]
    if (value === keepIt) setKeeping(true)
    else if (from === 'own') take(name, presets[name] as EffectSettings)
    else {
      const chain = kept.find((each) => each.name === name)
      if (chain) take(name, chain.slots[0]!.settings, chain.slots[0]!.movements)
    }
  }
  return (
    <>
      {isKeeping && (
        <KeepForm
          label={`Name for this ${title.toLowerCase()}`}
          names={chains.map((chain) => chain.name)}
          onKeep={async (name) => {
            const isKept = await keep({ name, slots: [slot] })
            if (isKept) setKeeping(false)
            return isKept
          }}
          onForget={(name) => void forget(name)}
        />
      )}
      <select
        aria-label={`Presets of ${title}`}
        className="rounded border border-rule bg-sheet px-1.5 py-0.5 text-[13px]"
        value=""
        onChange={(event) => choose(event.target.value)}
      >
        <option value="">presets…</option>
        {Object.keys(presets).map((name) => (
          <option key={name} value={`own ${name}`}>
            {name}
          </option>
        ))}
        {kept.length > 0 && (
          <optgroup label="kept">
            {kept.map(({ name }) => (
              <option key={name} value={`kept ${name}`}>
                {name}
              </option>
            ))}
          </optgroup>
        )}
        <option value={keepIt}>keep these settings…</option>
      </select>
    </>
  )
}
