import type { ReactNode } from 'react'

/** A part of a side panel that folds; its state is said in a word before it is opened. */
export function Section({
  title,
  state,
  children,
  isOpenAtFirst = false,
}: {
  title: string
  state?: string
  children: ReactNode
  isOpenAtFirst?: boolean
}) {
  return (
    <details className="group border-b border-rule py-1.5" open={isOpenAtFirst || undefined}>
      <summary className="flex cursor-pointer list-none items-baseline justify-between gap-2 py-0.5">
        <span className="font-serif text-[15px] font-semibold group-open:underline group-open:decoration-rule group-open:underline-offset-4">
          {title}
        </span>
        <span className="truncate text-[12px] text-soft">{state}</span>
      </summary>
      <div className="space-y-2 pt-1.5 pb-2 text-[13px]">{children}</div>
    </details>
  )
}
