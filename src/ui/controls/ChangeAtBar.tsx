import { X } from 'lucide-react'
import type { ReactNode } from 'react'

/** A change that holds from a bar on, in a list of them; with a way to take it out where it can be. */
export function ChangeAtBar({
  bar,
  of,
  onRemove,
  children,
}: {
  bar: number
  /** What changes: "tempo". */
  of: string
  onRemove?: (() => void) | undefined
  children: ReactNode
}) {
  return (
    <li className="flex items-center gap-2 text-[13px]">
      <span className="w-16 shrink-0 text-soft">bar {bar}</span>
      {children}
      {onRemove && (
        <button
          type="button"
          className="ml-auto rounded p-0.5 hover:bg-desk"
          aria-label={`Take out the ${of} at bar ${bar}`}
          onClick={onRemove}
        >
          <X size={13} aria-hidden />
        </button>
      )}
    </li>
  )
}
