import { byOnset, type Note } from '../event/note'
import type { EffectSlot } from '../project/schema'
import { processChain } from './chain'
import type { EffectEvent } from './noteEffect'

/** Notes as the events an effect takes: at one tick, offs before ons. */
export function noteEvents(notes: readonly Note[]): EffectEvent[] {
  const events: EffectEvent[] = []
  for (const note of notes) {
    const shared = { key: note.key, channel: note.channel, sourceId: note.id }
    events.push({ type: 'on', tick: note.onsetTicks, velocity: note.velocity, ...shared })
    events.push({
      type: 'off',
      tick: note.onsetTicks + note.durationTicks,
      velocity: note.releaseVelocity,
      ...shared,
    })
  }
  return events.sort(byTickOffsFirst)
}

export function byTickOffsFirst(a: EffectEvent, b: EffectEvent): number {
  return a.tick - b.tick || (a.type === b.type ? 0 : a.type === 'off' ? -1 : 1)
}

/**
 * Prints the output of an effect chain as ordinary notes, all at once. Each note's origin is the source note it came
 * from.
 *
 * @param nextNoteId the first free note id
 */
export function printChain(
  notes: readonly Note[],
  slots: readonly EffectSlot[],
  nextNoteId: number,
): { notes: Note[]; nextNoteId: number } {
  const events = noteEvents(notes)
  const lastTick = events.at(-1)?.tick ?? 0
  // Whatever is due after the last key is up still belongs to the pattern: a whole note beyond it is enough for any gate.
  const { out } = processChain(slots, { fromTicks: 0, toTicks: lastTick + 40_320 * 2, events }, {})
  const open = new Map<string, EffectEvent[]>()
  const printed: Note[] = []
  let id = nextNoteId
  for (const event of out) {
    const address = `${event.channel}:${event.key}:${event.sourceId}`
    if (event.type === 'on') {
      const waiting = open.get(address)
      if (waiting) waiting.push(event)
      else open.set(address, [event])
      continue
    }
    const on = open.get(address)?.shift()
    if (!on) continue
    printed.push({
      id: id++,
      onsetTicks: on.tick,
      durationTicks: Math.max(1, event.tick - on.tick),
      key: on.key,
      velocity: on.velocity,
      releaseVelocity: event.velocity,
      channel: on.channel,
      origin: { kind: 'printed', fromNoteId: on.sourceId },
    })
  }
  return { notes: printed.sort(byOnset), nextNoteId: id }
}
