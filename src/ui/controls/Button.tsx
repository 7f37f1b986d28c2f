import type { ComponentProps } from 'react'
import { twMerge } from 'tailwind-merge'

type Look = 'plain' | 'main' | 'live' | 'quiet'

const looks: Record<Look, string> = {
  plain:
    'border border-[#b9ad93] bg-sheet hover:bg-desk text-ink aria-pressed:border-ink aria-pressed:bg-ink aria-pressed:text-paper',
  main: 'border border-ink bg-ink text-paper hover:bg-[#363c43]',
  live: 'border border-live bg-live text-white hover:bg-[#a92210]',
  quiet: 'border border-transparent hover:bg-desk text-ink',
}

/** A push button in one of four looks; classes given from outside win over its own. */
export function Button({ look = 'plain', className, ...props }: ComponentProps<'button'> & { look?: Look }) {
  return (
    <button
      type="button"
      {...props}
      className={twMerge(
        'inline-flex items-center gap-1.5 rounded-md px-3 py-1.5 text-[13px] font-semibold whitespace-nowrap disabled:opacity-45',
        looks[look],
        className,
      )}
    />
  )
}
