import { type Remote, wrap } from 'comlink'
import type { EngraverApi } from '@/engine/engraver/engraver.worker'
import { isPreparedAhead } from './preparedAhead'

/** A thread that engraves, and its end here. */
export interface EngraverThread {
  readonly worker: Worker
  readonly engraver: Remote<EngraverApi>
}

let prepared: EngraverThread | null = null

function start(): EngraverThread {
  const worker = new Worker(new URL('../engine/engraver/engraver.worker.ts', import.meta.url), {
    type: 'module',
  })
  const engraver = wrap<EngraverApi>(worker)
  // What fails here fails again when it is asked for, and is said then.
  if (isPreparedAhead()) void engraver.prepare().catch(() => undefined)
  return { worker, engraver }
}

/** Starts a thread for the piece that will be opened next: its library is loaded and has been at work once by then. */
export function prepareEngraver(): void {
  if (prepared || !isPreparedAhead()) return
  prepared = start()
  // One that could not be loaded is no help; the next one says why.
  prepared.worker.onerror = (event) => {
    event.preventDefault()
    prepared = null
  }
}

/** A thread for a piece that is opened: the prepared one, if there is one. */
export function takeEngraver(): EngraverThread {
  const thread = prepared ?? start()
  prepared = null
  return thread
}
