import { z } from '../border/checks'
import { chance } from '../effects/chance'
import { ticksOfMs } from '../effects/later'
import type { MusicalContext } from '../effects/noteEffect'
import { TICKS_PER_QUARTER, type Ticks } from '../time/units'
import { type ChartChord, readChart } from './chordChart'
import type { GeneratedNote } from './generated'
import { voice, voicings } from './voicing'

/** Rhythms of a chord player: strokes as parts of the chord's own time, with their length. */
export const chordRhythms = ['held', 'on the beat', 'off the beat', 'pushed', 'rolling'] as const
export const feels = ['straight', 'swing', 'waltz', 'slow', 'rolling'] as const

/** Letters of a chart: far more than any song has. */
export const longestChart = 200_000
const chartText = z.string().max(longestChart)

export const chordPlayerSchema = z.object({
  chart: chartText,
  voicing: z.enum(voicings),
  rhythm: z.enum(chordRhythms),
  strumMs: z.number().min(0).max(200),
  middleKey: z.number().int().min(36).max(96),
  gate: z.number().min(5).max(100),
  velocity: z.number().int().min(1).max(127),
  channel: z.number().int().min(1).max(16),
  /** The bar it begins with, from 1. */
  startBar: z.number().int().min(1).max(9999),
  choruses: z.number().int().min(1).max(200),
})

export const accompanimentSchema = z.object({
  chart: chartText,
  feel: z.enum(feels),
  /** Bars of count-in on the drums before the chart begins. */
  countInBars: z.number().int().min(0).max(4),
  choruses: z.number().int().min(1).max(200),
  startBar: z.number().int().min(1).max(9999),
  bassChannel: z.number().int().min(1).max(16),
  drumsChannel: z.number().int().min(1).max(16),
  compingChannel: z.number().int().min(1).max(16),
})

export type ChordPlayer = Readonly<z.infer<typeof chordPlayerSchema>>
export type Accompaniment = Readonly<z.infer<typeof accompanimentSchema>>

interface PlacedChord {
  readonly chord: ChartChord
  readonly fromTicks: Ticks
  readonly toTicks: Ticks
  readonly next: ChartChord | null
}

interface PlacedBar {
  readonly fromTicks: Ticks
  readonly lengthTicks: Ticks
  readonly beatTicks: Ticks
  readonly index: number
}

/** Lays the bars of a chart along the piece, as often as it is to be played. */
function place(
  chart: string,
  startBar: number,
  choruses: number,
  { meterMap }: MusicalContext,
): { readonly bars: PlacedBar[]; readonly chords: PlacedChord[] } {
  const { bars } = readChart(chart)
  const placed: PlacedBar[] = []
  const chords: { chord: ChartChord; fromTicks: Ticks; toTicks: Ticks }[] = []
  for (let chorus = 0; chorus < choruses; chorus++)
    for (const [index, bar] of bars.entries()) {
      const number = startBar - 1 + chorus * bars.length + index
      const { startTicks, lengthTicks, denominator } = meterMap.measure(number)
      placed.push({
        fromTicks: startTicks,
        lengthTicks,
        beatTicks: (TICKS_PER_QUARTER * 4) / denominator,
        index: number,
      })
      const each = lengthTicks / bar.length
      for (const [at, chord] of bar.entries()) {
        if (!chord) continue
        const fromTicks = Math.round(startTicks + at * each)
        const toTicks = Math.round(startTicks + (at + 1) * each)
        const last = chords.at(-1)
        // The same chord again, within a bar, is held on.
        if (at > 0 && last?.chord === chord) last.toTicks = toTicks
        else chords.push({ chord, fromTicks, toTicks })
      }
    }
  return {
    bars: placed,
    chords: chords.map((each, index) => ({ ...each, next: chords[index + 1]?.chord ?? null })),
  }
}

/** A progression as chords: voiced, in a rhythm, strummed. */
export function chordPlayerNotes(settings: ChordPlayer, context: MusicalContext): GeneratedNote[] {
  const { chords } = place(settings.chart, settings.startBar, settings.choruses, context)
  const notes: GeneratedNote[] = []
  let before: readonly number[] = []
  for (const { chord, fromTicks, toTicks } of chords) {
    const keys = voice(chord, settings.voicing, settings.middleKey, before)
    before = keys
    const strokes = strokesOf(settings.rhythm, fromTicks, toTicks)
    for (const [number, [onset, end, force]] of strokes.entries()) {
      const sounding = settings.rhythm === 'rolling' ? [keys[number % keys.length]!] : keys
      for (const [index, key] of sounding.entries()) {
        const late = ticksOfMs(context.tempoMap, onset, settings.strumMs * index)
        const gateTicks = Math.round(((end - onset) * settings.gate) / 100)
        notes.push({
          onsetTicks: onset + late,
          durationTicks: Math.max(1, gateTicks - late),
          key,
          velocity: Math.max(1, Math.min(127, Math.round(settings.velocity * force))),
          channel: settings.channel,
        })
      }
    }
  }
  return notes
}

