import { noteElementId } from './noteElements'
import type { Score } from './score'
import type { ScoreSystem } from './systems'

export interface OpenTies {
  /** Identifiers of noteheads tied into the next line, and from the one before. */
  readonly onwards: readonly string[]
  readonly fromBefore: readonly string[]
}

/** The noteheads whose tie leaves a line of music at its end or enters it at its beginning. */
export function openTiesOf(score: Score, system: ScoreSystem): OpenTies {
  const onwards: string[] = []
  const fromBefore: string[] = []
  const last = score.measures[system.to - 1]!
  for (const part of score.parts) {
    for (const voice of part.measures[system.to - 1] ?? [])
      for (const element of voice.elements)
        if (element.kind === 'chord' && element.startTicks + element.durationTicks >= last.lengthTicks)
          for (const note of element.notes)
            if (note.tiesToNext) onwards.push(noteElementId(note, last.index, element.startTicks))
    for (const voice of part.measures[system.from] ?? [])
      for (const element of voice.elements)
        if (element.kind === 'chord' && element.startTicks === 0)
          for (const note of element.notes)
            if (note.tiesFromPrevious) fromBefore.push(noteElementId(note, system.from, 0))
  }
  return { onwards, fromBefore }
}
