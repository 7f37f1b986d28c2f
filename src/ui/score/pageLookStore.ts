import { createStore } from 'zustand/vanilla'
import { z } from '@/core/border/checks'
import { type PageForm, pageForms, zoomPercents } from '@/engine/engraver/pageLook'

const keptAs = 'how the page is looked at'

const lookSchema = z.object({
  zoomPercent: z.number().refine((percent) => (zoomPercents as readonly number[]).includes(percent)),
  form: z.enum(pageForms),
})

/** How whoever sits here likes to look at pages: for all pieces, and kept in this browser. */
export interface KeptLook {
  readonly zoomPercent: number
  readonly form: PageForm
}

const usualLook: KeptLook = { zoomPercent: 100, form: 'lines' }

function keptLook(): KeptLook {
  // What is kept may be of another version, or the browser keeps nothing: then pages look as usual.
  try {
    return lookSchema.parse(JSON.parse(localStorage.getItem(keptAs) ?? 'null'))
  } catch {
    return usualLook
  }
}

export const pageLookStore = createStore<KeptLook>(() =>
  typeof localStorage === 'undefined' ? usualLook : keptLook(),
)

export function lookAt(look: Partial<KeptLook>): void {
  const next = { ...pageLookStore.getState(), ...look }
  pageLookStore.setState(next)
  try {
    localStorage.setItem(keptAs, JSON.stringify(next))
  } catch {
    // A browser that keeps nothing shows it all the same.
  }
}

/** One step larger (1) or smaller (-1), as far as there is one. */
export function zoomBy(step: 1 | -1): void {
  const { zoomPercent } = pageLookStore.getState()
  const larger = zoomPercents.filter((percent) => (percent - zoomPercent) * step > 0)
  const next = step > 0 ? larger[0] : larger.at(-1)
  if (next !== undefined) lookAt({ zoomPercent: next })
}
