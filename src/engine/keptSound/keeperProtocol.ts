import type { KeptOutline } from '@/core/sound/keptSound'

/** A second of an input, on its way to storage. */
export interface SoundToKeep extends Omit<KeptOutline, 'sampleCount' | 'byteLength' | 'peaks'> {
  readonly samples: Float32Array<ArrayBuffer>
}

/** What comes over a port is the sound of a project. */
export interface ToKeeper {
  readonly projectId: string
  readonly port: MessagePort
}

export type FromKeeper =
  /** It cannot be stored at the moment. */
  | { readonly type: 'full'; readonly reason: string }
  /** It can again. */
  | { readonly type: 'room' }
  /** So much of an input will never be stored. */
  | { readonly type: 'lost'; readonly portId: string; readonly seconds: number; readonly reason: string }
