import { useLayoutEffect, useRef, useState } from 'react'

/** A small field for a number; Enter or leaving it keeps, Escape puts back, what is out of range is brought into it. */
export function NumberField({
  label,
  value,
  min,
  max,
  unit,
  onChange,
  isDecimal = false,
  className = 'w-14',
}: {
  label: string
  value: number
  min: number
  max: number
  unit?: string
  onChange: (value: number) => void
  isDecimal?: boolean
  className?: string
}) {
  const [draft, setDraft] = useState<string | null>(null)
  const input = useRef<HTMLInputElement>(null)
  // A value that changes from outside while the field is entered stays selected, so that typing replaces it.
  // biome-ignore lint/correctness/useExhaustiveDependencies: for each new value
  useLayoutEffect(() => {
    if (document.activeElement === input.current && draft === null) input.current?.select()
  }, [value])
  const keep = () => {
    const typed = Number((draft ?? '').replace(',', '.').replace('−', '-'))
    if (draft !== null && draft.trim() !== '' && Number.isFinite(typed)) {
      const wanted = Math.max(min, Math.min(max, isDecimal ? typed : Math.round(typed)))
      if (wanted !== value) onChange(wanted)
    }
    setDraft(null)
  }
  return (
    <label className="flex items-center gap-1.5 text-[12px]">
      <span className="text-soft whitespace-nowrap">{label}</span>
      <input
        ref={input}
        className={`rounded border border-rule bg-sheet px-1 py-0.5 text-right font-semibold hover:border-[#b9ad93] ${className}`}
        inputMode={isDecimal ? 'decimal' : 'numeric'}
        value={draft ?? String(Math.round(value * 100) / 100)}
        onFocus={(event) => event.target.select()}
        onChange={(event) => setDraft(event.target.value)}
        onBlur={keep}
        onKeyDown={(event) => {
          if (event.key === 'Enter') event.currentTarget.blur()
          if (event.key === 'Escape') setDraft(null)
          if (event.key !== 'ArrowUp' && event.key !== 'ArrowDown') return
          event.preventDefault()
          const step = event.key === 'ArrowUp' ? 1 : -1
          onChange(Math.max(min, Math.min(max, value + step)))
          setDraft(null)
        }}
      />
      {unit && <span className="text-soft">{unit}</span>}
    </label>
  )
}
