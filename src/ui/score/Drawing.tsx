import { type ComponentProps, useLayoutEffect, useRef } from 'react'

/** A line of music as the engraver drew it; it is one picture to those who do not see it. */
export function Drawing({
  svg,
  className = '',
  ...others
}: { svg: string } & Omit<ComponentProps<'div'>, 'ref'>) {
  const host = useRef<HTMLDivElement>(null)
  useLayoutEffect(() => {
    if (host.current) host.current.innerHTML = svg
  }, [svg])
  return <div ref={host} role="img" className={`engraved ${className}`} {...others} />
}
