import type { Instrument } from '../../midi/instrument'
import { percussionPlace } from '../../notation/percussion'
import { keyOf, letterAt } from '../../notation/pitchSteps'
import type { SpelledPitch } from '../../notation/score'
import {
  type Entry,
  type EntryNote,
  plainFlow,
  type WrittenMusic,
  type WrittenPart,
} from '../../notation/writtenMusic/writtenMusic'
import type { MeterMap } from '../../time/meterMap'
import { TICKS_PER_QUARTER, type Ticks } from '../../time/units'
import type { ReceiverPart, ReceiverSettings } from './receiverSettings'
import { meterOf, staffAddress, type TakenDown, type TakenDownNote } from './takeDown'

/** Notes of one voice that begin and end together, or silence. */
interface Stretch {
  readonly startTicks: Ticks
  readonly endTicks: Ticks
  readonly notes: readonly TakenDownNote[]
}

/** By index, `to` not included. */
interface Bars {
  readonly from: number
  readonly to: number
}

/** What holds for all that is written of a part. */
interface Page {
  readonly isDrums: boolean
  readonly fifths: number
  readonly meter: MeterMap
}

/** The music up to a bar, with what was taken down from another bar on: what reaches in or out is tied. */
export function writtenDown(
  { parts, notes, threes }: TakenDown,
  settings: ReceiverSettings,
  bars: Bars,
): WrittenMusic {
  const { numerator, denominator, fifths } = settings
  const meter = { numerator, denominator }
  const meterMap = meterOf(settings)
  const threesOf = (partIndex: number) => (staff: 1 | 2) =>
    threes.get(staffAddress({ partIndex, staff })) ?? new Set<number>()
  return {
    headings: { title: 'Received', subtitle: '', composer: '', arranger: '', rights: '' },
    bars: Array.from({ length: bars.to }, () => ({
      meter,
      flow: plainFlow,
      barLine: null,
      breakBefore: null,
    })),
    parts: parts.map(({ staves }, partIndex): WrittenPart => {
      const isDrums = staves[0]!.clef === 'percussion'
      const own = notes.filter((note) => note.partIndex === partIndex)
      return {
        heading: headingOf(parts[partIndex]!),
        transposition: { semitones: 0, steps: 0 },
        clefs: staves.map(({ clef }) => clef),
        clefChanges: [],
        keys: [{ bar: 0, fifths: isDrums ? 0 : fifths, mode: 'major' }],
        entries: barsOf(own, staves.length, { isDrums, fifths, meter: meterMap }, threesOf(partIndex), bars),
        levels: [],
        hairpins: [],
        octaveLines: [],
        pedals: [],
        texts: [],
        slurs: [],
        glissandi: [],
      }
    }),
    tempos: [{ bar: 0, offsetTicks: 0, tempoBpm: settings.tempoBpm }],
    sections: [],
    chordSymbols: [],
    swing: null,
  }
}

function headingOf({ name, staves }: ReceiverPart): WrittenPart['heading'] {
  const instrument: Instrument =
    staves[0]!.clef === 'percussion' ? { kind: 'drums' } : { kind: 'program', program: 0 }
  return {
    name,
    shortName: '',
    instrument,
    bracket: 'none',
    keyNames: [],
    channel: staves[0]!.channel,
    volume: 0.8,
    pan: 0,
  }
}

function barsOf(
  notes: readonly TakenDownNote[],
  staffCount: number,
  page: Page,
  threesOf: (staff: 1 | 2) => ReadonlySet<number>,
  { from, to }: Bars,
): Entry[][] {
  const { meter } = page
  const bars: Entry[][] = Array.from({ length: to }, () => [])
  for (const staff of staffCount === 2 ? ([1, 2] as const) : ([1] as const)) {
    const threes = threesOf(staff)
    const [first = [], ...others] = voicesOf(notes.filter((note) => note.staff === staff))
    for (const [index, voice] of [first, ...others].entries())
      for (let bar = from; bar < to; bar++) {
        const { startTicks, lengthTicks } = meter.measure(bar)
        const own = within(voice, startTicks, startTicks + lengthTicks)
        const name = `${staff} ${index + 1}`
        // The first voice fills its bar, so that the bar has its length.
        if (own.length === 0 && index === 0) bars[bar]!.push(wholeRest(lengthTicks, name, staff))
        if (own.length === 0) continue
        for (const stretch of withSilence(own, startTicks, startTicks + lengthTicks))
          for (const piece of inPieces(stretch, threes))
            bars[bar]!.push(entryOf(piece, startTicks, name, staff, index > 0, page, threes))
      }
  }
  return bars
}

function wholeRest(durationTicks: Ticks, voice: string, staff: number): Entry {
  const content = { kind: 'rest', isWholeMeasure: true, isHidden: false } as const
  return { startTicks: 0, durationTicks, voice, staff, value: null, tuplet: null, content }
}

/**
 * Chords of a staff in as few voices as hold them: each in the first that is free when it begins, so that nothing is cut, whatever
 * it was played in.
 */
function voicesOf(notes: readonly TakenDownNote[]): Stretch[][] {
  const chords = new Map<string, { startTicks: Ticks; endTicks: Ticks; notes: TakenDownNote[] }>()
  for (const note of notes) {
    const address = `${note.onsetTicks} ${note.endTicks}`
    const chord = chords.get(address)
    if (chord) chord.notes.push(note)
    else chords.set(address, { startTicks: note.onsetTicks, endTicks: note.endTicks, notes: [note] })
  }
  const highest = (chord: Stretch) => Math.max(...chord.notes.map(({ key }) => key))
  const sorted = [...chords.values()].sort(
    (a, b) => a.startTicks - b.startTicks || highest(b) - highest(a) || a.endTicks - b.endTicks,
  )
  const voices: Stretch[][] = []
  for (const chord of sorted) {
    const free = voices.find((voice) => voice.at(-1)!.endTicks <= chord.startTicks)
    if (free) free.push(chord)
    else voices.push([chord])
  }
  return voices
}

