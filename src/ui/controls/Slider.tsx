import { Slider as RadixSlider } from 'radix-ui'

/** A labelled slider; the value is shown by the caller where it is wanted. */
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
  valueText?: string
}) {
  return (
    <RadixSlider.Root
      className={`relative flex h-5 touch-none items-center select-none ${className ?? 'w-28'}`}
      value={[value]}
      min={min}
      max={max}
      step={step}
      onValueChange={([next]) => next !== undefined && onChange(next)}
    >
      <RadixSlider.Track className="relative h-[3px] grow rounded bg-rule">
        <RadixSlider.Range className="absolute h-full rounded bg-soft" />
      </RadixSlider.Track>
      <RadixSlider.Thumb
        className="block h-3.5 w-2 rounded-sm border border-ink bg-sheet hover:bg-desk"
        aria-label={label}
        aria-valuetext={valueText}
      />
    </RadixSlider.Root>
  )
}
