import { useSortable } from '@dnd-kit/sortable'
import { CSS } from '@dnd-kit/utilities'
import { ChevronDown, GripVertical, Trash2 } from 'lucide-react'
import { useState } from 'react'
import { type EffectSettings, type EffectSlot, effectOf, isByChance } from '@/core/effects/catalogue'
import { Button } from '../controls/Button'
import { Tick } from '../controls/Tick'
import { FieldControl } from './FieldControl'
import { Movements } from './Movements'
import { NowSounding } from './NowSounding'
import { PresetChoice } from './PresetChoice'
import type { ChainPlace, ChangeSlot, SlotFlow } from './slotTypes'
import { ThrowControl } from './ThrowControl'

/** One effect: what it does, its settings, what goes in and what comes out. */
export function SlotCard({
  slot,
  place,
  number,
  flow,
  onChange,
  onRemove,
}: {
  slot: EffectSlot
  place: ChainPlace
  number: number
  flow: SlotFlow | null
  onChange: ChangeSlot
  onRemove: () => void
}) {
  const effect = effectOf(slot.kind)
  const [isOpen, setOpen] = useState(true)
  const sortable = useSortable({ id: slot.id })
  const set = (name: string, value: EffectSettings[string]) =>
    onChange(
      `${effect.fields[name]!.label.toLowerCase()} of ${effect.title.toLowerCase()}`,
      (old) => ({ ...old, settings: { ...old.settings, [name]: value } }),
      name,
    )
  return (
    <li
      ref={sortable.setNodeRef}
      style={{ transform: CSS.Translate.toString(sortable.transform), transition: sortable.transition }}
      data-effect={slot.kind}
      className={`rounded-lg border bg-sheet px-3 py-2 ${slot.isOn ? 'border-[#b9ad93]' : 'border-dashed border-rule'} ${sortable.isDragging ? 'relative z-10 shadow-lg' : ''}`}
    >
      <div className="flex items-center gap-2">
        <button
          type="button"
          className="cursor-grab rounded p-0.5 text-soft hover:bg-desk"
          aria-label={`Move ${effect.title}: space, then arrows`}
          {...sortable.attributes}
          {...sortable.listeners}
        >
          <GripVertical size={16} aria-hidden />
        </button>
        <span className="text-[13px] text-soft">{number}</span>
        <h3 className={`font-serif text-base font-semibold ${slot.isOn ? '' : 'text-soft'}`}>
          {effect.title}
        </h3>
        <Tick
          isOn={slot.isOn}
          onChange={(isOn) =>
            onChange(isOn ? `switch ${effect.title} on` : `switch ${effect.title} off`, (old) => ({
              ...old,
              isOn,
            }))
          }
        >
          on
        </Tick>
        <Tick
          isOn={slot.isSolo}
          onChange={(isSolo) =>
            onChange(isSolo ? `hear ${effect.title} alone` : 'hear the whole chain', (old) => ({
              ...old,
              isSolo,
            }))
          }
        >
          alone
        </Tick>
        <NowSounding slot={slot} place={place} flow={flow} />
        <span className="ml-auto flex items-center gap-1">
          <PresetChoice slot={slot} onChange={onChange} />
          <Button look="quiet" className="px-1.5" aria-label={`Take out ${effect.title}`} onClick={onRemove}>
            <Trash2 size={14} aria-hidden />
          </Button>
          <button
            type="button"
            aria-expanded={isOpen}
            aria-label={`Settings of ${effect.title}`}
            className="rounded p-0.5 text-soft hover:bg-desk"
            onClick={() => setOpen(!isOpen)}
          >
            <ChevronDown size={15} className={isOpen ? 'rotate-180' : ''} aria-hidden />
          </button>
        </span>
      </div>
      {isOpen && (
        <>
          <p className="mt-0.5 text-[12px] text-soft">{effect.says}</p>
          <div className="mt-1.5 flex flex-wrap items-center gap-x-5 gap-y-1.5 text-[13px]">
            {Object.entries(effect.fields).map(([name, field]) => (
              <FieldControl
                key={name}
                field={field}
                value={slot.settings[name]!}
                isMoving={slot.movements.some((movement) => movement.setting === name)}
                onChange={(value) => set(name, value)}
              />
            ))}
          </div>
          <div className="mt-1.5 flex flex-wrap items-center gap-x-5 gap-y-1">
            {isByChance(slot) && <ThrowControl thrown={slot} onChange={onChange} />}
            <Movements slot={slot} onChange={onChange} />
          </div>
        </>
      )}
    </li>
  )
}
