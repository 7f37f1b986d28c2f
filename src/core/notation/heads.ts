import type { NoteId } from '../event/note'
import type { Ticks } from '../time/units'
import type { ChordNote, Score, ScoreElement, ScorePart } from './score'

/** A notehead that begins a note, with where it stands. */
export interface Head {
  readonly note: ChordNote
  readonly chord: Extract<ScoreElement, { readonly kind: 'chord' }>
  readonly partIndex: number
  /** Index of the measure. */
  readonly bar: number
  /** Of its line: what reached over stands on the other. */
  readonly staff: number
  readonly voice: number
  /** Which of the lines of its staff it is in, from 1. */
  readonly line: number
  readonly onsetTicks: Ticks
  /** Of the last notehead that is tied to it. */
  readonly endTicks: Ticks
  /** In small print before what it leads to, whose place this is. */
  readonly isGrace: boolean
}

/** A rest that is printed, with where it stands. */
export interface StandingRest {
  readonly rest: Extract<ScoreElement, { readonly kind: 'rest' }>
  readonly partIndex: number
  readonly bar: number
  readonly staff: number
  readonly voice: number
  readonly onsetTicks: Ticks
}

/** Everything on a page that can be chosen. */
export interface Standing {
  /** By each of the notes that a head stands for. */
  readonly heads: ReadonlyMap<NoteId, Head>
  readonly rests: readonly StandingRest[]
}

const known = new WeakMap<Score, Standing>()

/** The noteheads and rests of a score; made once for each. */
export function standingIn(score: Score): Standing {
  const earlier = known.get(score)
  if (earlier) return earlier
  const heads = new Map<NoteId, Head>()
  const rests: StandingRest[] = []
  for (const [partIndex, part] of score.parts.entries()) {
    const lineOf = linesOf(part)
    const open = new Map<string, { ids: readonly NoteId[] }>()
    for (const [bar, voices] of part.measures.entries())
      for (const { voice, staff, elements } of voices)
        for (const element of elements) {
          const onsetTicks = score.measures[bar]!.startTicks + element.startTicks
          const place = { partIndex, bar, staff, voice, onsetTicks }
          if (element.kind === 'rest') {
            if (!element.isHidden) rests.push({ ...place, rest: element })
            continue
          }
          const line = lineOf.get(voice)!
          const endTicks = onsetTicks + element.durationTicks
          for (const note of element.graces)
            for (const id of note.noteIds)
              heads.set(id, { ...place, line, endTicks, note, chord: element, isGrace: true })
          for (const note of element.notes) {
            const address = `${voice} ${note.key}`
            const begun = note.tiesFromPrevious ? open.get(address) : undefined
            if (begun) for (const id of begun.ids) heads.set(id, { ...heads.get(id)!, endTicks })
            else
              for (const id of note.noteIds)
                heads.set(id, { ...place, line, endTicks, note, chord: element, isGrace: false })
            if (note.tiesToNext) open.set(address, begun ?? { ids: note.noteIds })
            else open.delete(address)
          }
        }
  }
  const standing = { heads, rests }
  known.set(score, standing)
  return standing
}

/** Which of the lines of its staff each voice is: voices are numbered from the first line of the first staff on. */
function linesOf({ measures }: ScorePart): ReadonlyMap<number, number> {
  const staffOf = new Map<number, number>()
  for (const voices of measures) for (const { staff, voice } of voices) staffOf.set(voice, staff)
  const voices = [...staffOf].sort(([a], [b]) => a - b)
  return new Map(
    voices.map(([voice, staff]) => [
      voice,
      voices.filter(([other, on]) => on === staff && other <= voice).length,
    ]),
  )
}
