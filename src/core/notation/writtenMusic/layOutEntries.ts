import type { Measure } from '../../time/meterMap'
import type { Ticks } from '../../time/units'
import type { ChordNote, NoteValue, ScoreElement } from '../score'
import { noteValueOf, ticksOfNoteValue, ticksOfValue, writableLengths } from '../values'
import type { Entry, EntryChord, EntryNote } from './writtenMusic'

/** A line of a bar as its file has it: elements without the identity of their notes. */
export interface LaidOutLine {
  /** Its voice and staff, as an address. */
  readonly address: string
  readonly staff: number
  readonly voice: string
  readonly elements: readonly ScoreElement[]
}

export const lineAddress = (staff: number, voice: string) => `${staff} ${voice}`

/** Rounded lengths of tuplets may be off by this much. */
const nearTicks: Ticks = 2

/**
 * The entries of a bar as lines that fill it: each voice on the staff where most of it stands; what overlaps in a voice is a line
 * of its own; where nothing is written there are rests that are not printed.
 */
export function layOutEntries(entries: readonly Entry[], measure: Measure): LaidOutLine[] {
  const voices = new Map<string, Entry[]>()
  for (const entry of entries) {
    const own = voices.get(entry.voice)
    if (own) own.push(entry)
    else voices.set(entry.voice, [entry])
  }
  const lines: LaidOutLine[] = []
  for (const [voice, own] of voices) {
    const staff = homeStaff(own)
    let rest = [...own].sort((a, b) => a.startTicks - b.startTicks)
    for (let again = 0; rest.length > 0; again++) {
      const name = again === 0 ? voice : `${voice} ${again + 1}`
      const { line, over } = withoutOverlap(rest)
      lines.push({
        address: lineAddress(staff, name),
        staff,
        voice: name,
        elements: elementsOf(line, measure, staff),
      })
      rest = over
    }
  }
  return lines
}

function homeStaff(entries: readonly Entry[]): number {
  const lower = entries.filter(({ staff }) => staff === 2).length
  return lower * 2 > entries.length ? 2 : 1
}

/** Chords of one beginning and length are one; what begins while another lasts comes into a line of its own. */
function withoutOverlap(sorted: readonly Entry[]): { line: Entry[]; over: Entry[] } {
  const line: Entry[] = []
  const over: Entry[] = []
  for (const entry of sorted) {
    const last = line.at(-1)
    if (!last || entry.startTicks >= last.startTicks + last.durationTicks) {
      line.push(entry)
      continue
    }
    const isOne =
      entry.startTicks === last.startTicks &&
      entry.durationTicks === last.durationTicks &&
      entry.content.kind === 'chord' &&
      last.content.kind === 'chord'
    if (isOne && last.content.kind === 'chord' && entry.content.kind === 'chord')
      line[line.length - 1] = {
        ...last,
        content: {
          ...last.content,
          notes: [...last.content.notes, ...entry.content.notes],
          graces: [...last.content.graces, ...entry.content.graces],
        },
      }
    // A rest beside notes of its own voice says nothing.
    else if (entry.content.kind === 'chord') {
      if (last.content.kind === 'rest') line[line.length - 1] = entry
      else over.push(entry)
    }
  }
  return { line, over }
}

function elementsOf(line: readonly Entry[], measure: Measure, staff: number): ScoreElement[] {
  const { lengthTicks } = measure
  if (line.every(({ content }) => content.kind === 'rest'))
    return [
      wholeRest(
        lengthTicks,
        line.every(({ content }) => content.kind === 'rest' && content.isHidden),
      ),
    ]
  const elements: ScoreElement[] = []
  let at = 0
  const edges = tupletEdges(line)
  for (const [index, entry] of line.entries()) {
    const start = Math.min(entry.startTicks, lengthTicks)
    const end = Math.min(entry.startTicks + entry.durationTicks, lengthTicks)
    if (end <= start) continue
    if (start > at) elements.push(...silence(at, start, measure))
    elements.push(...piecesOf(entry, start, end, edges[index]!, measure, staff))
    at = end
  }
  if (at < lengthTicks) elements.push(...silence(at, lengthTicks, measure))
  return elements
}

/** A rest for a whole bar. */
export function wholeRest(lengthTicks: Ticks, isHidden: boolean): ScoreElement {
  return {
    kind: 'rest',
    startTicks: 0,
    durationTicks: lengthTicks,
    value: { type: 'whole', dots: 0 },
    tuplet: null,
    isWholeMeasure: true,
    isHidden,
  }
}

/** Rests that are not printed. */
function silence(from: Ticks, to: Ticks, measure: Measure): ScoreElement[] {
  let startTicks = from
  return wholeLengths(from, to, measure, true).map((durationTicks): ScoreElement => {
    const value = noteValueOf(durationTicks) ?? { type: '128th', dots: 0 }
    const rest: ScoreElement = {
      kind: 'rest',
      startTicks,
      durationTicks,
      value,
      tuplet: null,
      isWholeMeasure: false,
      isHidden: true,
    }
    startTicks += durationTicks
    return rest
  })
}

/** Lengths that can be written; what is finer than any value is one, as it is. */
function wholeLengths(from: Ticks, to: Ticks, measure: Measure, isRest: boolean): readonly Ticks[] {
  const lengths = writableLengths(from, to, measure, isRest)
  return lengths.every(Number.isInteger) ? lengths : [to - from]
}

