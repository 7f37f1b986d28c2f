import fc from 'fast-check'
import { handSigns } from '../amendments/amendment'
import type { NoteValue, SpelledPitch } from '../score'
import { transpositions } from '../transposition'
import { ticksOfNoteValue } from '../values'
import { type Entry, type EntryNote, plainFlow, type WrittenMusic, type WrittenPart } from './writtenMusic'

const pitchClasses = { C: 0, D: 2, E: 4, F: 5, G: 7, A: 9, B: 11 } as const

/** A cell of a bar: values in a row that take a half note together, as files write them and as no reader of playing would. */
const cells: readonly (readonly { value: NoteValue; actual?: number; normal?: number }[])[] = [
  [{ value: { type: 'half', dots: 0 } }],
  [{ value: { type: 'quarter', dots: 2 } }, { value: { type: '16th', dots: 0 } }],
  [{ value: { type: 'quarter', dots: 1 } }, { value: { type: 'eighth', dots: 0 } }],
  [
    { value: { type: 'eighth', dots: 0 } },
    { value: { type: 'quarter', dots: 0 } },
    { value: { type: 'eighth', dots: 0 } },
  ],
  Array.from({ length: 3 }, () => ({ value: { type: 'quarter', dots: 0 } as const, actual: 3, normal: 2 })),
  Array.from({ length: 5 }, () => ({ value: { type: 'eighth', dots: 0 } as const, actual: 5, normal: 4 })),
  Array.from({ length: 7 }, () => ({ value: { type: 'eighth', dots: 0 } as const, actual: 7, normal: 4 })),
  [
    { value: { type: 'quarter', dots: 0 }, actual: 3, normal: 2 },
    { value: { type: 'half', dots: 0 }, actual: 3, normal: 2 },
  ],
  Array.from({ length: 9 }, () => ({ value: { type: '16th', dots: 0 } as const, actual: 9, normal: 8 })),
  [
    { value: { type: '16th', dots: 0 } },
    { value: { type: 'eighth', dots: 0 } },
    { value: { type: '16th', dots: 0 } },
    { value: { type: 'quarter', dots: 0 } },
  ],
]

const pitch = fc.record<SpelledPitch>({
  step: fc.constantFrom('A', 'B', 'C', 'D', 'E', 'F', 'G'),
  alter: fc.integer({ min: -2, max: 2 }),
  octave: fc.integer({ min: 2, max: 6 }),
})

/** Places of a chord, each once: two heads on one are told apart by no reader. */
const chord = fc.uniqueArray(pitch, {
  minLength: 1,
  maxLength: 3,
  selector: ({ step, octave }) => `${step}${octave}`,
})

const event = fc.record({
  isRest: fc.integer({ min: 0, max: 3 }).map((number) => number === 0),
  pitches: chord,
  /** Which of its notes are tied to the next, where that has them. */
  holds: fc.array(fc.boolean(), { minLength: 3, maxLength: 3 }),
  repeatsBefore: fc.boolean(),
  reaches: fc.integer({ min: 0, max: 9 }).map((number) => number === 0),
  graces: fc.oneof(
    { weight: 6, arbitrary: fc.constant<SpelledPitch[]>([]) },
    { weight: 1, arbitrary: fc.array(pitch, { minLength: 1, maxLength: 2 }) },
  ),
  signs: fc.oneof(
    { weight: 4, arbitrary: fc.constant([]) },
    { weight: 1, arbitrary: fc.uniqueArray(fc.constantFrom(...handSigns), { maxLength: 2 }) },
  ),
})
type Event = typeof event extends fc.Arbitrary<infer E> ? E : never

const bar = fc.array(fc.tuple(fc.constantFrom(...cells), fc.array(event, { minLength: 9, maxLength: 9 })), {
  minLength: 2,
  maxLength: 2,
})

