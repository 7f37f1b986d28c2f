import type { ReactNode } from 'react'

/** A labelled choice of one out of several. */
export function Choice<Value extends string | number>({
  label,
  value,
  options,
  onChange,
  isLabelHidden = false,
  className,
  isDisabled = false,
}: {
  label: string
  value: Value
  options: readonly { value: Value; text: string }[]
  onChange: (value: Value) => void
  isLabelHidden?: boolean
  className?: string
  isDisabled?: boolean
}) {
  return (
    <label className={`flex items-center gap-2 text-[13px] ${className ?? ''}`}>
      <span className={isLabelHidden ? 'sr-only' : 'text-soft whitespace-nowrap'}>{label}</span>
      <select
        aria-label={label}
        className="min-w-0 truncate rounded border border-rule bg-sheet px-1.5 py-0.5 font-semibold hover:border-[#b9ad93]"
        value={value}
        disabled={isDisabled}
        onChange={(event) => {
          const chosen = options.find((option) => String(option.value) === event.target.value)
          if (chosen) onChange(chosen.value)
        }}
      >
        {options.map((option) => (
          <option key={option.value} value={option.value}>
            {option.text}
          </option>
        ))}
      </select>
    </label>
  )
}

/** A heading of a column, with room for something at its end. */
export function ColumnHeading({ children, end }: { children: ReactNode; end?: ReactNode }) {
  return (
    <div className="mb-2 flex items-baseline justify-between">
      <h2 className="font-serif text-lg font-semibold">{children}</h2>
      {end}
    </div>
  )
}