function within(voice: readonly Stretch[], startTicks: Ticks, endTicks: Ticks): Stretch[] {
  return voice.flatMap((chord) => {
    const [start, end] = [Math.max(startTicks, chord.startTicks), Math.min(endTicks, chord.endTicks)]
    return end > start ? [{ startTicks: start, endTicks: end, notes: chord.notes }] : []
  })
}

/** Chords of a bar with the silence between them. */
function withSilence(chords: readonly Stretch[], startTicks: Ticks, endTicks: Ticks): Stretch[] {
  const all: Stretch[] = []
  let at = startTicks
  const rest = (until: Ticks) => {
    if (until > at) all.push({ startTicks: at, endTicks: until, notes: [] })
  }
  for (const chord of chords) {
    rest(chord.startTicks)
    all.push(chord)
    at = chord.endTicks
  }
  rest(endTicks)
  return all
}

/** Cut where a beat in threes begins or ends: each of its values stands within it. */
function inPieces({ startTicks, endTicks, notes }: Stretch, threes: ReadonlySet<number>): Stretch[] {
  const pieces: Stretch[] = []
  let at = startTicks
  while (at < endTicks) {
    const beat = Math.floor(at / TICKS_PER_QUARTER)
    const beatEnd = (beat + 1) * TICKS_PER_QUARTER
    let end = endTicks
    if (threes.has(beat)) end = Math.min(endTicks, beatEnd)
    else
      for (let next = beat + 1; next * TICKS_PER_QUARTER < endTicks; next++)
        if (threes.has(next)) {
          end = next * TICKS_PER_QUARTER
          break
        }
    for (const [from, to] of threes.has(beat)
      ? thirds(at, end, beat * TICKS_PER_QUARTER)
      : [[at, end] as const])
      pieces.push({ startTicks: from, endTicks: to, notes })
    at = end
  }
  return pieces
}

const third: Ticks = TICKS_PER_QUARTER / 3

/** Within a beat in threes, only lengths that one value has: a whole beat, one or two thirds, half a third. */
function thirds(from: Ticks, to: Ticks, beatTicks: Ticks): (readonly [Ticks, Ticks])[] {
  if (from === beatTicks && to - from === TICKS_PER_QUARTER) return [[from, to]]
  const pieces: (readonly [Ticks, Ticks])[] = []
  let at = from
  while (at < to) {
    const isOnThird = (at - beatTicks) % third === 0
    const left = to - at
    const length = isOnThird && left >= 2 * third ? 2 * third : isOnThird && left >= third ? third : third / 2
    pieces.push([at, at + length])
    at += length
  }
  return pieces
}

function entryOf(
  { startTicks, endTicks, notes }: Stretch,
  barTicks: Ticks,
  voice: string,
  staff: number,
  isSecond: boolean,
  { isDrums, fifths }: Page,
  threes: ReadonlySet<number>,
): Entry {
  const durationTicks = endTicks - startTicks
  const isInThrees =
    threes.has(Math.floor(startTicks / TICKS_PER_QUARTER)) && durationTicks < TICKS_PER_QUARTER
  return {
    startTicks: startTicks - barTicks,
    durationTicks,
    voice,
    staff,
    value: null,
    tuplet: isInThrees ? { actual: 3, normal: 2, edge: edgeOf(startTicks, endTicks) } : null,
    content:
      notes.length === 0
        ? { kind: 'rest', isWholeMeasure: false, isHidden: isSecond }
        : {
            kind: 'chord',
            notes: notes.map(
              (note): EntryNote => ({
                key: note.key,
                pitch: pitchOf(note, isDrums, fifths),
                tiesFromPrevious: note.onsetTicks < startTicks,
                tiesToNext: note.endTicks > endTicks,
                velocity: note.velocity,
                fingering: null,
              }),
            ),
            graces: [],
            articulations: [],
            lyric: null,
          },
  }
}

/** A group of three lasts a beat. */
function edgeOf(startTicks: Ticks, endTicks: Ticks): { starts: boolean; stops: boolean } {
  return { starts: startTicks % TICKS_PER_QUARTER === 0, stops: endTicks % TICKS_PER_QUARTER === 0 }
}

/** A stroke of percussion stands at its place; a pitch has the name nearest to the key on the line of fifths. */
function pitchOf({ key }: TakenDownNote, isDrums: boolean, fifths: number): SpelledPitch {
  if (!isDrums) return spelled(key, fifths)
  const { step, octave } = percussionPlace(key)
  return { step, octave, alter: 0 }
}

/** From the flat fifth of the key's tonic to its sharp fourth, so that no name has more than one sign. */
export function spelled(key: number, fifths: number): SpelledPitch {
  const about = Math.round(((key - 12) / 12) * 7)
  const names = [about - 1, about, about + 1].flatMap((step) => {
    const letter = letterAt(step)
    const alter = key - keyOf({ ...letter, alter: 0 })
    return Math.abs(alter) <= 1 ? [{ ...letter, alter }] : []
  })
  const middle = fifths + 2
  const off = ({ step, alter }: SpelledPitch) => Math.abs('FCGDAEB'.indexOf(step) - 1 + 7 * alter - middle)
  return names.reduce((best, name) => (off(name) < off(best) ? name : best))
}
