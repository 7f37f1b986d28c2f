import { useState } from 'react'
import { boundedName, longestName } from '@/core/text/bounded'

/** A name that becomes a field when it is pressed; Enter keeps, Escape puts back. */
export function EditableName({
  name,
  label,
  onRename,
  className,
}: {
  name: string
  label: string
  onRename: (name: string) => void
  className?: string
}) {
  const [draft, setDraft] = useState<string | null>(null)
  if (draft === null)
    return (
      <button
        type="button"
        className={`max-w-full truncate rounded text-left hover:bg-desk ${className ?? ''}`}
        title={`${name} (press to rename)`}
        aria-label={`${label}: ${name}. Rename`}
        onClick={() => setDraft(name)}
      >
        {name || 'Untitled'}
      </button>
    )
  const finish = () => {
    const kept = draft.trim()
    if (kept && kept !== name) onRename(boundedName(kept))
    setDraft(null)
  }
  return (
    <input
      // biome-ignore lint/a11y/noAutofocus: the field appears because the name was pressed
      autoFocus
      className={`w-full min-w-0 rounded border border-ink bg-sheet px-1 ${className ?? ''}`}
      aria-label={label}
      value={draft}
      maxLength={longestName}
      onChange={(event) => setDraft(event.target.value)}
      onBlur={finish}
      onKeyDown={(event) => {
        if (event.key === 'Enter') finish()
        if (event.key === 'Escape') setDraft(null)
      }}
    />
  )
}
