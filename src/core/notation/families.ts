import type { Instrument } from '../midi/instrument'

/** Families of the orchestra, in the order of their staves from the top of a score down. (Common practice, no source.) */
export const families = [
  'woodwind',
  'brass',
  'percussion',
  'keyboards',
  'plucked',
  'voices',
  'strings',
  'others',
] as const
export type Family = (typeof families)[number]

/** General MIDI programs (from 0) of each family, in the order of their staves. */
const programsOf: Readonly<Record<Family, readonly number[]>> = {
  // Piccolo, flute, pipes; oboe, English horn; clarinet; saxophones from the highest; bassoon.
  woodwind: [72, 73, 74, 75, 76, 77, 78, 79, 68, 69, 71, 64, 65, 66, 67, 70],
  // Horn, trumpets, trombone, tuba, sections.
  brass: [60, 56, 59, 57, 58, 61, 62, 63],
  // Timpani, then what is struck.
  percussion: [47, 112, 113, 114, 115, 116, 117, 118, 119, 8, 9, 10, 11, 12, 13, 14, 15],
  keyboards: [0, 1, 2, 3, 4, 5, 6, 7, 16, 17, 18, 19, 20, 21, 23],
  plucked: [46, 24, 25, 26, 27, 28, 29, 30, 31, 104, 105, 106, 107],
  voices: [52, 53, 54],
  strings: [40, 41, 42, 43, 44, 45, 48, 49, 50, 51, 110],
  others: [],
}

/** Families whose staves are held together by a bracket where several of them stand side by side. */
const bracketed: ReadonlySet<Family> = new Set<Family>(['woodwind', 'brass', 'voices', 'strings'])

export function familyOf(instrument: Instrument): Family {
  if (instrument.kind === 'drums') return 'percussion'
  if (instrument.kind !== 'program') return 'others'
  const { program } = instrument
  return families.find((family) => programsOf[family].includes(program)) ?? 'others'
}

/** Where an instrument stands in a score: the smaller, the higher. */
export function placeInScore(instrument: Instrument): number {
  const family = familyOf(instrument)
  const programs = programsOf[family]
  // A kit stands beneath the other percussion.
  const within = instrument.kind === 'program' ? programs.indexOf(instrument.program) : programs.length
  return families.indexOf(family) * 100 + Math.max(0, within)
}

/** What holds the staff of a part together with others: its family where there are several, nothing, or the part above it. */
export const brackets = ['usual', 'none', 'above'] as const
export type Bracket = (typeof brackets)[number]

/** Parts that a bracket holds together: from the first to the last of them, by index. */
export interface PartGroup {
  readonly first: number
  readonly last: number
}

/** Neighbours of one family, and those that somebody wants held together. */
export function groupsOf(
  parts: readonly { readonly instrument: Instrument; readonly bracket: Bracket }[],
): PartGroup[] {
  const isHeldToAbove = (index: number): boolean => {
    const [above, part] = [parts[index - 1], parts[index]]
    if (!above || !part) return false
    if (part.bracket === 'above') return true
    if (part.bracket === 'none' || above.bracket === 'none') return false
    const family = familyOf(part.instrument)
    return bracketed.has(family) && familyOf(above.instrument) === family
  }
  const groups: PartGroup[] = []
  for (let first = 0; first < parts.length; ) {
    let last = first
    while (isHeldToAbove(last + 1)) last++
    if (last > first) groups.push({ first, last })
    first = last + 1
  }
  return groups
}
