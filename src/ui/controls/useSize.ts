import { type RefObject, useEffect, useState } from 'react'

/** Width and height of an element in pixels, as they are and whenever they change; 0 before it stands on the page. */
export function useSize(host: RefObject<HTMLElement | null>): {
  readonly width: number
  readonly height: number
} {
  const [size, setSize] = useState({ width: 0, height: 0 })
  useEffect(() => {
    const element = host.current
    if (!element) return
    const observer = new ResizeObserver(() =>
      setSize({ width: element.clientWidth, height: element.clientHeight }),
    )
    observer.observe(element)
    return () => observer.disconnect()
  }, [host])
  return size
}
