import type { RefObject } from 'react'

/** Lets files be picked when a button of another look is pressed; the same file can be picked again. */
export function FileInput({
  input,
  label,
  accept,
  isMany = false,
  onPick,
}: {
  /** To be clicked by the button. */
  input: RefObject<HTMLInputElement | null>
  label: string
  accept: string
  /** Several files can be picked at once. */
  isMany?: boolean
  /** One file at least. */
  onPick: (files: readonly File[]) => void
}) {
  return (
    <input
      ref={input}
      type="file"
      className="hidden"
      aria-label={label}
      accept={accept}
      multiple={isMany}
      onChange={(event) => {
        const files = [...(event.target.files ?? [])]
        event.target.value = ''
        if (files.length > 0) onPick(files)
      }}
    />
  )
}
