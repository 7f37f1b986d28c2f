import { useState } from 'react'
import { longestName } from '@/core/text/bounded'

/** A line of words of the piece that is kept when it is left, by Enter or by going on; Escape leaves it as it was. */
export function PieceWord({
  label,
  value,
  isNeeded,
  onKeep,
}: {
  label: string
  value: string
  /** It cannot be empty. */
  isNeeded: boolean
  onKeep: (text: string) => void
}) {
  const [draft, setDraft] = useState<string | null>(null)
  const keep = () => {
    const text = draft?.trim()
    if (text !== undefined && text !== value && !(isNeeded && text === '')) onKeep(text)
    setDraft(null)
  }
  return (
    <label className="flex items-center gap-2 text-[13px]">
      <span className="w-20 text-soft">{label}</span>
      <input
        className="min-w-0 flex-1 rounded border border-rule bg-sheet px-2 py-1"
        maxLength={longestName}
        value={draft ?? value}
        onChange={(event) => setDraft(event.target.value)}
        onBlur={keep}
        onKeyDown={(event) => {
          if (event.key === 'Enter') event.currentTarget.blur()
          if (event.key === 'Escape') {
            event.stopPropagation()
            setDraft(null)
          }
        }}
      />
    </label>
  )
}
