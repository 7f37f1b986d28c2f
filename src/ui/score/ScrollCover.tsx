import { useEffect, useRef } from 'react'

/** After the last movement it is still scrolling for so long. */
const restMs = 120

/**
 * Lies over the page while it scrolls: otherwise the browser looks, at each frame, which of thousands of signs the pointer is on.
 */
export function ScrollCover({ scroller }: { scroller: React.RefObject<HTMLElement | null> }) {
  const cover = useRef<HTMLDivElement>(null)
  useEffect(() => {
    const host = scroller.current
    if (!host) return
    let timer: ReturnType<typeof setTimeout> | undefined
    const onScroll = () => {
      if (timer === undefined && cover.current) {
        cover.current.style.height = `${host.clientHeight}px`
        cover.current.style.display = 'block'
      }
      clearTimeout(timer)
      timer = setTimeout(() => {
        timer = undefined
        if (cover.current) cover.current.style.display = 'none'
      }, restMs)
    }
    /** A press so soon after the page moved is meant for what lies beneath. */
    const passOn = (event: MouseEvent) => {
      const { type, clientX, clientY, shiftKey, ctrlKey, metaKey, altKey, detail } = event
      if (cover.current) cover.current.style.display = 'none'
      event.stopPropagation()
      document.elementFromPoint(clientX, clientY)?.dispatchEvent(
        new MouseEvent(type, {
          bubbles: true,
          cancelable: true,
          clientX,
          clientY,
          shiftKey,
          ctrlKey,
          metaKey,
          altKey,
          detail,
        }),
      )
    }
    const own = cover.current
    for (const press of ['click', 'dblclick'] as const) own?.addEventListener(press, passOn)
    host.addEventListener('scroll', onScroll, { passive: true })
    return () => {
      clearTimeout(timer)
      for (const press of ['click', 'dblclick'] as const) own?.removeEventListener(press, passOn)
      host.removeEventListener('scroll', onScroll)
    }
  }, [scroller])
  return (
    <div className="sticky top-0 left-0 z-10 h-0 w-0" aria-hidden>
      <div ref={cover} className="absolute top-0 left-0 w-[100vw]" style={{ display: 'none' }} />
    </div>
  )
}
