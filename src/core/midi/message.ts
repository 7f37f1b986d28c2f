/** A channel-voice message of MIDI 1.0 (Detailed Specification, table I). Channels are 1–16. */
export type ChannelMessage =
  | { readonly type: 'noteOn'; readonly channel: number; readonly key: number; readonly velocity: number }
  | { readonly type: 'noteOff'; readonly channel: number; readonly key: number; readonly velocity: number }
  | { readonly type: 'keyPressure'; readonly channel: number; readonly key: number; readonly value: number }
  | { readonly type: 'controller'; readonly channel: number; readonly number: number; readonly value: number }
  | { readonly type: 'program'; readonly channel: number; readonly program: number }
  | { readonly type: 'channelPressure'; readonly channel: number; readonly value: number }
  /** 14 bits, 8,192 at rest. */
  | { readonly type: 'bend'; readonly channel: number; readonly value: number }

/** Release velocity of a source that has none (MIDI 1.0 Detailed Specification, "Note-Off"). */
export const usualReleaseVelocity = 64

/**
 * Reads a channel-voice message from its status byte and up to two data bytes. A note-on with velocity 0 is a
 * note-off with velocity 64 (MIDI 1.0). System messages give undefined.
 */
export function parseChannelMessage(
  status: number,
  data1: number,
  data2: number,
): ChannelMessage | undefined {
  const channel = (status & 0x0f) + 1
  switch (status & 0xf0) {
    case 0x80:
      return { type: 'noteOff', channel, key: data1, velocity: data2 }
    case 0x90:
      return data2 === 0
        ? { type: 'noteOff', channel, key: data1, velocity: usualReleaseVelocity }
        : { type: 'noteOn', channel, key: data1, velocity: data2 }
    case 0xa0:
      return { type: 'keyPressure', channel, key: data1, value: data2 }
    case 0xb0:
      return { type: 'controller', channel, number: data1, value: data2 }
    case 0xc0:
      return { type: 'program', channel, program: data1 }
    case 0xd0:
      return { type: 'channelPressure', channel, value: data1 }
    case 0xe0:
      return { type: 'bend', channel, value: data1 | (data2 << 7) }
    default:
      return undefined
  }
}

/** The bytes of a message, without running status. */
export function channelMessageBytes(message: ChannelMessage): number[] {
  const nibble = message.channel - 1
  switch (message.type) {
    case 'noteOff':
      return [0x80 | nibble, message.key, message.velocity]
    case 'noteOn':
      return [0x90 | nibble, message.key, message.velocity]
    case 'keyPressure':
      return [0xa0 | nibble, message.key, message.value]
    case 'controller':
      return [0xb0 | nibble, message.number, message.value]
    case 'program':
      return [0xc0 | nibble, message.program]
    case 'channelPressure':
      return [0xd0 | nibble, message.value]
    case 'bend':
      return [0xe0 | nibble, message.value & 0x7f, message.value >> 7]
  }
}

/** Data bytes that follow a channel-voice status: one for program and channel pressure, otherwise two. */
export function dataByteCount(status: number): 1 | 2 {
  const kind = status & 0xf0
  return kind === 0xc0 || kind === 0xd0 ? 1 : 2
}
