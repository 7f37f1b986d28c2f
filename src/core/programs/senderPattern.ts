import { chance } from '../effects/chance'
import { percussionChannel } from '../midi/generalMidi'
import { TICKS_PER_QUARTER, type Ticks } from '../time/units'

/** A note of the sender's endless pattern. */
export interface SentNote {
  readonly onsetTicks: Ticks
  readonly durationTicks: Ticks
  readonly channel: number
  readonly key: number
  readonly velocity: number
}

const stepTicks = TICKS_PER_QUARTER / 4
/** D minor pentatonic, from which every part takes its notes. */
const scale = [0, 3, 5, 7, 10]
const drumKeys = [36, 38, 42, 46]

/**
 * What the stand-in sender plays in a stretch of its endless pattern: each channel has steps of its own, in its own register,
 * drums on channel 10. A function of position alone: the same stretch always has the same notes.
 */
export function sentNotes(channels: number, fromTicks: Ticks, toTicks: Ticks): SentNote[] {
  const notes: SentNote[] = []
  for (let step = Math.ceil(fromTicks / stepTicks); step * stepTicks < toTicks; step++)
    for (let channel = 1; channel <= channels; channel++) {
      const everySteps = 2 + (channel % 4)
      if ((step + channel) % everySteps !== 0) continue
      if (chance(channel, step, 1) > 0.8) continue
      const isDrums = channel === percussionChannel
      const pick = chance(channel, step, 2)
      const octave = 36 + 12 * (channel % 4) + 2
      notes.push({
        onsetTicks: step * stepTicks,
        durationTicks: Math.round(stepTicks * (isDrums ? 0.5 : everySteps * 0.8)),
        channel,
        key: isDrums
          ? drumKeys[Math.floor(pick * drumKeys.length)]!
          : octave + scale[Math.floor(pick * scale.length)]!,
        velocity: 60 + Math.floor(chance(channel, step, 3) * 50),
      })
    }
  return notes
}
