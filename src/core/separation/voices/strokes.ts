import { lineWeights } from './weights'

/** A note as far as lines are concerned; times in quarter notes. */
export interface LineNote {
  readonly onsetQuarters: number
  readonly endQuarters: number
  /** MIDI key number. */
  readonly key: number
}

/** Notes struck together, by index, from the highest key down. */
export type Stroke = readonly number[]

/** Notes struck together, in order of time; a key that is struck again begins a new stroke. */
export function strokesOf(notes: readonly LineNote[], togetherQuarters: number): Stroke[] {
  const order = notes
    .map((_, index) => index)
    .sort((a, b) => notes[a]!.onsetQuarters - notes[b]!.onsetQuarters || notes[b]!.key - notes[a]!.key)
  const strokes: number[][] = []
  let startQuarters = Number.NEGATIVE_INFINITY
  for (const index of order) {
    const { onsetQuarters } = notes[index]!
    if (onsetQuarters - startQuarters > togetherQuarters) {
      strokes.push([])
      startQuarters = onsetQuarters
    }
    strokes.at(-1)!.push(index)
  }
  for (const stroke of strokes) stroke.sort((a, b) => notes[b]!.key - notes[a]!.key)
  return strokes
}

/** Whether a note still sounds on; one that only overlaps the next a little does not. */
export function isSounding(
  { endQuarters, lengthQuarters }: { readonly endQuarters: number; readonly lengthQuarters: number },
  atQuarters: number,
  togetherQuarters: number,
): boolean {
  return endQuarters - atQuarters > Math.max(togetherQuarters, lineWeights.slur * lengthQuarters)
}

/** Of notes that were sounding, by index, those that sound on at a moment. */
export function soundingOn(
  notes: readonly LineNote[],
  sounding: readonly number[],
  atQuarters: number,
  togetherQuarters: number,
): number[] {
  return sounding.filter((index) => {
    const { onsetQuarters, endQuarters } = notes[index]!
    return isSounding(
      { endQuarters, lengthQuarters: endQuarters - onsetQuarters },
      atQuarters,
      togetherQuarters,
    )
  })
}
