import { DndContext, type DragEndEvent } from '@dnd-kit/core'
import { arrayMove, SortableContext, verticalListSortingStrategy } from '@dnd-kit/sortable'
import { Plus } from 'lucide-react'
import { DropdownMenu } from 'radix-ui'
import {
  type EffectKind,
  type EffectSlot,
  effectGroups,
  effectKinds,
  effectOf,
  newSlot,
} from '@/core/effects/catalogue'
import type { ChainPreset } from '@/state/rig'
import { newSeed } from '@/state/throws'
import { Button } from '../controls/Button'
import { KeepForm } from '../controls/KeepForm'
import { useListSensors } from '../controls/useListSensors'
import { useKeptChains } from './keptChains'
import { SlotCard } from './SlotCard'
import type { ChainPlace, SlotFlow } from './slotTypes'

/** Effects one after the other: put in, taken out, moved by dragging or by keys, set. */
export function ChainEditor({
  slots,
  owner,
  place,
  flows,
  onChange,
}: {
  slots: readonly EffectSlot[]
  owner: string
  place: ChainPlace
  /** By slot id; empty where nothing is known of what passes. */
  flows: ReadonlyMap<string, SlotFlow>
  onChange: (
    label: string,
    change: (slots: readonly EffectSlot[]) => readonly EffectSlot[],
    group?: string,
  ) => void
}) {
  const sensors = useListSensors()
  const add = (kind: EffectKind) =>
    onChange(`put in ${effectOf(kind).title.toLowerCase()}`, (before) => [
      ...before,
      newSlot(kind, freshId(before), {}, newSeed()),
    ])
  const move = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return
    onChange('move an effect', (before) => {
      const from = before.findIndex((slot) => slot.id === active.id)
      const to = before.findIndex((slot) => slot.id === over.id)
      return arrayMove([...before], from, to)
    })
  }
  return (
    <section aria-label={`Effects of ${owner}`}>
      <DndContext id="chain" sensors={sensors} onDragEnd={move}>
        <SortableContext items={slots.map((slot) => slot.id)} strategy={verticalListSortingStrategy}>
          <ol className="space-y-2">
            {slots.map((slot, index) => (
              <SlotCard
                key={slot.id}
                slot={slot}
                place={place}
                number={index + 1}
                flow={flows.get(slot.id) ?? null}
                onChange={(label, change, group) =>
                  onChange(
                    label,
                    (before) => before.map((each) => (each.id === slot.id ? change(each) : each)),
                    group && `${slot.id} ${group}`,
                  )
                }
                onRemove={() =>
                  onChange(`take out ${effectOf(slot.kind).title.toLowerCase()}`, (before) =>
                    before.filter((each) => each.id !== slot.id),
                  )
                }
              />
            ))}
          </ol>
        </SortableContext>
      </DndContext>
      <div className="mt-2 flex flex-wrap items-center gap-2">
        <EffectMenu onAdd={add} isFirst={slots.length === 0} />
        <KeptChains
          slots={slots}
          onTake={(preset) =>
            onChange(`take the chain “${preset.name}”`, () =>
              preset.slots.map((slot, index) => ({ ...slot, id: `${slot.kind}-${index + 1}` })),
            )
          }
        />
      </div>
    </section>
  )
}

function freshId(slots: readonly EffectSlot[]): string {
  let number = slots.length + 1
  while (slots.some((slot) => slot.id === `effect-${number}`)) number++
  return `effect-${number}`
}

function EffectMenu({ onAdd, isFirst }: { onAdd: (kind: EffectKind) => void; isFirst: boolean }) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <Button look={isFirst ? 'main' : 'plain'}>
          <Plus size={15} aria-hidden /> Put in an effect
        </Button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          collisionPadding={12}
          className="z-30 max-h-[var(--radix-dropdown-menu-content-available-height)] w-[940px] max-w-[calc(100vw-40px)] columns-3 gap-3 overflow-y-auto rounded-lg border border-[#b9ad93] bg-sheet p-2 shadow-lg"
        >
          {effectGroups.map(({ group, title }) => (
            <DropdownMenu.Group key={group} className="mb-1.5 break-inside-avoid-column">
              <DropdownMenu.Label className="px-2 font-serif text-[15px] font-semibold">
                {title}
              </DropdownMenu.Label>
              {effectKinds
                .filter((kind) => effectOf(kind).group === group)
                .map((kind) => (
                  <DropdownMenu.Item
                    key={kind}
                    className="cursor-pointer rounded-md px-2 py-0.5 outline-none data-[highlighted]:bg-desk"
                    onSelect={() => onAdd(kind)}
                  >
                    <span className="text-[13px] font-semibold">{effectOf(kind).title}</span>{' '}
                    <span className="text-[11px] leading-tight text-soft">{effectOf(kind).says}</span>
                  </DropdownMenu.Item>
                ))}
            </DropdownMenu.Group>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}

/** Whole chains kept under a name, for any project. */
function KeptChains({
  slots,
  onTake,
}: {
  slots: readonly EffectSlot[]
  onTake: (preset: ChainPreset) => void
}) {
  const { chains, keep, forget } = useKeptChains()
  return (
    <>
      {chains.length > 0 && (
        <select
          aria-label="Take a kept chain"
          className="rounded border border-rule bg-sheet px-1.5 py-1 text-[13px] font-semibold"
          value=""
          onChange={(event) => {
            const preset = chains.find((each) => each.name === event.target.value)
            if (preset) onTake(preset)
          }}
        >
          <option value="">kept chains…</option>
          {chains.map((preset) => (
            <option key={preset.name}>{preset.name}</option>
          ))}
        </select>
      )}
      {slots.length > 0 && (
        <KeepForm
          label="Name for this chain"
          names={chains.map((chain) => chain.name)}
          onKeep={(name) => keep({ name, slots })}
          onForget={(name) => void forget(name)}
        />
      )}
    </>
  )
}
