import { drawnNote } from '../../event/notes.testing'
import type { Instrument } from '../../midi/instrument'
import { emptyProject, newClip, newTrack } from '../../project/create'
import { scoreOf } from '../../project/onPage'
import type { Project } from '../../project/schema'

const quarter = 10_080
/** At 100 to the minute. */
const ms = quarter / 600

/** By onset in quarters (and milliseconds after it), length in milliseconds, key and force. */
export type PlayedNote = readonly [
  quarters: number,
  laterMs: number,
  lengthMs: number,
  key: number,
  velocity?: number,
]

export function piece(...notes: readonly PlayedNote[]): Project {
  return pieceFor({ kind: 'program', program: 73 }, ...notes)
}

export function pieceFor(instrument: Instrument, ...notes: readonly PlayedNote[]): Project {
  const clip = newClip(
    'c',
    'c',
    notes.map(([quarters, laterMs, lengthMs, key, velocity = 80], index) =>
      drawnNote({
        id: index + 1,
        onsetTicks: Math.round(quarters * quarter + laterMs * ms),
        durationTicks: Math.round(lengthMs * ms),
        key,
        velocity,
      }),
    ),
  )
  const empty = { ...emptyProject('ornaments', 'Ornaments', 0), tempos: [{ tick: 0, tempoBpm: 100 }] }
  return newTrack(empty, { name: 'Flute', instrument, clips: [clip] }).project
}

/** Quarters of a bar before and after what is looked at. */
export const frame = (key = 67) => [0, 1, 2, 3].map((beat) => [beat, 0, 560, key] as const)
export const after = [8, 9, 10, 11].map((beat) => [beat, 0, 560, 65] as const)

export const chords = (project: Project) =>
  scoreOf(project)
    .parts[0]!.measures.flatMap((voices, bar) =>
      voices.flatMap(({ elements }) =>
        elements.flatMap((element) =>
          element.kind === 'chord'
            ? [
                {
                  at: bar * 4 + element.startTicks / quarter,
                  keys: element.notes.map(({ key }) => key),
                  signs: element.articulations,
                  ids: element.notes[0]!.noteIds,
                  graces: element.graces.map(({ key }) => key),
                },
              ]
            : [],
        ),
      ),
    )
    .filter(({ at }) => at >= 4 && at < 8)
