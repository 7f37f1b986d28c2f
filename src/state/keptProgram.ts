import { createStore } from 'zustand/vanilla'
import { keepInstruments, useNewVersion } from '@/offline/words'

/** The program as this browser keeps it for work without a network. */
export interface KeptProgram {
  /** Whether it opens without a network: not before all of it is here. Null: nobody has asked for it yet. */
  readonly keeping: 'being kept' | 'kept' | 'not kept' | null
  /** A newer version waits to be taken over. */
  readonly isNewer: boolean
  /** Instruments that are kept, of all that were asked for; null: not asked, "asked": being fetched. */
  readonly instruments: { readonly kept: number; readonly of: number } | 'asked' | null
}

export const keptProgram = createStore<KeptProgram>(() => ({
  keeping: null,
  isNewer: false,
  instruments: null,
}))

let registration: ServiceWorkerRegistration | undefined

/**
 * Has the browser keep the program (Service Workers, W3C), where it can.
 *
 * @throws Error when the browser refuses
 */
export async function keepProgram(): Promise<void> {
  if (!('serviceWorker' in navigator)) {
    keptProgram.setState({ keeping: 'not kept' })
    return
  }
  const hadProgram = navigator.serviceWorker.controller !== null
  navigator.serviceWorker.addEventListener('message', ({ data }) => {
    if (data?.type === keepInstruments)
      keptProgram.setState({ instruments: { kept: data.kept, of: data.of } })
  })
  try {
    registration = await navigator.serviceWorker.register('/sw.js', { scope: '/', updateViaCache: 'none' })
  } catch (error) {
    keptProgram.setState({ keeping: 'not kept' })
    throw error
  }
  const tell = () =>
    keptProgram.setState({
      // One that could not fetch everything is gone again.
      keeping: registration?.active ? 'kept' : registration?.installing ? 'being kept' : 'not kept',
      isNewer: hadProgram && registration?.waiting != null,
    })
  registration.addEventListener('updatefound', () =>
    registration?.installing?.addEventListener('statechange', tell),
  )
  tell()
  await navigator.serviceWorker.ready
  tell()
}

/** A newer version was taken, here or by another tab that had asked: the page that is here asks for files that are gone. */
export function onTaken(reload: () => void): () => void {
  if (!('serviceWorker' in navigator)) return () => undefined
  // The first version that is kept takes over a page that is of it.
  let isKept = navigator.serviceWorker.controller !== null
  const onChange = () => {
    if (isKept) reload()
    isKept = true
  }
  navigator.serviceWorker.addEventListener('controllerchange', onChange)
  return () => navigator.serviceWorker.removeEventListener('controllerchange', onChange)
}

/** Takes the newer version over; resolves when it is at work, so that a reload shows it. */
export async function takeNewVersion(): Promise<void> {
  const waiting = registration?.waiting
  if (!waiting) return
  const taken = new Promise<void>((resolve) =>
    navigator.serviceWorker.addEventListener('controllerchange', () => resolve(), { once: true }),
  )
  waiting.postMessage(useNewVersion)
  await taken
}

/** Has all instruments kept, 23 MB: whatever a piece asks for then sounds without a network. */
export function keepAllInstruments(): void {
  const programs = Array.from({ length: 128 }, (_, program) => `program-${String(program).padStart(3, '0')}`)
  const addresses = [...programs, 'drums'].map((name) => `/instruments/${name}.sf3`)
  keptProgram.setState({ instruments: 'asked' })
  registration?.active?.postMessage({ type: keepInstruments, addresses })
}
