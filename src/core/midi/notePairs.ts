import type { ChannelMessage } from './message'

/** A note-on with the event that ends it, by their places in the stream. */
export interface NotePair {
  readonly onIndex: number
  /** The note-off, or the note-on that strikes the key again; −1 where neither came: a hanging note. */
  readonly offIndex: number
}

export interface PairedNotes {
  readonly pairs: readonly NotePair[]
  /** Notes that got no note-off of their own. */
  readonly hangingNotes: number
  /** Note-ons that came while the same key of the channel was already down. */
  readonly overlappingNotes: number
  /** Note-offs for which no key was down. */
  readonly strayNoteOffs: number
}

/** The strokes of one key of one stream. */
interface KeyState {
  /** Down now: more than one only where they were struck at the same moment. */
  readonly down: { offIndex: number; readonly onIndex: number }[]
  /** Ended by a further stroke, their own note-off still to come. */
  restruck: number
}

/**
 * Finds what ends each note. A key that is struck again while it is down ends the note before, as it does on an instrument
 * (MIDI 1.0 leaves this open), so that one missing note-off spoils one note and no later one; the note-off that follows
 * ends the last stroke. Strokes of one key at the same moment stand beside each other: each takes a note-off.
 *
 * @param streamOf tells apart streams that must not end each other's notes (several ports in one take)
 * @param momentOf when an event came, in any unit; needed to tell strokes at the same moment
 */
export function pairNotes(
  messages: readonly (ChannelMessage | undefined)[],
  momentOf: (index: number) => number,
  streamOf: (index: number) => number = () => 0,
): PairedNotes {
  const keys = new Map<number, KeyState>()
  const pairs: { offIndex: number; readonly onIndex: number }[] = []
  let overlappingNotes = 0
  let strayNoteOffs = 0
  for (let index = 0; index < messages.length; index++) {
    const message = messages[index]
    if (message?.type !== 'noteOn' && message?.type !== 'noteOff') continue
    const address = (streamOf(index) * 16 + message.channel - 1) * 128 + message.key
    let key = keys.get(address)
    if (!key) {
      key = { down: [], restruck: 0 }
      keys.set(address, key)
    }
    if (message.type === 'noteOn') {
      if (key.down.length > 0) {
        overlappingNotes++
        if (momentOf(key.down[0]!.onIndex) !== momentOf(index)) restrike(key, index)
      }
      const pair = { onIndex: index, offIndex: -1 }
      pairs.push(pair)
      key.down.push(pair)
      continue
    }
    const pair = key.down.shift()
    if (pair) pair.offIndex = index
    else if (key.restruck > 0) key.restruck--
    else strayNoteOffs++
  }
  let hangingNotes = 0
  for (const { down, restruck } of keys.values()) hangingNotes += down.length + restruck
  return { pairs, hangingNotes, overlappingNotes, strayNoteOffs }
}

function restrike(key: KeyState, byIndex: number): void {
  for (const pair of key.down) pair.offIndex = byIndex
  key.restruck += key.down.length
  key.down.length = 0
}
