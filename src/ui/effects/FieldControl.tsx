import { useState } from 'react'
import type { EffectSettings } from '@/core/effects/catalogue'
import type { Field } from '@/core/effects/settings'
import { keyName } from '@/core/event/note'
import { Choice } from '../controls/Choice'
import { Slider } from '../controls/Slider'
import { Tick } from '../controls/Tick'

type Value = EffectSettings[string]

/** The control that fits a setting. */
export function FieldControl({
  field,
  value,
  isMoving = false,
  onChange,
}: {
  field: Field
  value: Value
  isMoving?: boolean
  onChange: (value: Value) => void
}) {
  switch (field.type) {
    case 'number':
      return (
        <span className="flex items-center gap-1.5">
          <span className="text-soft">{field.label}</span>
          <Slider
            label={field.label}
            className="w-20"
            value={value as number}
            min={field.min}
            max={field.max}
            step={field.step}
            valueText={`${value}${field.unit && ` ${field.unit}`}`}
            onChange={onChange}
          />
          <span className="min-w-9 font-semibold">
            {isMoving ? 'moves' : `${value}${field.unit === '%' ? ' %' : field.unit && ` ${field.unit}`}`}
          </span>
        </span>
      )
    case 'key':
      return (
        <span className="flex items-center gap-1.5">
          <span className="text-soft">{field.label}</span>
          <Slider
            label={field.label}
            className="w-20"
            value={value as number}
            min={0}
            max={127}
            step={1}
            valueText={keyName(value as number)}
            onChange={onChange}
          />
          <span className="min-w-8 font-semibold">{keyName(value as number)}</span>
        </span>
      )
    case 'choice':
      return (
        <Choice
          label={field.label}
          value={value as string}
          options={field.options.map((option) => ({ value: option, text: option }))}
          onChange={onChange}
        />
      )
    case 'switch':
      return (
        <Tick isOn={value as boolean} onChange={onChange}>
          {field.label}
        </Tick>
      )
    case 'numbers':
      return <NumbersField field={field} value={value as readonly number[]} onChange={onChange} />
  }
}

/** Whole numbers typed one after the other. */
function NumbersField({
  field,
  value,
  onChange,
}: {
  field: Extract<Field, { type: 'numbers' }>
  value: readonly number[]
  onChange: (value: readonly number[]) => void
}) {
  const [draft, setDraft] = useState<string | null>(null)
  const text = draft ?? value.join(' ')
  const numbers = text
    .replaceAll('−', '-')
    .split(/[\s,;]+/)
    .filter(Boolean)
    .map(Number)
  const problem = numbers.some((number) => !Number.isInteger(number))
    ? 'whole numbers, please'
    : numbers.some((number) => number < field.min || number > field.max)
      ? `between ${field.min} and ${field.max}`
      : numbers.length > field.most
        ? `at most ${field.most}`
        : null
  const keep = () => {
    if (draft !== null && !problem) onChange(numbers)
    if (!problem) setDraft(null)
  }
  return (
    <label className="flex items-center gap-1.5">
      <span className="text-soft">{field.label}</span>
      <input
        className={`w-28 rounded border bg-sheet px-1.5 py-0.5 font-semibold ${problem ? 'border-live' : 'border-rule'}`}
        value={text}
        aria-invalid={problem !== null}
        onChange={(event) => setDraft(event.target.value)}
        onBlur={keep}
        onKeyDown={(event) => {
          if (event.key === 'Enter') keep()
          if (event.key === 'Escape') setDraft(null)
        }}
      />
      {problem && <span className="text-[12px] text-live">{problem}</span>}
    </label>
  )
}
