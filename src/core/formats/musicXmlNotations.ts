import type { Ornament } from '../notation/ornaments/ornamented'
import type { Articulation, ScorePart, Slur } from '../notation/score'
import type { Measure } from '../time/meterMap'
import type { Ticks } from '../time/units'
import { measureEnd } from './musicXmlDirections'
import { xmlText } from './xmlText'

/** What is written of slurs and slides at a chord, by its voice and place (`slurPlace`). */
export type SlurEnds = ReadonlyMap<string, string>

/**
 * The slurs of a part as they are in an excerpt: one that begins before it begins with the first note in it, one that ends behind it
 * ends with the last.
 */
function slursWithin(part: ScorePart, measures: readonly Measure[], from: number): Slur[] {
  const [first, last] = [measures[0], measures.at(-1)]
  if (!first || !last) return []
  return part.slurs.flatMap((slur) => {
    const { voice, startTicks, endTicks } = slur
    if (endTicks < first.startTicks || startTicks >= measureEnd(last)) return []
    if (startTicks >= first.startTicks && endTicks < measureEnd(last)) return [slur]
    const onsets = measures.flatMap((measure, index) =>
      (part.measures[from + index] ?? []).flatMap((own) =>
        own.voice === voice
          ? own.elements.flatMap((element) =>
              element.kind === 'chord' ? [measure.startTicks + element.startTicks] : [],
            )
          : [],
      ),
    )
    const within = onsets.filter((tick) => tick >= startTicks && tick <= endTicks)
    const [start, end] = [within[0], within.at(-1)]
    return start === undefined || end === undefined || start === end
      ? []
      : [{ voice, startTicks: start, endTicks: end }]
  })
}

/** Ends of slurs and slides in the measures that are written; slurs of a voice have one number, since they do not overlap. */
export function slurEnds(part: ScorePart, measures: readonly Measure[], from: number): SlurEnds {
  const slurs = slursWithin(part, measures, from)
  const ends = new Map<string, string>()
  const add = (voice: number, tick: Ticks, type: 'start' | 'stop') => {
    const place = slurPlace(voice, tick)
    ends.set(place, `${ends.get(place) ?? ''}<slur type="${type}" number="${((voice - 1) % 6) + 1}"/>`)
  }
  for (const { voice, endTicks } of slurs) add(voice, endTicks, 'stop')
  for (const { voice, startTicks } of slurs) add(voice, startTicks, 'start')
  addGlissandi(ends, part, measures)
  return ends
}

/** Slides that lie in the measures that are written from end to end. */
function addGlissandi(
  ends: Map<string, string>,
  { glissandi }: ScorePart,
  measures: readonly Measure[],
): void {
  const [first, last] = [measures[0], measures.at(-1)]
  if (!first || !last) return
  for (const [index, { voice, startTicks, endVoice, endTicks }] of glissandi.entries()) {
    if (startTicks < first.startTicks || endTicks >= measureEnd(last)) continue
    const add = (place: string, type: 'start' | 'stop') =>
      ends.set(
        place,
        `${ends.get(place) ?? ''}<glissando line-type="wavy" number="${(index % 6) + 1}" type="${type}"/>`,
      )
    add(slurPlace(voice, startTicks), 'start')
    add(slurPlace(endVoice, endTicks), 'stop')
  }
}

export const slurPlace = (voice: number, tick: Ticks) => `${voice} ${tick}`

/** Elements of the standard: its mordent has a line through it, and goes down. */
const ornamentElements: Readonly<Record<Ornament, string>> = {
  trill: '<trill-mark/>',
  'upper mordent': '<inverted-mordent/>',
  'lower mordent': '<mordent/>',
  turn: '<turn/>',
  tremolo: '<tremolo type="single">3</tremolo>',
}

const technicalElements: Readonly<Partial<Record<Articulation, string>>> = {
  open: '<open-string/>',
  closed: '<stopped/>',
  'up bow': '<up-bow/>',
  'down bow': '<down-bow/>',
}

const articulationElements: Readonly<Partial<Record<Articulation, string>>> = {
  staccato: '<staccato/>',
  tenuto: '<tenuto/>',
  accent: '<accent/>',
  marcato: '<strong-accent type="up"/>',
  staccatissimo: '<staccatissimo/>',
  breath: '<breath-mark/>',
}

/** @param fingerings of the notes of the chord, in order */
export function articulationsXml(
  articulations: readonly Articulation[],
  fingerings: readonly string[],
): string {
  const within = (name: string, signs: readonly string[]) =>
    signs.length > 0 ? `<${name}>${signs.join('')}</${name}>` : ''
  const among = (elements: Readonly<Partial<Record<Articulation, string>>>) =>
    articulations.flatMap((each) => elements[each] ?? [])
  const fingers = fingerings.map((text) => `<fingering>${xmlText(text)}</fingering>`)
  return (
    within('ornaments', among(ornamentElements)) +
    within('technical', [...among(technicalElements), ...fingers]) +
    within('articulations', among(articulationElements)) +
    (articulations.includes('fermata') ? '<fermata type="upright"/>' : '')
  )
}

/** The sign of a rolled chord stands at each of its notes. */
export function rolledXml(articulations: readonly Articulation[]): string {
  return articulations.includes('rolled') ? '<arpeggiate/>' : ''
}
