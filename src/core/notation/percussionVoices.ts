import { beatUnitTicks, MeterMap } from '../time/meterMap'
import { isPlayedByFoot } from './percussion'
import type { WrittenNote } from './rhythm/rhythm'
import type { ScoreSource } from './scoreSource'
import { type StaffVoice, staffVoices } from './voices'

const isByFoot = ({ note }: WrittenNote) => isPlayedByFoot(note.key)

/** What hands play in one voice, what feet play in another. */
export function handsAndFeet(staff: readonly WrittenNote[], severalVoices: boolean): StaffVoice[] {
  if (!severalVoices) return staffVoices(staff, false)
  const parts = [staff.filter((each) => !isByFoot(each)), staff.filter(isByFoot)]
  return parts.flatMap((part) => (part.length > 0 ? staffVoices(part, false) : []))
}

/** Lengths for what hands and feet play, each by itself. */
export function strokeLengths(
  staff: readonly WrittenNote[],
  source: ScoreSource,
  severalVoices: boolean,
): WrittenNote[] {
  if (!severalVoices) return percussionLengths(staff, source)
  const ends = new Map(
    [staff.filter((each) => !isByFoot(each)), staff.filter(isByFoot)].flatMap((part) =>
      percussionLengths(part, source).map((each) => [each.note.id, each] as const),
    ),
  )
  return staff.map(({ note }) => ends.get(note.id)!)
}

/** A hit has no length: it is written up to the next hit, or to the end of its beat. */
function percussionLengths(staff: readonly WrittenNote[], source: ScoreSource): WrittenNote[] {
  const meterMap = new MeterMap(source.meters)
  const onsets = [...new Set(staff.map((each) => each.onsetTicks))]
  const next = new Map(onsets.map((onset, index) => [onset, onsets[index + 1] ?? Number.POSITIVE_INFINITY]))
  return staff.map((each) => {
    const measure = meterMap.measureAt(each.onsetTicks)
    const beat = beatUnitTicks(measure)
    const inBar = each.onsetTicks - measure.startTicks
    const beatEnd = measure.startTicks + (Math.floor(inBar / beat) + 1) * beat
    return { ...each, endTicks: Math.min(next.get(each.onsetTicks)!, beatEnd) }
  })
}
