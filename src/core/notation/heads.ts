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

/** Everything of a part that can be chosen. */
interface StandingPart {
  /** By each of the notes that a head stands for. */
  readonly heads: ReadonlyMap<NoteId, Head>
  /** Each once. */
  readonly list: readonly Head[]
  readonly rests: readonly StandingRest[]
}

/** Everything on a page that can be chosen. */
export interface Standing {
  /** The head of a note: its own, or the one it is written with. */
  head(id: NoteId): Head | undefined
  /** All heads, part by part, each once. */
  readonly heads: Iterable<Head>
  /** Those of one part. */
  headsOf(partIndex: number): readonly Head[]
  readonly rests: Iterable<StandingRest>
}

/** Parts that an edit leaves as they are need not be gone through again. */
const known = new WeakMap<ScorePart, StandingPart & { readonly partIndex: number }>()

/** The noteheads and rests of a score. */
export function standingIn(score: Score): Standing {
  const parts = score.parts.map((part, partIndex) => {
    const earlier = known.get(part)
    if (earlier?.partIndex === partIndex) return earlier
    const standing = { ...standingInPart(score, part, partIndex), partIndex }
    known.set(part, standing)
    return standing
  })
  return {
    head(id) {
      for (const { heads } of parts) {
        const head = heads.get(id)
        if (head) return head
      }
      return undefined
    },
    heads: {
      *[Symbol.iterator]() {
        for (const { list } of parts) yield* list
      },
    },
    headsOf: (partIndex) => parts[partIndex]!.list,
    rests: {
      *[Symbol.iterator]() {
        for (const { rests } of parts) yield* rests
      },
    },
  }
}

/** It lasts until the last note that is tied to it. */
type Growing = { -readonly [Key in keyof Head]: Head[Key] }

function standingInPart({ measures }: Score, part: ScorePart, partIndex: number): StandingPart {
  const heads = new Map<NoteId, Growing>()
  const rests: StandingRest[] = []
  const lineOf = linesOf(part)
  const open = new Map<number, Growing>()
  for (const [bar, voices] of part.measures.entries())
    for (const { voice, staff, elements } of voices)
      for (const element of elements) {
        const onsetTicks = measures[bar]!.startTicks + element.startTicks
        if (element.kind === 'rest') {
          if (!element.isHidden) rests.push({ partIndex, bar, staff, voice, onsetTicks, rest: element })
          continue
        }
        const line = lineOf.get(voice)!
        const endTicks = onsetTicks + element.durationTicks
        const chord = element
        const begin = (note: ChordNote, isGrace: boolean): Growing => {
          const head = { note, chord, partIndex, bar, staff, voice, line, onsetTicks, endTicks, isGrace }
          for (const id of note.noteIds) heads.set(id, head)
          return head
        }
        for (const note of chord.graces) begin(note, true)
        for (const note of chord.notes) {
          const address = voice * 128 + note.key
          const begun = note.tiesFromPrevious ? open.get(address) : undefined
          if (begun) begun.endTicks = endTicks
          const head = begun ?? begin(note, false)
          if (note.tiesToNext) open.set(address, head)
          else if (begun) open.delete(address)
        }
      }
  const list: Head[] = []
  for (const [id, head] of heads) if (head.note.noteIds[0] === id) list.push(head)
  return { heads, list, rests }
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
