import type { Ticks } from '@/core/time/units'
import type { EngravedLine } from '@/engine/engraver/engraver'
import type { PageForm } from '@/engine/engraver/pageLook'

/** What is brought into sight of an endless line stands so far from its left. */
const fromLeftPx = 140

/** Whether whoever looks wants nothing to glide. */
const behavior = (): ScrollBehavior =>
  matchMedia('(prefers-reduced-motion: reduce)').matches ? 'auto' : 'smooth'

/**
 * Brings what stands at a moment into sight: its line of music, and in an endless line its place there.
 *
 * @param glides while it plays; what somebody asked for is there at once
 */
export function bringIntoSight(
  host: HTMLElement,
  form: PageForm,
  at: { readonly systemIndex: number; readonly ticks: Ticks },
  line: EngravedLine | undefined,
  glides: boolean,
): void {
  const system = host.querySelector<HTMLElement>(`[data-system="${at.systemIndex}"]`)
  if (!system) return
  const how = glides ? behavior() : 'auto'
  if (form === 'lines') {
    system.scrollIntoView({ block: 'nearest', behavior: how })
    return
  }
  const moment = line?.moments.findLast(({ ticks }) => ticks <= at.ticks)
  const hostBox = host.getBoundingClientRect()
  const x = system.getBoundingClientRect().left - hostBox.left + (moment?.xPx ?? 0)
  if (x < 0 || x > host.clientWidth - fromLeftPx)
    host.scrollTo({ left: host.scrollLeft + x - fromLeftPx, behavior: how })
}
