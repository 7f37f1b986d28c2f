import { noteEndTicks } from '../event/note'
import { isUnpitched, type Score } from '../notation/score'
import { midiPartsOf } from '../project/midiParts'
import type { Track } from '../project/schema'

/** A note as a reader must find it: what sounds, when and how long, in ticks of the project. */
export interface ProofNote {
  readonly onsetTicks: number
  readonly durationTicks: number
  readonly key: number
}

/**
 * The notes of each staff of a score, what is repeated played again, by the place of its part, tied noteheads joined, in order of onset,
 * then key.
 */
export function expectedScoreNotes(score: Score): {
  partIndex: number
  staff: number
  isPercussion: boolean
  notes: ProofNote[]
  /** Of notes in small print, which have no place in the bar. */
  graceKeys: number[]
}[] {
  const played = barsAsPlayed(score)
  return score.parts.flatMap((part, partIndex) =>
    part.clefs.map((_, staffIndex) => {
      const notes: ProofNote[] = []
      const graceKeys: number[] = []
      const open = new Map<string, { onsetTicks: number; endTicks: number }>()
      for (const { bar, startTicks } of played) {
        for (const voice of part.measures[bar]!) {
          if (voice.staff !== staffIndex + 1) continue
          for (const element of voice.elements) {
            if (element.kind !== 'chord') continue
            graceKeys.push(...element.graces.map(({ key }) => key))
            const onsetTicks = startTicks + element.startTicks
            const endTicks = onsetTicks + element.durationTicks
            for (const note of element.notes) {
              const address = `${voice.voice}:${note.key}`
              const from = note.tiesFromPrevious ? open.get(address)?.onsetTicks : undefined
              const began = from ?? onsetTicks
              if (note.tiesToNext) open.set(address, { onsetTicks: began, endTicks })
              else {
                open.delete(address)
                notes.push({ onsetTicks: began, durationTicks: endTicks - began, key: note.key })
              }
            }
          }
        }
      }
      for (const [address, { onsetTicks, endTicks }] of open)
        notes.push({ onsetTicks, durationTicks: endTicks - onsetTicks, key: Number(address.split(':')[1]) })
      return {
        partIndex,
        staff: staffIndex + 1,
        isPercussion: isUnpitched(part),
        notes: notes.sort(byPlace),
        graceKeys,
      }
    }),
  )
}

/** Its bars one after the other, as its repeat signs say: bars of a first ending are left out the second time. */
function barsAsPlayed({ measures, repeats, endings }: Score): { bar: number; startTicks: number }[] {
  const bars = measures.flatMap((_, bar) => {
    const repeat = repeats.find(({ to }) => to - 1 === bar)
    if (!repeat) return [bar]
    const passage = Array.from({ length: repeat.to - repeat.from }, (_, each) => repeat.from + each).filter(
      (again) => !endings.some(({ from, to, time }) => time === 1 && again >= from && again < to),
    )
    return [bar, ...Array.from({ length: repeat.times - 1 }, () => passage).flat()]
  })
  let startTicks = 0
  return bars.map((bar) => {
    const place = { bar, startTicks }
    startTicks += measures[bar]!.lengthTicks
    return place
  })
}

/** The notes of tracks as they are played, for files that keep the performance: each voice that was told is a track there. */
export function expectedTrackNotes(tracks: readonly Track[]): { name: string; notes: ProofNote[] }[] {
  return tracks.flatMap(midiPartsOf).map(({ name, notes }) => ({
    name,
    notes: notes
      .map((note) => ({
        onsetTicks: note.onsetTicks,
        durationTicks: noteEndTicks(note) - note.onsetTicks,
        key: note.key,
      }))
      .sort(byPlace),
  }))
}

export function byPlace(a: ProofNote, b: ProofNote): number {
  return a.onsetTicks - b.onsetTicks || a.key - b.key || a.durationTicks - b.durationTicks
}
