import type { ChannelMessage } from './message'

/** A note-on with the note-off that ends it, by their places in the stream. */
export interface NotePair {
  readonly onIndex: number
  /** −1 where no note-off came: a hanging note. */
  readonly offIndex: number
}

export interface PairedNotes {
  readonly pairs: readonly NotePair[]
  readonly hangingNotes: number
  /** Note-ons that came while the same key of the channel was already down. */
  readonly overlappingNotes: number
  /** Note-offs for which no key was down. */
  readonly strayNoteOffs: number
}

/**
 * Finds the note-off of each note-on. Where a key is struck again before it was released, the first note-off
 * ends the first note-on (MIDI 1.0 leaves this open; first in, first out loses no note and no length).
 *
 * @param streamOf tells apart streams that must not end each other's notes (several ports in one take)
 */
export function pairNotes(
  messages: readonly (ChannelMessage | undefined)[],
  streamOf: (index: number) => number = () => 0,
): PairedNotes {
  const open = new Map<number, { offIndex: number; readonly onIndex: number }[]>()
  const pairs: { offIndex: number; readonly onIndex: number }[] = []
  let hangingNotes = 0
  let overlappingNotes = 0
  let strayNoteOffs = 0
  for (let index = 0; index < messages.length; index++) {
    const message = messages[index]
    if (message?.type !== 'noteOn' && message?.type !== 'noteOff') continue
    const address = (streamOf(index) * 16 + message.channel - 1) * 128 + message.key
    const waiting = open.get(address)
    if (message.type === 'noteOn') {
      const pair = { onIndex: index, offIndex: -1 }
      pairs.push(pair)
      hangingNotes++
      if (waiting) {
        if (waiting.length > 0) overlappingNotes++
        waiting.push(pair)
      } else open.set(address, [pair])
    } else {
      const pair = waiting?.shift()
      if (pair) {
        pair.offIndex = index
        hangingNotes--
      } else strayNoteOffs++
    }
  }
  return { pairs, hangingNotes, overlappingNotes, strayNoteOffs }
}
