import { firstIndex } from '../../time/firstIndex'
import { type LineNote, type Stroke, soundingOn } from './strokes'

/** Where each voice lies in the course of the piece. */
export interface Registers {
  /** The middle key of each voice around a moment, highest voice first. */
  at(quarters: number): readonly number[]
}

/** How far around a moment its register is looked for: half the weight at this distance. */
const halfQuarters = 8
/** Beyond this, what sounds says nothing of a moment's register. */
const farQuarters = 6 * halfQuarters

/** Registers from the moments at which all voices sound at once: there the order of pitch is the order of voices. */
export function registersOf(
  notes: readonly LineNote[],
  strokes: readonly Stroke[],
  { voices, togetherQuarters }: { readonly voices: number; readonly togetherQuarters: number },
): Registers {
  const full: { quarters: number; keys: number[] }[] = []
  let sounding: number[] = []
  for (const stroke of strokes) {
    const quarters = notes[stroke[0]!]!.onsetQuarters
    sounding = soundingOn(notes, sounding, quarters, togetherQuarters)
    sounding.push(...stroke)
    if (sounding.length === voices)
      full.push({ quarters, keys: sounding.map((index) => notes[index]!.key).sort((a, b) => b - a) })
  }
  if (full.length === 0) return evenRegisters(notes, voices)
  return smoothed(full, voices)
}

/** Without a moment of full texture: the range of the piece in equal shares of its notes. */
function evenRegisters(notes: readonly LineNote[], voices: number): Registers {
  const keys = notes.map(({ key }) => key).sort((a, b) => b - a)
  const middle = Array.from(
    { length: voices },
    (_, voice) => keys[Math.floor(((voice + 0.5) / voices) * keys.length)]!,
  )
  return { at: () => middle }
}

/** Worked out where it is asked for: a piece may go on for hours without a note. */
function smoothed(full: readonly { quarters: number; keys: readonly number[] }[], voices: number): Registers {
  const stepQuarters = halfQuarters / 2
  const overall = Array.from(
    { length: voices },
    (_, voice) => full.reduce((sum, { keys }) => sum + keys[voice]!, 0) / full.length,
  )
  const known = new Map<number, readonly number[]>()
  const around = (atQuarters: number): number[] => {
    const sums = overall.map((key) => key * overallWeight)
    let weight = overallWeight
    let near = firstIndex(full.length, (place) => full[place]!.quarters >= atQuarters - farQuarters)
    for (; near < full.length && full[near]!.quarters <= atQuarters + farQuarters; near++) {
      const { quarters, keys } = full[near]!
      const share = 2 ** (-Math.abs(quarters - atQuarters) / halfQuarters)
      weight += share
      for (let voice = 0; voice < voices; voice++) sums[voice]! += share * keys[voice]!
    }
    return sums.map((sum) => sum / weight)
  }
  return {
    at(quarters) {
      const step = Math.round(quarters / stepQuarters)
      const register = known.get(step) ?? around(step * stepQuarters)
      known.set(step, register)
      return register
    },
  }
}

/** Weight of the whole piece beside what lies near. */
const overallWeight = 1