/** An entry as one element where its value says its length, else as several that are tied. */
function piecesOf(
  entry: Entry,
  start: Ticks,
  end: Ticks,
  edge: { readonly starts: boolean; readonly stops: boolean },
  measure: Measure,
  staff: number,
): ScoreElement[] {
  const durationTicks = end - start
  const { tuplet, content } = entry
  const ratio = tuplet ? tuplet.normal / tuplet.actual : 1
  const lasts = (value: NoteValue) => ticksOfNoteValue(value) * ratio
  const told = entry.value && Math.abs(lasts(entry.value) - durationTicks) <= nearTicks ? entry.value : null
  const value = told ?? noteValueOf(Math.round(durationTicks / ratio)) ?? null
  if (value)
    return [elementOf(entry, start, durationTicks, value, tuplet ? { ...tuplet, ...edge } : null, staff)]
  // What no value says: tied pieces. Of a tuplet that cannot be written, the time is kept.
  let at = start
  const lengths = wholeLengths(start, end, measure, content.kind === 'rest')
  return lengths.map((length, index): ScoreElement => {
    const piece = elementOf(entry, at, length, noteValueOf(length) ?? { type: '128th', dots: 0 }, null, staff)
    at += length
    if (piece.kind === 'rest') return piece
    const [isFirst, isLast] = [index === 0, index === lengths.length - 1]
    return {
      ...piece,
      articulations: isFirst ? piece.articulations : [],
      graces: isFirst ? piece.graces : [],
      lyric: isFirst ? piece.lyric : null,
      notes: piece.notes.map((note) => ({
        ...note,
        tiesFromPrevious: isFirst ? note.tiesFromPrevious : true,
        tiesToNext: isLast ? note.tiesToNext : true,
      })),
    }
  })
}

function elementOf(
  entry: Entry,
  startTicks: Ticks,
  durationTicks: Ticks,
  value: NoteValue,
  tuplet: (NonNullable<Entry['tuplet']> & { starts: boolean; stops: boolean }) | null,
  staff: number,
): ScoreElement {
  const time = {
    startTicks,
    durationTicks,
    value,
    tuplet: tuplet && {
      actual: tuplet.actual,
      normal: tuplet.normal,
      starts: tuplet.starts,
      stops: tuplet.stops,
    },
  }
  const { content } = entry
  if (content.kind === 'rest')
    return { kind: 'rest', ...time, isWholeMeasure: false, isHidden: content.isHidden }
  return {
    kind: 'chord',
    ...time,
    beams: [],
    crossesTo: entry.staff === staff ? null : entry.staff,
    articulations: isRollable(content)
      ? content.articulations
      : content.articulations.filter((sign) => sign !== 'rolled'),
    graces: content.graces.map(chordNote),
    lyric: content.lyric && { ...content.lyric, isHeld: false },
    notes: [...content.notes].sort((a, b) => a.key - b.key).map(chordNote),
  }
}

/** Several notes are struck: one alone cannot be rolled. */
function isRollable({ notes }: EntryChord): boolean {
  return notes.filter(({ tiesFromPrevious }) => !tiesFromPrevious).length > 1
}

/** Its identity is given where the bar is played; 0: its file does not say how hard it is struck. */
function chordNote(note: EntryNote): ChordNote {
  return {
    noteIds: [],
    velocity: note.velocity ?? 0,
    key: note.key,
    pitch: note.pitch,
    tiesFromPrevious: note.tiesFromPrevious,
    tiesToNext: note.tiesToNext,
    fingering: note.fingering,
    accidental: null,
  }
}

/**
 * Where tuplets begin and end. A file that does not tell is understood as players do: a group is over as soon as it lasts as long as
 * the values it stands for.
 */
function tupletEdges(line: readonly Entry[]): { starts: boolean; stops: boolean }[] {
  const edges = line.map(() => ({ starts: false, stops: false }))
  for (let index = 0; index < line.length; ) {
    const { tuplet } = line[index]!
    if (!tuplet) {
      index++
      continue
    }
    let to = index + 1
    while (to < line.length && isSame(line[to]!.tuplet, tuplet)) to++
    const run = line.slice(index, to)
    if (run.some((each) => each.tuplet?.edge))
      for (const [place, each] of run.entries())
        edges[index + place] = {
          starts: each.tuplet!.edge?.starts ?? false,
          stops: each.tuplet!.edge?.stops ?? false,
        }
    else {
      let began = index
      let lasted = 0
      for (let at = index; at < to; at++) {
        const unit = line[began]!.value ? ticksOfValue(line[began]!.value!.type) : 0
        if (at === began) edges[at]!.starts = true
        lasted += line[at]!.durationTicks
        const isFull = unit > 0 && lasted >= unit * tuplet.normal - nearTicks
        if (isFull || at === to - 1) {
          edges[at]!.stops = true
          began = at + 1
          lasted = 0
        }
      }
    }
    index = to
  }
  return edges
}

function isSame(a: Entry['tuplet'], b: NonNullable<Entry['tuplet']>): boolean {
  return a !== null && a.actual === b.actual && a.normal === b.normal
}
