import type { ReactNode } from 'react'

/** A labelled box to tick; red where it arms for recording. */
export function Tick({
  isOn,
  onChange,
  children,
  isDisabled = false,
  arms = false,
}: {
  isOn: boolean
  onChange: (isOn: boolean) => void
  children: ReactNode
  isDisabled?: boolean
  arms?: boolean
}) {
  return (
    <label className="flex min-w-0 items-center gap-1.5 text-[13px]">
      <input
        type="checkbox"
        className={arms ? 'accent-live' : 'accent-[#1f2328]'}
        checked={isOn}
        disabled={isDisabled}
        onChange={(event) => onChange(event.target.checked)}
      />
      {children}
    </label>
  )
}
