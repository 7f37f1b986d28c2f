import type { RefObject } from 'react'

/** Lets a file be picked when a button of another look is pressed; the same file can be picked again. */
export function FileInput({
  input,
  label,
  accept,
  onPick,
}: {
  /** To be clicked by the button. */
  input: RefObject<HTMLInputElement | null>
  label: string
  accept: string
  onPick: (file: File) => void
}) {
  return (
    <input
      ref={input}
      type="file"
      className="hidden"
      aria-label={label}
      accept={accept}
      onChange={(event) => {
        const file = event.target.files?.[0]
        event.target.value = ''
        if (file) onPick(file)
      }}
    />
  )
}
