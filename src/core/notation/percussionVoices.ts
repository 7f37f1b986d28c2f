import { noteEndTicks } from '../event/note'
import { beatUnitTicks, MeterMap } from '../time/meterMap'
import { TICKS_PER_QUARTER, type Ticks } from '../time/units'
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
  isRolled: (stroke: WrittenNote) => boolean,
): WrittenNote[] {
  if (!severalVoices) return percussionLengths(staff, source, isRolled)
  const ends = new Map(
    [staff.filter((each) => !isByFoot(each)), staff.filter(isByFoot)].flatMap((part) =>
      percussionLengths(part, source, isRolled).map((each) => [each.note.id, each] as const),
    ),
  )
  return staff.map(({ note }) => ends.get(note.id)!)
}

/** A hit has no length: it is written up to the next hit, or to the end of its beat; a roll lasts as it was played. */
function percussionLengths(
  staff: readonly WrittenNote[],
  source: ScoreSource,
  isRolled: (stroke: WrittenNote) => boolean,
): WrittenNote[] {
  const meterMap = new MeterMap(source.meters)
  const onsets = [...new Set(staff.map((each) => each.onsetTicks))]
  const next = new Map(onsets.map((onset, index) => [onset, onsets[index + 1] ?? Number.POSITIVE_INFINITY]))
  return staff.map((each) => {
    const measure = meterMap.measureAt(each.onsetTicks)
    const beat = beatUnitTicks(measure)
    const inBar = each.onsetTicks - measure.startTicks
    const beatEnd = measure.startTicks + (Math.floor(inBar / beat) + 1) * beat
    const until = isRolled(each) ? rollEnd(each) : beatEnd
    return { ...each, endTicks: Math.min(next.get(each.onsetTicks)!, until) }
  })
}

/** Rolls end at an eighth: the last stroke is not where the roll is meant to end. */
const rollGridTicks: Ticks = TICKS_PER_QUARTER / 2

function rollEnd({ note, onsetTicks }: WrittenNote): Ticks {
  const end = Math.round(noteEndTicks(note) / rollGridTicks) * rollGridTicks
  return Math.max(onsetTicks + rollGridTicks, end)
}
