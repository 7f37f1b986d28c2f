import clsx from 'clsx'
import type { ComponentProps } from 'react'

type Look = 'plain' | 'main' | 'live' | 'quiet'

const looks: Record<Look, string> = {
  plain: 'border border-[#b9ad93] bg-sheet hover:bg-desk text-ink',
  main: 'border border-ink bg-ink text-paper hover:bg-[#363c43]',
  live: 'border border-live bg-live text-white hover:bg-[#a92210]',
  quiet: 'border border-transparent hover:bg-desk text-ink',
}

/** A push button in one of four looks. */
export function Button({ look = 'plain', className, ...props }: ComponentProps<'button'> & { look?: Look }) {
  return (
    <button
      type="button"
      {...props}
      className={clsx(
        'inline-flex items-center gap-1.5 rounded-md px-3 py-1.5 text-[13px] font-semibold whitespace-nowrap disabled:opacity-45',
        looks[look],
        className,
      )}
    />
  )
}
