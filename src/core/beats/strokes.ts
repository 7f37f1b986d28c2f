import type { Milliseconds } from '../time/units'
import { strengthWeights as weights } from './weights'

/** A note as it was played, without any bar. */
export interface TimedNote {
  readonly onsetMs: Milliseconds
  readonly endMs: Milliseconds
  /** MIDI key, 0–127. */
  readonly key: number
  /** 1–127. */
  readonly velocity: number
  /** Its key is an instrument of a kit. */
  readonly isUnpitched?: boolean
}

/** What was struck together. */
export interface TimedStroke {
  readonly onsetMs: Milliseconds
  readonly notes: readonly TimedNote[]
  /** How much it asks to be a beat, 0 and up, 1 on average: more notes, longer ones, deeper ones, louder ones. */
  readonly strength: number
}

/** Notes within this of the first are one stroke. */
const togetherMs: Milliseconds = 35

/**
 * Groups notes into strokes and weighs them.
 *
 * That chords, long, deep and loud notes are where beats are: S. Dixon, Automatic Extraction of Tempo and Beat from Expressive
 * Performances, 2001, salience of events.
 *
 * @param notes in order of onset
 */
export function strokesOf(notes: readonly TimedNote[]): TimedStroke[] {
  const groups: TimedNote[][] = []
  for (const note of notes) {
    const group = groups.at(-1)
    if (group && note.onsetMs - group[0]!.onsetMs <= togetherMs) group.push(note)
    else groups.push([note])
  }
  const usualKey = mean(notes.map(({ key }) => key))
  const usualVelocity = mean(notes.map(({ velocity }) => velocity))
  const raw = groups.map((group, index) => {
    const onsetMs = mean(group.map((note) => note.onsetMs))
    const nextMs = groups[index + 1]?.[0]?.onsetMs ?? onsetMs + 1000
    const heldMs = Math.max(...group.map(({ endMs }) => endMs - onsetMs))
    const lowest = Math.min(...group.map(({ key }) => key))
    const loudest = Math.max(...group.map(({ velocity }) => velocity))
    return {
      onsetMs,
      notes: group,
      strength:
        weights.notes * Math.log2(1 + group.length) +
        weights.held * Math.min(1, heldMs / weights.heldMs) +
        weights.alone * Math.min(1, (nextMs - onsetMs) / weights.aloneMs) +
        weights.deep * Math.max(0, Math.min(weights.mostDeep, (usualKey - lowest) / 12)) +
        weights.loud * Math.max(-1, Math.min(1.5, (loudest - usualVelocity) / 20)),
    }
  })
  const usual = Math.max(1e-9, mean(raw.map(({ strength }) => strength)))
  return raw.map((stroke) => ({ ...stroke, strength: Math.max(0.05, stroke.strength / usual) }))
}

function mean(values: readonly number[]): number {
  return values.length === 0 ? 0 : values.reduce((sum, value) => sum + value, 0) / values.length
}
