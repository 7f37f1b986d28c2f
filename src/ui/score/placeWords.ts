import type { SpelledPitch } from '@/core/notation/score'
import { contextOf } from '@/core/project/context'
import type { Project } from '@/core/project/schema'
import { TICKS_PER_QUARTER } from '@/core/time/units'
import type { WrittenPlace } from '@/engine/engraver/choosing'

const valueNames: Readonly<Record<WrittenPlace['value']['type'], string>> = {
  whole: 'whole',
  half: 'half',
  quarter: 'quarter',
  eighth: 'eighth',
  '16th': 'sixteenth',
  '32nd': 'thirty-second',
  '64th': 'sixty-fourth',
  '128th': 'hundred-twenty-eighth',
}

const alters = ['♭♭', '♭', '', '♯', '𝄪']

/** A pitch as it is spelled: "D♯4". */
export function pitchWords({ step, alter, octave }: SpelledPitch): string {
  return `${step}${alters[alter + 2] ?? ''}${octave}`
}

/** What is chosen as it is written: "bar 3, beat 2, F4, quarter, voice 1, Benno's piano". */
export function placeWords(place: WrittenPlace, project: Project): string {
  const { beat, ticks } = contextOf(project).meterMap.position(place.onsetTicks)
  const value = `${place.value.dots > 0 ? 'dotted ' : ''}${valueNames[place.value.type]}`
  return [
    `bar ${place.bar}`,
    `beat ${beat}${ticks > 0 ? ` and ${Number((ticks / TICKS_PER_QUARTER).toFixed(2))}` : ''}`,
    ...(place.noteId === null ? [`${value} rest`] : []),
    ...(place.pitch ? [pitchWords(place.pitch)] : []),
    ...(place.noteId === null ? [] : [place.isGrace ? 'grace note' : value]),
    ...(place.tuplet === null ? [] : [`in a group of ${place.tuplet}`]),
    ...place.signs,
    `voice ${place.voice}`,
    ...(place.staves > 1 ? [place.staff === 1 ? 'upper staff' : 'lower staff'] : []),
    project.tracks.find(({ id }) => id === place.trackId)?.name ?? '',
  ].join(', ')
}
