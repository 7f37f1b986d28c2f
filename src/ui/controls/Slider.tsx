/** A small slider: the browser's own, since a track list has two for each of many tracks. */
export function Slider({
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
  className?: string
  valueText: string
}) {
  return (
    <input
      type="range"
      className={`h-4 ${className ?? 'w-28'}`}
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

/** A slider in a line of its own, with its name and value before it. */
export function SliderRow({
  name,
  ...slider
}: Omit<Parameters<typeof Slider>[0], 'label'> & { name: string }) {
  return (
    <div className="flex items-center justify-between gap-2">
      <span className="text-soft">
        {name} {slider.valueText}
      </span>
      <Slider label={name} {...slider} />
    </div>
  )
}
