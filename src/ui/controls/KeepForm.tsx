import { useState } from 'react'
import { Button } from './Button'

/** A name to keep something under; one that is taken is replaced, and the button says so. */
export function KeepForm({
  label,
  names,
  onKeep,
  onForget,
}: {
  label: string
  /** Names that are taken. */
  names: readonly string[]
  /** @returns whether it was kept */
  onKeep: (name: string) => Promise<boolean>
  onForget: (name: string) => void
}) {
  const [draft, setDraft] = useState('')
  const name = draft.trim()
  const isTaken = names.includes(name)
  return (
    <form
      className="flex items-center gap-1.5"
      onSubmit={(event) => {
        event.preventDefault()
        if (name) void onKeep(name).then((isKept) => isKept && setDraft(''))
      }}
    >
      <input
        aria-label={label}
        placeholder={label.toLowerCase()}
        className="w-40 rounded border border-rule bg-sheet px-2 py-1 text-[13px]"
        maxLength={100}
        value={draft}
        onChange={(event) => setDraft(event.target.value)}
      />
      <Button type="submit" disabled={!name}>
        {isTaken ? 'Replace it' : 'Keep it'}
      </Button>
      {isTaken && (
        <Button look="quiet" onClick={() => onForget(name)}>
          Forget “{name}”
        </Button>
      )}
    </form>
  )
}
