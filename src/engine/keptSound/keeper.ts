import { type KeptOutline, peaksOf } from '@/core/sound/keptSound'
import type { Milliseconds } from '@/core/time/units'
import type { FromKeeper, SoundToKeep } from './keeperProtocol'

/** What could not be stored is held up to this many bytes: half an hour of two inputs, or a minute of sixty. */
export const mostHeldBytes = 96e6
/** Where storage refused, it is asked again after this long. */
const retryMs: Milliseconds = 1000

/** What the keeper reaches the world through; in tests, plain objects. */
export interface KeeperWorld {
  /** Makes sound small. @throws Error with a sentence when it cannot */
  encode(samples: Float32Array, sampleRate: number): Uint8Array
  /** Stores a piece whole or not at all. */
  put(projectId: string, outline: KeptOutline, flac: Uint8Array): Promise<void>
  tell(message: FromKeeper): void
  /** Does something later. */
  later(work: () => void, afterMs: Milliseconds): void
}

interface Held {
  readonly projectId: string
  readonly outline: KeptOutline
  readonly flac: Uint8Array
}

/** Stores pieces of sound in the order they come in; each is stored, or it is told that it was lost. */
export class Keeper {
  /** Pieces that are not stored yet, the oldest first. */
  private readonly held: Held[] = []
  private heldBytes = 0
  /** The piece that is being written. */
  private writing: Held | null = null
  private isFull = false

  constructor(
    private readonly world: KeeperWorld,
    private readonly mostBytes = mostHeldBytes,
  ) {}

  take(projectId: string, { samples, ...sound }: SoundToKeep): void {
    const sampleCount = samples.length
    try {
      const flac = this.world.encode(samples, sound.sampleRate)
      const peaks = peaksOf(samples, sound.sampleRate)
      const outline = { ...sound, sampleCount, byteLength: flac.byteLength, peaks }
      this.held.push({ projectId, outline, flac })
      this.heldBytes += flac.byteLength
    } catch (error) {
      this.tellLost(sound.portId, sampleCount / sound.sampleRate, String(error))
      return
    }
    while (this.heldBytes > this.mostBytes) this.letOldestGo()
    if (!this.isFull) void this.store()
  }

  private letOldestGo(): void {
    const [gone] = this.held.splice(0, 1)
    if (!gone) return
    this.heldBytes -= gone.flac.byteLength
    const { portId, sampleCount, sampleRate } = gone.outline
    this.tellLost(portId, sampleCount / sampleRate, 'there was no room for it')
  }

  private tellLost(portId: string, seconds: number, reason: string): void {
    this.world.tell({ type: 'lost', portId, seconds, reason })
  }

  private async store(): Promise<void> {
    if (this.writing) return
    while (this.held[0]) {
      // What is being written is nobody’s to let go.
      const piece = this.held.shift()!
      this.writing = piece
      this.heldBytes -= piece.flac.byteLength
      try {
        await this.world.put(piece.projectId, piece.outline, piece.flac)
        this.writing = null
      } catch (error) {
        this.writing = null
        this.held.unshift(piece)
        this.heldBytes += piece.flac.byteLength
        if (!this.isFull) this.world.tell({ type: 'full', reason: String(error) })
        this.isFull = true
        this.world.later(() => void this.store(), retryMs)
        return
      }
      if (this.isFull) this.world.tell({ type: 'room' })
      this.isFull = false
    }
  }
}
