import type { Note } from '../event/note'
import type { Instrument } from '../midi/instrument'
import type { Clef } from './score'
import type { Transposition } from './transposition'

export interface StaffPlan {
  readonly clefs: readonly Clef[]
  /** Key at and above which notes go to the upper staff; null on a single staff. */
  readonly splitKey: number | null
}

/** General MIDI programs (from 0) of instruments written on two staves: keyboards, celesta, organs, accordions, harp. */
const twoStaffPrograms = new Set([0, 1, 2, 3, 4, 5, 6, 7, 8, 16, 17, 18, 19, 20, 21, 23, 46])
/** Whether what an instrument plays is written on two staves where it needs them. */
export function isTwoStaffInstrument(instrument: Instrument): boolean {
  return instrument.kind === 'program' && twoStaffPrograms.has(instrument.program)
}

const guitars = { first: 24, last: 31 }
const basses = { first: 32, last: 39 }
const viola = 41

/**
 * Decides the staves of a part: percussion on its own staff; keyboards and harp on a grand staff as soon as they
 * play on both sides of the split; all others in the clef their range asks for. Guitar and bass sound an octave below
 * their notation, which their clefs say. Notes that were put on a lower staff are on one, whatever plays them. (Common practice, no source.)
 *
 * @param trackSplit the track's own choice: a key, null for a single staff, "auto" to decide here
 */
export function planStaves(
  notes: readonly Note[],
  instrument: Instrument,
  splitKey: number,
  trackSplit: number | null | 'auto',
  { semitones }: Pick<Transposition, 'semitones'> = { semitones: 0 },
): StaffPlan {
  if (instrument.kind === 'drums') return { clefs: ['percussion'], splitKey: null }
  if (notes.some((note) => note.staff === 2)) {
    const known = typeof trackSplit === 'number' ? trackSplit : splitKey
    return { clefs: ['treble', 'bass'], splitKey: known }
  }
  if (typeof trackSplit === 'number') return { clefs: ['treble', 'bass'], splitKey: trackSplit }
  const program = instrument.kind === 'program' ? instrument.program : 0
  const above = notes.reduce((count, note) => count + (note.key >= splitKey ? 1 : 0), 0)
  const isBothSides = above > 0 && above < notes.length
  if (trackSplit === 'auto' && isBothSides && twoStaffPrograms.has(program))
    return { clefs: ['treble', 'bass'], splitKey }
  const written = semitones === 0 ? notes : notes.map((note) => ({ ...note, key: note.key + semitones }))
  return { clefs: [singleClef(written, program)], splitKey: null }
}

/** Keys that are written in each clef with few ledger lines: the treble staff is quiet from B3 to C6. */
const quietKeys: Readonly<Record<Exclude<Clef, 'percussion'>, readonly [low: number, high: number]>> = {
  treble: [59, 84],
  alto: [48, 74],
  tenor: [45, 71],
  bass: [38, 64],
  'treble 8vb': [40, 76],
  'bass 8vb': [26, 55],
}

/** Further than this outside its quiet keys, on average, not even an instrument's own clef is readable. */
const mostOutsideSemitones = 5

function singleClef(notes: readonly Note[], program: number): Clef {
  const own: Clef | null =
    program >= guitars.first && program <= guitars.last
      ? 'treble 8vb'
      : program >= basses.first && program <= basses.last
        ? 'bass 8vb'
        : program === viola
          ? 'alto'
          : null
  if (notes.length === 0) return own ?? 'treble'
  const outside = (clef: keyof typeof quietKeys) => {
    const [low, high] = quietKeys[clef]
    return notes.reduce((sum, { key }) => sum + Math.max(0, low - key) + Math.max(0, key - high), 0)
  }
  if (own && outside(own) <= mostOutsideSemitones * notes.length) return own
  return outside('bass') < outside('treble') ? 'bass' : 'treble'
}
