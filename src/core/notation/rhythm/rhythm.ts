import type { Note } from '../../event/note'
import { firstIndex } from '../../time/firstIndex'
import { type MeterChange, MeterMap } from '../../time/meterMap'
import { type TempoChange, TempoMap } from '../../time/tempoMap'
import { type Milliseconds, TICKS_PER_QUARTER, type Ticks } from '../../time/units'
import { type Beat, beatsOf } from './beats'
import { decideEnds } from './lengths'
import { type Cluster, decideOnsets } from './onsets'

/** A performed note with its written onset and end. */
export interface WrittenNote {
  readonly note: Note
  readonly onsetTicks: Ticks
  readonly endTicks: Ticks
  /** It was played shorter than it is written: staccato. */
  readonly isShort: boolean
  /** Where it is divided into tied values because somebody tied it. */
  readonly cuts?: readonly Ticks[]
  /** Of a note in a chord that changes while it is held: it was struck before this chord, or lasts into the next. */
  readonly held?: { readonly fromBefore: boolean; readonly intoNext: boolean }
}

export interface RhythmSettings {
  readonly smallestValue: number
  readonly tuplets: boolean
  readonly chordWindowMs: Milliseconds
  /** Notes may be played shorter than they are written, by touch. */
  readonly readsTouch: boolean
}

/** The rhythm of a part, with what was found about its player. */
export interface Rhythm {
  /** In order of written onset, then key. */
  readonly written: WrittenNote[]
  /** How late the player is throughout (early when negative); it is taken off. */
  readonly lateMs: Milliseconds
}

/**
 * Finds the written rhythm of one performed part.
 *
 * @param notes in any order
 * @param staffOf notes of different staves (hands) do not end each other
 */
export function writeRhythm(
  notes: readonly Note[],
  time: { readonly tempos: readonly TempoChange[]; readonly meters: readonly MeterChange[] },
  settings: RhythmSettings,
  staffOf: (note: Note) => number = () => 0,
): Rhythm {
  if (notes.length === 0) return { written: [], lateMs: 0 }
  const tempoMap = new TempoMap(time.tempos)
  const sorted = [...notes].sort((a, b) => a.onsetTicks - b.onsetTicks || a.key - b.key || a.id - b.id)
  const endTicks = sorted.reduce((end, note) => Math.max(end, note.onsetTicks + note.durationTicks), 0)
  // One beat more than the music needs, so that a last note that is a little late or long has a place.
  const measures = new MeterMap(time.meters).measuresUntil(endTicks + TICKS_PER_QUARTER * 4)
  const beats = beatsOf(measures, tempoMap, settings)

  const { clusters, clusterOf } = clusterNotes(sorted, tempoMap, settings.chordWindowMs)
  const decided = decideOnsets(clusters, beats)
  const written: WrittenNote[] = []
  const staves = new Map<number, number[]>()
  for (const [index, note] of sorted.entries()) {
    const staff = staffOf(note)
    const members = staves.get(staff)
    if (members) members.push(index)
    else staves.set(staff, [index])
  }
  for (const members of staves.values()) {
    const open = members
      .map((index) => {
        const note = sorted[index]!
        return {
          note,
          writtenOnsetTicks: decided.onsetTicks[clusterOf[index]!]!,
          playedOnsetTicks: note.onsetTicks,
          playedEndTicks: note.onsetTicks + note.durationTicks,
          key: note.key,
        }
      })
      .sort((a, b) => a.writtenOnsetTicks - b.writtenOnsetTicks || a.key - b.key)
    const ends = withoutIdleTuplets(
      open.map(({ writtenOnsetTicks }) => writtenOnsetTicks),
      decideEnds(open, beats, decided, settings.readsTouch),
      beats,
    )
    for (const [index, { note, writtenOnsetTicks }] of open.entries())
      written.push({ note, onsetTicks: writtenOnsetTicks, ...ends[index]! })
  }
  written.sort((a, b) => a.onsetTicks - b.onsetTicks || a.note.key - b.note.key || a.note.id - b.note.id)
  return { written, lateMs: decided.biasMs }
}

/**
 * Ends where the beat is divided in even parts, unless something begins off them in it: no tuplet is written for an end alone.
 * (Common practice, no source.)
 */
function withoutIdleTuplets<End extends { readonly endTicks: Ticks }>(
  onsets: readonly Ticks[],
  ends: readonly End[],
  beats: readonly Beat[],
): End[] {
  const isEven = (place: Ticks, { lengthTicks }: Beat) => (place * 16) % lengthTicks === 0
  const inTuplets = new Set<Beat>()
  for (const tick of onsets) {
    const beat = beatAt(beats, tick)
    if (beat && !isEven(tick - beat.startTicks, beat)) inTuplets.add(beat)
  }
  return ends.map((end, index) => {
    const beat = beatAt(beats, end.endTicks)
    if (!beat || beat.grids.length === 1 || inTuplets.has(beat)) return end
    const place = end.endTicks - beat.startTicks
    if (isEven(place, beat)) return end
    const step = beat.lengthTicks / Math.max(2, beat.grids[0]!.divisions)
    const endTicks = beat.startTicks + Math.round(place / step) * step
    return { ...end, endTicks: endTicks > onsets[index]! ? endTicks : onsets[index]! + step }
  })
}

function beatAt(beats: readonly Beat[], tick: Ticks): Beat | undefined {
  const index = firstIndex(beats.length, (candidate) => beats[candidate]!.startTicks > tick) - 1
  return beats[index]
}

function clusterNotes(
  sorted: readonly Note[],
  tempoMap: TempoMap,
  chordWindowMs: Milliseconds,
): { clusters: Cluster[]; clusterOf: number[] } {
  const clusters: Cluster[] = []
  const clusterOf: number[] = []
  let members: Note[] = []
  let startMs = Number.NEGATIVE_INFINITY
  const close = () => {
    if (members.length === 0) return
    clusters.push({
      onsetTicks: members.reduce((sum, note) => sum + note.onsetTicks, 0) / members.length,
      size: members.length,
      heldTicks: members.reduce((sum, note) => sum + note.durationTicks, 0) / members.length,
      keys: members.map((note) => note.key),
    })
    members = []
  }
  for (const note of sorted) {
    const onsetMs = tempoMap.msAt(note.onsetTicks)
    const repeats = members.some((member) => member.key === note.key)
    if (onsetMs - startMs > chordWindowMs || repeats) {
      close()
      startMs = onsetMs
    }
    members.push(note)
    clusterOf.push(clusters.length)
  }
  close()
  return { clusters, clusterOf }
}