/** Parts in four-four as no player and no reader here would divide them: on two staves, several voices, tied in every way. */
export const inventedMusic = fc
  .record({
    isOnTwo: fc.boolean(),
    transposition: fc.constantFrom(...(['as it sounds', 'in B♭', 'in E♭', 'an octave higher'] as const)),
    fifths: fc.integer({ min: -4, max: 4 }),
    voices: fc.array(fc.array(bar, { minLength: 3, maxLength: 3 }), { minLength: 1, maxLength: 3 }),
  })
  .filter(({ voices }) =>
    voices.some((bars) => bars.some((cells) => cells.some(([, events]) => !events[0]!.isRest))),
  )
  .map(({ isOnTwo, transposition, fifths, voices }): WrittenMusic => {
    const moved = transpositions[transposition]
    const entries: Entry[][] = [[], [], []]
    for (const [index, bars] of voices.entries()) {
      const staff = isOnTwo && index > 0 ? 2 : 1
      const line = lineOf(bars, String(index + 1), staff, isOnTwo, moved.semitones)
      for (const [number, own] of line.entries()) entries[number]!.push(...own)
    }
    const part: WrittenPart = {
      heading: {
        name: 'Invented',
        shortName: '',
        instrument: { kind: 'program', program: isOnTwo ? 0 : 73 },
        bracket: 'none',
        keyNames: [],
        channel: 1,
        volume: 0.8,
        pan: 0,
      },
      transposition: moved,
      clefs: isOnTwo ? ['treble', 'bass'] : ['treble'],
      clefChanges: [],
      keys: [{ bar: 0, fifths, mode: 'major' }],
      entries,
      levels: [],
      hairpins: [],
      octaveLines: [],
      pedals: [],
      texts: [],
      slurs: [],
      glissandi: [],
    }
    return {
      headings: { title: 'Invented', subtitle: '', composer: '', arranger: '', rights: '' },
      bars: Array.from({ length: 3 }, () => ({
        meter: { numerator: 4, denominator: 4 },
        flow: plainFlow,
        barLine: null,
        breakBefore: null,
      })),
      parts: [part],
      tempos: [{ bar: 0, offsetTicks: 0, tempoBpm: 90 }],
      sections: [],
      chordSymbols: [],
      swing: null,
    }
  })

function lineOf(
  bars: readonly (readonly (readonly [(typeof cells)[number], readonly Event[]])[])[],
  voice: string,
  staff: number,
  isOnTwo: boolean,
  semitones: number,
): Entry[][] {
  const all: { bar: number; entry: Entry; event: Event }[] = []
  for (const [number, own] of bars.entries()) {
    let startTicks = 0
    for (const [cell, events] of own)
      for (const [place, { value, actual, normal }] of cell.entries()) {
        const event = events[place]!
        const durationTicks = (ticksOfNoteValue(value) * (normal ?? 1)) / (actual ?? 1)
        const entry: Entry = {
          startTicks,
          durationTicks,
          voice,
          staff: event.reaches && isOnTwo && place === 1 && cell.length > 2 ? 3 - staff : staff,
          value,
          tuplet: actual
            ? { actual, normal: normal!, edge: { starts: place === 0, stops: place === cell.length - 1 } }
            : null,
          content: event.isRest
            ? { kind: 'rest', isWholeMeasure: false, isHidden: false }
            : {
                kind: 'chord',
                notes: eachKeyOnce(event.pitches.map((each) => noteOf(each, semitones))),
                graces: event.graces.map((each) => noteOf(each, semitones)),
                articulations: event.signs,
                lyric: null,
              },
        }
        all.push({ bar: number, entry, event })
        startTicks += durationTicks
      }
  }
  const tied = withTies(all)
  return bars.map((_, number) => tied.filter((each) => each.bar === number).map(({ entry }) => entry))
}

function noteOf(pitch: SpelledPitch, semitones: number): EntryNote {
  const key = pitchClasses[pitch.step] + pitch.alter + 12 * (pitch.octave + 1) - semitones
  return { key, pitch, tiesFromPrevious: false, tiesToNext: false, velocity: null, fingering: null }
}

/** Some notes of a chord go on into the next, which then has them too. */
function withTies(all: { bar: number; entry: Entry; event: Event }[]) {
  const tied = [...all]
  for (const [index, each] of all.entries()) {
    const before = tied[index - 1]
    if (!before || before.entry.content.kind === 'rest' || each.entry.content.kind === 'rest') continue
    if (!each.event.repeatsBefore || before.entry.staff !== each.entry.staff) continue
    const kept = before.entry.content.notes.filter((_, place) => before.event.holds[place])
    if (kept.length === 0) continue
    const keys = new Set(kept.map(({ key }) => key))
    tied[index - 1] = {
      ...before,
      entry: {
        ...before.entry,
        content: {
          ...before.entry.content,
          notes: before.entry.content.notes.map((note) =>
            keys.has(note.key) ? { ...note, tiesToNext: true } : note,
          ),
        },
      },
    }
    const held = kept.map((note) => ({ ...note, tiesFromPrevious: true, tiesToNext: false }))
    const places = new Set(kept.map(placeOf))
    const others = each.entry.content.notes.filter(
      (note) => !places.has(placeOf(note)) && !keys.has(note.key),
    )
    // What only goes on is not begun again: it has no signs and no small notes.
    const isOnlyHeld = others.length === 0
    tied[index] = {
      ...each,
      entry: {
        ...each.entry,
        content: {
          ...each.entry.content,
          graces: isOnlyHeld ? [] : each.entry.content.graces,
          articulations: isOnlyHeld ? [] : each.entry.content.articulations,
          notes: [...held, ...others],
        },
      },
    }
  }
  return tied
}

const placeOf = ({ pitch: { step, octave } }: EntryNote) => `${step}${octave}`

/** Two heads on one key are one note to play. */
function eachKeyOnce(notes: readonly EntryNote[]): EntryNote[] {
  return notes.filter(({ key }, index) => notes.findIndex((other) => other.key === key) === index)
}
