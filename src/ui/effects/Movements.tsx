import { X } from 'lucide-react'
import { type EffectSlot, effectOf, type Movement } from '@/core/effects/catalogue'
import { shapeNames } from '@/core/effects/shape/shapes'
import { Button } from '../controls/Button'
import { Choice } from '../controls/Choice'
import { NumberField } from '../controls/NumberField'
import type { ChangeSlot } from './slotTypes'

/** Settings of an effect that move with the bars. */
export function Movements({ slot, onChange }: { slot: EffectSlot; onChange: ChangeSlot }) {
  const { fields } = effectOf(slot.kind)
  const movable = Object.entries(fields).filter(
    ([name, field]) =>
      field.type === 'number' && !slot.movements.some((movement) => movement.setting === name),
  )
  const add = (setting: string) => {
    const field = fields[setting]
    if (field?.type !== 'number') return
    const movement: Movement = {
      setting,
      shape: 'sine',
      periodQuarters: 4,
      from: field.min,
      to: field.max,
      points: [0, 50, 100, 50],
    }
    onChange(`let ${field.label.toLowerCase()} move`, (old) => ({
      ...old,
      movements: [...old.movements, movement],
    }))
  }
  return (
    <>
      {slot.movements.map((movement) => (
        <MovementRow
          key={movement.setting}
          movement={movement}
          title={fields[movement.setting]?.label ?? movement.setting}
          range={rangeOf(fields[movement.setting])}
          onChange={(next) =>
            onChange(
              'change a movement',
              (old) => ({
                ...old,
                movements: old.movements.map((each) => (each.setting === movement.setting ? next : each)),
              }),
              `movement ${movement.setting}`,
            )
          }
          onRemove={() =>
            onChange('end a movement', (old) => ({
              ...old,
              movements: old.movements.filter((each) => each.setting !== movement.setting),
            }))
          }
        />
      ))}
      {movable.length > 0 && (
        <select
          aria-label={`Let a setting of ${effectOf(slot.kind).title} move`}
          className="rounded border border-rule bg-sheet px-1.5 py-0.5 text-[12px] text-soft"
          value=""
          onChange={(event) => add(event.target.value)}
        >
          <option value="">let a setting move…</option>
          {movable.map(([name, field]) => (
            <option key={name} value={name}>
              {field.label}
            </option>
          ))}
        </select>
      )}
    </>
  )
}

function rangeOf(
  field: ReturnType<typeof effectOf>['fields'][string] | undefined,
): readonly [number, number] {
  return field?.type === 'number' ? [field.min, field.max] : [0, 127]
}

/** One movement: its shape, how long a turn takes, between which values. */
export function MovementRow<M extends Omit<Movement, 'setting'>>({
  movement,
  title,
  range: [min, max],
  onChange,
  onRemove,
}: {
  movement: M
  title: string
  range: readonly [number, number]
  onChange: (movement: M) => void
  onRemove: () => void
}) {
  const hasPoints = movement.shape === 'steps' || movement.shape === 'drawn'
  return (
    <span className="flex flex-wrap items-center gap-2 rounded-md bg-desk px-2 py-1 text-[12px]">
      <strong>moving {title.toLowerCase()}</strong>
      <Choice
        label="shape"
        isLabelHidden
        className="text-[12px]"
        value={movement.shape}
        options={shapeNames.map((shape) => ({ value: shape, text: shape }))}
        onChange={(shape) => onChange({ ...movement, shape })}
      />
      <NumberField
        label="once in"
        unit="quarters"
        className="w-11"
        isDecimal
        value={movement.periodQuarters}
        min={0.25}
        max={256}
        onChange={(periodQuarters) => onChange({ ...movement, periodQuarters })}
      />
      <NumberField
        label="from"
        className="w-11"
        isDecimal
        value={movement.from}
        min={min}
        max={max}
        onChange={(from) => onChange({ ...movement, from })}
      />
      <NumberField
        label="to"
        className="w-11"
        isDecimal
        value={movement.to}
        min={min}
        max={max}
        onChange={(to) => onChange({ ...movement, to })}
      />
      {hasPoints && (
        <DrawnPoints
          points={movement.points}
          title={title}
          onChange={(points) => onChange({ ...movement, points })}
        />
      )}
      <Button
        look="quiet"
        className="px-1 py-0"
        aria-label={`End the movement of ${title}`}
        onClick={onRemove}
      >
        <X size={13} aria-hidden />
      </Button>
    </span>
  )
}

/** Points of a shape, drawn as bars: each a slider of its own for the keyboard. */
function DrawnPoints({
  points,
  title,
  onChange,
}: {
  points: readonly number[]
  title: string
  onChange: (points: number[]) => void
}) {
  return (
    <span className="flex items-end gap-px">
      {points.map((point, index) => (
        <input
          key={index}
          type="range"
          aria-label={`Point ${index + 1} of ${title}`}
          min={0}
          max={100}
          value={point}
          className="h-8 w-3.5"
          style={{ writingMode: 'vertical-lr', direction: 'rtl' }}
          onChange={(event) =>
            onChange(points.map((old, place) => (place === index ? event.target.valueAsNumber : old)))
          }
        />
      ))}
      <Button
        look="quiet"
        className="px-1 py-0 text-[12px]"
        onClick={() => onChange([...points, 50].slice(0, 32))}
      >
        +
      </Button>
      <Button
        look="quiet"
        className="px-1 py-0 text-[12px]"
        disabled={points.length < 2}
        onClick={() => onChange(points.slice(0, -1))}
      >
        −
      </Button>
    </span>
  )
}
