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
    case 'number': {
      const unit = field.unit && ` ${field.unit}`
      return (
        <SliderField
          label={field.label}
          range={field}
          value={value as number}
          text={`${value}${unit}`}
          shown={isMoving ? 'moves' : undefined}
          onChange={onChange}
        />
      )
    }
    case 'key':
      return (
        <SliderField
          label={field.label}
          range={keyRange}
          value={value as number}
          text={keyName(value as number)}
          onChange={onChange}
        />
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

const keyRange = { min: 0, max: 127, step: 1 }

function SliderField({
  label,
  range: { min, max, step },
  value,
  text,
  shown = text,
  onChange,
}: {
  label: string
  range: { readonly min: number; readonly max: number; readonly step: number }
  value: number
  /** The value in words. */
  text: string
  /** What stands beside the slider where it is not the value. */
  shown?: string
  onChange: (value: number) => void
}) {
  return (
    <span className="flex items-center gap-1.5">
      <span className="text-soft">{label}</span>
      <Slider
        label={label}
        className="w-20"
        value={value}
        min={min}
        max={max}
        step={step}
        valueText={text}
        onChange={onChange}
      />
      <span className="min-w-9 font-semibold">{shown}</span>
    </span>
  )
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