function strokesOf(
  rhythm: ChordPlayer['rhythm'],
  fromTicks: Ticks,
  toTicks: Ticks,
): [Ticks, Ticks, number][] {
  const quarter = TICKS_PER_QUARTER
  const strokes: [Ticks, Ticks, number][] = []
  const every = (stepTicks: Ticks, shift: Ticks, lengthTicks: Ticks) => {
    for (let at = fromTicks + shift; at < toTicks; at += stepTicks)
      strokes.push([
        at,
        Math.min(toTicks, at + lengthTicks),
        (at - fromTicks) % (2 * quarter) === shift ? 1 : 0.88,
      ])
  }
  switch (rhythm) {
    case 'held':
      return [[fromTicks, toTicks, 1]]
    case 'on the beat':
      every(quarter, 0, quarter)
      return strokes
    case 'off the beat':
      every(quarter, quarter / 2, quarter / 2)
      return strokes
    case 'rolling':
      every(quarter / 2, 0, quarter / 2)
      return strokes
    case 'pushed':
      for (let at = fromTicks; at < toTicks; at += 4 * quarter) {
        strokes.push([at, Math.min(toTicks, at + 1.5 * quarter), 1])
        if (at + 1.5 * quarter < toTicks)
          strokes.push([at + 1.5 * quarter, Math.min(toTicks, at + 4 * quarter), 0.9])
      }
      return strokes
  }
}

/** Keys of the General MIDI Level 1 percussion map. */
const drum = { kick: 36, stick: 37, snare: 38, closedHat: 42, pedalHat: 44, openHat: 46, ride: 51 } as const

/** Bass, drums and comping from a chart: rules of thumb of the trade (common practice, no source), with chance in between. */
export function accompanimentNotes(
  settings: Accompaniment,
  context: MusicalContext,
  seed: number,
): GeneratedNote[] {
  const { bars, chords } = place(
    settings.chart,
    settings.startBar + settings.countInBars,
    settings.choruses,
    context,
  )
  const swing = settings.feel === 'swing' ? 2 / 3 : 0.5
  return [
    ...countIn(settings, context),
    ...bass(settings, chords, seed, swing),
    ...bars.flatMap((bar) => drums(settings, bar, seed, swing)),
    ...comping(settings, chords, seed, swing),
  ].sort((a, b) => a.onsetTicks - b.onsetTicks || a.channel - b.channel || a.key - b.key)
}

function countIn(
  { startBar, countInBars, drumsChannel }: Accompaniment,
  { meterMap }: MusicalContext,
): GeneratedNote[] {
  return Array.from({ length: countInBars }, (_, index) => meterMap.measure(startBar - 1 + index)).flatMap(
    (bar) =>
      Array.from({ length: bar.numerator }, (_, beat) => ({
        onsetTicks: bar.startTicks + (bar.lengthTicks * beat) / bar.numerator,
        durationTicks: TICKS_PER_QUARTER / 4,
        key: drum.stick,
        velocity: beat === 0 ? 100 : 80,
        channel: drumsChannel,
      })),
  )
}

const lowest = (pitchClass: number, fromKey: number) => fromKey + ((((pitchClass - fromKey) % 12) + 12) % 12)

function bass(
  settings: Accompaniment,
  chords: readonly PlacedChord[],
  seed: number,
  swing: number,
): GeneratedNote[] {
  const notes: GeneratedNote[] = []
  const channel = settings.bassChannel
  const add = (onsetTicks: Ticks, durationTicks: Ticks, key: number, velocity: number) =>
    notes.push({
      onsetTicks,
      durationTicks: Math.max(1, Math.round(durationTicks * 0.92)),
      key,
      velocity,
      channel,
    })
  for (const { chord, fromTicks, toTicks, next } of chords) {
    const root = lowest(chord.bassClass, 31)
    const fifth = lowest(chord.pitchClasses[2] ?? chord.rootClass, root)
    const third = lowest(chord.pitchClasses[1] ?? chord.rootClass, root)
    const beats = Math.max(1, Math.round((toTicks - fromTicks) / TICKS_PER_QUARTER))
    const beatTicks = (toTicks - fromTicks) / beats
    const at = (beat: number) => Math.round(fromTicks + beat * beatTicks)
    if (settings.feel === 'slow') add(fromTicks, toTicks - fromTicks, root, 84)
    else if (settings.feel === 'waltz')
      add(fromTicks, Math.min(toTicks - fromTicks, 3 * TICKS_PER_QUARTER), root, 88)
    else if (settings.feel === 'swing') {
      for (let beat = 0; beat < beats; beat++) {
        // The last beat leads to the next root, from a semitone above or below.
        const isLeading = beat === beats - 1 && beat > 0 && next !== null
        const target = next ? lowest(next.bassClass, 31) : root
        const inside = [root, third, fifth, third][
          Math.floor(chance(seed, fromTicks, beat) * 3) + (beat > 0 ? 1 : 0)
        ]!
        const key = isLeading
          ? target + (chance(seed, fromTicks, 9) < 0.5 ? -1 : 1)
          : beat === 0
            ? root
            : inside
        add(at(beat), beatTicks, key, beat % 2 === 0 ? 92 : 84)
      }
    } else
      for (let beat = 0; beat < beats; beat++) {
        const isOdd = beat % 2 === 1
        if (isOdd && settings.feel === 'rolling')
          add(at(beat) + Math.round(beatTicks * swing), beatTicks / 2, fifth, 82)
        else if (!isOdd)
          add(
            at(beat),
            settings.feel === 'rolling' ? beatTicks * 1.5 : beatTicks,
            beat % 4 === 0 ? root : fifth,
            92,
          )
        else if (chance(seed, fromTicks, beat) < 0.35)
          add(at(beat) + Math.round(beatTicks / 2), beatTicks / 2, root, 76)
      }
  }
  return notes
}

