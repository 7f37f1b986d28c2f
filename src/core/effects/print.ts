import { byOnset, type ControllerEvent, type Note } from '../event/note'
import { TICKS_PER_QUARTER, type Ticks } from '../time/units'
import { type ChainPlan, ChainRun, noteEvents } from './chainRun'
import type { EffectEvent, MusicalContext } from './noteEffect'

/** What is due after the last key is up still belongs to the result, as long as any echo lasts. */
const tailTicks: Ticks = 96 * TICKS_PER_QUARTER

export interface Printed {
  readonly notes: Note[]
  readonly controllers: ControllerEvent[]
  readonly nextNoteId: number
  /** Notes left out because there were too many to the quarter. */
  readonly leftOut: number
}

/**
 * Prints the output of an effect chain as ordinary notes, all at once. Each note's origin is the source note it came from.
 *
 * @param nextNoteId the first free note id
 */
export function printChain(
  notes: readonly Note[],
  plan: ChainPlan,
  context: MusicalContext,
  nextNoteId: number,
): Printed {
  const events = noteEvents(notes)
  const out: EffectEvent[] = []
  const run = new ChainRun(events, plan, context, (event) => out.push(event))
  const endTicks = (events.at(-1)?.tick ?? 0) + tailTicks
  run.advance(endTicks)
  run.end(endTicks)
  return { ...collectNotes(out, nextNoteId), leftOut: run.leftOut }
}

/** Events that came out of a chain, where each note-on has its note-off, as notes and curves. */
export function collectNotes(
  events: readonly EffectEvent[],
  nextNoteId: number,
): { notes: Note[]; controllers: ControllerEvent[]; nextNoteId: number } {
  const notes: Note[] = []
  const controllers: ControllerEvent[] = []
  let id = nextNoteId
  for (const event of events) {
    if (event.type === 'on') continue
    if (event.type === 'control') {
      const { tick, channel, number, value } = event
      controllers.push({ tick, channel, kind: 'controller', number, value })
    } else {
      const on = event.of
      notes.push({
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
  }
  return { notes: notes.sort(byOnset), controllers, nextNoteId: id }
}
