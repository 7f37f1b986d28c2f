import { type RefObject, useEffect, useRef } from 'react'
import { type FingerPair, pinched, type TimeView } from './timeView'

/**
 * Scrolls and zooms a canvas with two fingers.
 *
 * @param leftPx where time begins in the element
 * @param onBegin the second finger came down: what the first was doing is not meant
 */
export function usePinch(
  host: RefObject<HTMLElement | null>,
  leftPx: number,
  view: TimeView,
  onView: (view: TimeView) => void,
  onBegin?: () => void,
): void {
  const latest = useRef({ view, onView, onBegin })
  latest.current = { view, onView, onBegin }
  useEffect(() => {
    const element = host.current
    if (!element) return
    let last: FingerPair | null = null
    const pairOf = (event: TouchEvent): FingerPair | null => {
      if (event.touches.length !== 2) return null
      const [first, second] = [event.touches[0]!.clientX, event.touches[1]!.clientX]
      const left = element.getBoundingClientRect().left + leftPx
      return { middle: (first + second) / 2 - left, apart: Math.abs(first - second) }
    }
    const onStart = (event: TouchEvent) => {
      last = pairOf(event)
      if (!last) return
      event.preventDefault()
      latest.current.onBegin?.()
    }
    const onMove = (event: TouchEvent) => {
      const now = pairOf(event)
      if (!now || !last) return
      event.preventDefault()
      latest.current.onView(pinched(latest.current.view, last, now))
      last = now
    }
    const onEnd = (event: TouchEvent) => {
      last = pairOf(event)
    }
    const options = { passive: false }
    element.addEventListener('touchstart', onStart, options)
    element.addEventListener('touchmove', onMove, options)
    element.addEventListener('touchend', onEnd)
    element.addEventListener('touchcancel', onEnd)
    return () => {
      element.removeEventListener('touchstart', onStart)
      element.removeEventListener('touchmove', onMove)
      element.removeEventListener('touchend', onEnd)
      element.removeEventListener('touchcancel', onEnd)
    }
  }, [host, leftPx])
}
