import type { MidiFile, MidiFileEvent } from '../midi/standardMidiFile/model'
import type { HeardNote } from './readLine'

const divisionTicksPerQuarter = 960
/** The file says when notes sound, not in which bars. */
const usualTempoBpm = 120

/** Heard notes as a file of one track and one tempo, each at the moment it was heard. A key that is heard again before it ended ends there. */
export function heardMidi(
  name: string,
  notes: readonly HeardNote[],
  program: number,
  tempoBpm = usualTempoBpm,
): Omit<MidiFile, 'warnings'> {
  const microsecondsPerQuarter = Math.round(6e7 / tempoBpm)
  const ticksOf = (ms: number) => Math.round((ms * 1000 * divisionTicksPerQuarter) / microsecondsPerQuarter)
  const events: MidiFileEvent[] = [
    { tick: 0, type: 'trackName', text: name },
    { tick: 0, type: 'tempo', microsecondsPerQuarter },
    { tick: 0, type: 'program', channel: 1, program },
  ]
  const next = new Map<number, number>()
  const ends = [...notes].reverse().map(({ key, onsetMs, durationMs }) => {
    const endMs = Math.min(onsetMs + durationMs, next.get(key) ?? Infinity)
    next.set(key, onsetMs)
    return endMs
  })
  ends.reverse()
  for (const [index, { key, onsetMs, velocity }] of notes.entries()) {
    const tick = ticksOf(onsetMs)
    events.push({ tick, type: 'noteOn', channel: 1, key, velocity })
    events.push({
      tick: Math.max(tick + 1, ticksOf(ends[index]!)),
      type: 'noteOff',
      channel: 1,
      key,
      velocity: 64,
    })
  }
  const order = (event: MidiFileEvent) => (event.type === 'noteOn' ? 2 : event.type === 'noteOff' ? 1 : 0)
  events.sort((a, b) => a.tick - b.tick || order(a) - order(b))
  return {
    format: 0,
    divisionTicksPerQuarter,
    tracks: [{ events, endTick: events.at(-1)!.tick }],
  }
}