function drums(settings: Accompaniment, bar: PlacedBar, seed: number, swing: number): GeneratedNote[] {
  const notes: GeneratedNote[] = []
  const beats = Math.round(bar.lengthTicks / bar.beatTicks)
  const add = (beat: number, key: number, velocity: number) =>
    notes.push({
      onsetTicks: Math.round(bar.fromTicks + beat * bar.beatTicks),
      durationTicks: Math.round(bar.beatTicks / 4),
      key,
      velocity: Math.max(
        1,
        Math.min(127, Math.round(velocity + (chance(seed, bar.index, key, beat * 100) - 0.5) * 10)),
      ),
      channel: settings.drumsChannel,
    })
  for (let beat = 0; beat < beats; beat++) {
    const isOdd = beat % 2 === 1
    switch (settings.feel) {
      case 'swing':
        add(beat, drum.ride, isOdd ? 84 : 74)
        if (isOdd) add(beat + swing, drum.ride, 62)
        if (isOdd) add(beat, drum.pedalHat, 66)
        if (beat === 0) add(beat, drum.kick, 64)
        if (chance(seed, bar.index, beat, 5) < 0.18) add(beat + swing, drum.snare, 46)
        break
      case 'waltz':
        add(beat, beat === 0 ? drum.kick : drum.pedalHat, beat === 0 ? 84 : 62)
        if (beat > 0) add(beat, drum.ride, 58)
        break
      case 'slow':
        add(beat, drum.closedHat, 52)
        if (beat === 0) add(beat, drum.kick, 80)
        if (beat === Math.floor(beats / 2) && beats > 1) add(beat, drum.stick, 70)
        break
      default:
        add(beat, drum.closedHat, 74)
        add(beat + 0.5, drum.closedHat, 58)
        if (!isOdd) add(beat, drum.kick, 92)
        if (isOdd) add(beat, drum.snare, 90)
        if (settings.feel === 'rolling' && !isOdd) add(beat + 0.75, drum.kick, 66)
        if (beat === beats - 1 && chance(seed, bar.index, 6) < 0.3) add(beat + 0.5, drum.openHat, 64)
    }
  }
  return notes
}

function comping(
  settings: Accompaniment,
  chords: readonly PlacedChord[],
  seed: number,
  swing: number,
): GeneratedNote[] {
  const notes: GeneratedNote[] = []
  let before: readonly number[] = []
  for (const { chord, fromTicks, toTicks } of chords) {
    const keys = voice(chord, 'without root', 62, before)
    before = keys
    const add = (onset: Ticks, end: Ticks, velocity: number) => {
      if (onset >= toTicks) return
      for (const key of keys)
        notes.push({
          onsetTicks: Math.round(onset),
          durationTicks: Math.max(1, Math.round((Math.min(end, toTicks) - onset) * 0.9)),
          key,
          velocity,
          channel: settings.compingChannel,
        })
    }
    const quarter = TICKS_PER_QUARTER
    if (settings.feel === 'slow') add(fromTicks, toTicks, 62)
    else if (settings.feel === 'waltz')
      for (let at = fromTicks + quarter; at < toTicks; at += quarter) {
        if ((at - fromTicks) % (3 * quarter) !== 0) add(at, at + quarter / 2, 60)
      }
    else if (settings.feel === 'swing')
      for (let bar = fromTicks; bar < toTicks; bar += 4 * quarter) {
        const way = Math.floor(chance(seed, bar, 7) * 3)
        if (way === 0) {
          add(bar, bar + quarter, 66)
          add(bar + (1 + swing) * quarter, bar + 2 * quarter, 60)
        } else if (way === 1) {
          add(bar + quarter, bar + 1.4 * quarter, 62)
          add(bar + 3 * quarter, bar + 3.4 * quarter, 60)
        } else add(bar + swing * quarter, bar + 2 * quarter, 64)
      }
    else
      for (let at = fromTicks; at < toTicks; at += 2 * quarter) {
        add(at, at + quarter, 64)
        add(at + 1.5 * quarter, at + 2 * quarter, 56)
      }
  }
  return notes
}
