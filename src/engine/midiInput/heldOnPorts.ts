import type { PortMessage } from '../transport/portSender'

/** Notes that were begun on MIDI ports and not ended yet, by port. */
export class HeldOnPorts {
  /** Channel and key of each, as one number. */
  private readonly down = new Map<string, Set<number>>()

  /** Takes note of a message that was handed to its port. */
  follow({
    portId,
    bytes: [status = 0, key = 0, velocity = 0],
  }: Pick<PortMessage, 'portId' | 'bytes'>): void {
    const kind = status & 0xf0
    if (kind !== 0x80 && kind !== 0x90) return
    const keys = this.down.get(portId) ?? new Set()
    this.down.set(portId, keys)
    const note = (status & 0x0f) * 128 + key
    if (kind === 0x90 && velocity > 0) keys.add(note)
    else keys.delete(note)
  }

  /** The note-offs that end all of them. */
  letGo(): { readonly portId: string; readonly bytes: readonly [number, number, number] }[] {
    const ends = [...this.down].flatMap(([portId, keys]) =>
      [...keys].map((note) => ({ portId, bytes: [0x80 | (note >> 7), note & 0x7f, 64] as const })),
    )
    this.down.clear()
    return ends
  }
}
