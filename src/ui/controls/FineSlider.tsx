/** The browser's own slider, small: for places that have two for each of many tracks. */
export function FineSlider({
  label,
  value,
  min,
  max,
  step,
  onChange,
  className,
  valueText,
}: {
  label: string
  value: number
  min: number
  max: number
  step: number
  onChange: (value: number) => void
  className: string
  valueText: string
}) {
  return (
    <input
      type="range"
      className={`h-4 accent-[#565b61] ${className}`}
      aria-label={label}
      aria-valuetext={valueText}
      title={`${label}: ${valueText}`}
      value={value}
      min={min}
      max={max}
      step={step}
      onChange={(event) => onChange(event.target.valueAsNumber)}
      onClick={(event) => event.stopPropagation()}
    />
  )
}
