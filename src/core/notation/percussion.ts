/** Noteheads that percussion is told apart by, as MusicXML calls them. */
export type PercussionHead = 'normal' | 'x' | 'circle-x' | 'cross' | 'diamond' | 'triangle' | 'slash'

/** Where a percussion key is written on a five-line staff (treble positions), and with which notehead. */
export interface PercussionPlace {
  readonly step: 'A' | 'B' | 'C' | 'D' | 'E' | 'F' | 'G'
  readonly octave: number
  readonly notehead: PercussionHead
}

/**
 * The percussion key of each place on the staff and notehead, from the lowest place up. Each key of General MIDI (35 to 81, and 27 to
 * 34 and 82 to 87 of General MIDI 2) has one of its own. Drums, cymbals and cowbell where kit parts customarily have them; hand
 * percussion beside them. (Common practice, no source.)
 */
const keysAt: Readonly<Record<string, Partial<Record<PercussionHead, number>>>> = {
  D4: { x: 44 },
  E4: { normal: 35, triangle: 87 },
  F4: { normal: 36, x: 27, triangle: 86 },
  G4: { normal: 41, x: 78, diamond: 79, triangle: 29, slash: 30 },
  A4: { normal: 43, x: 73, cross: 31, diamond: 82, triangle: 74 },
  B4: { normal: 45, x: 70, cross: 33, diamond: 34, triangle: 69, slash: 32 },
  C5: { normal: 38, x: 37, cross: 75, diamond: 39, triangle: 40, slash: 28 },
  D5: { normal: 47, x: 61, cross: 85, diamond: 77, triangle: 66, slash: 64 },
  E5: { normal: 48, x: 60, cross: 62, diamond: 76, triangle: 56, slash: 63 },
  F5: { normal: 50, x: 51, cross: 59, diamond: 53, triangle: 65 },
  G5: { x: 42, 'circle-x': 46, diamond: 68, triangle: 54, slash: 84 },
  A5: { x: 49, cross: 52, diamond: 55, triangle: 67, slash: 83 },
  B5: { normal: 81, x: 57, cross: 72, diamond: 58, triangle: 71, slash: 80 },
}

const places = new Map(
  Object.entries(keysAt).flatMap(([place, heads]) =>
    Object.entries(heads).map(([notehead, key]) => [
      key,
      {
        step: place[0] as PercussionPlace['step'],
        octave: Number(place[1]),
        notehead: notehead as PercussionHead,
      },
    ]),
  ),
)

/** Keys that General MIDI has no instrument for are written as the stroke of a stick that it has (32). */
const elsewhere: PercussionPlace = { step: 'B', octave: 4, notehead: 'slash' }

export function percussionPlace(key: number): PercussionPlace {
  return places.get(key) ?? elsewhere
}

/** A stroke of which nothing says what it is struck on. */
const sideStick = 37

/** The key that is written at a place with a notehead; where none is, that of the plain head there, else a stroke of the stick. */
export function percussionKeyAt(step: string, octave: number, notehead: string): number {
  const heads = keysAt[`${step}${octave}`]
  return heads?.[notehead as PercussionHead] ?? heads?.normal ?? Object.values(heads ?? {})[0] ?? sideStick
}

/** Bass drums and the pedal of the hi-hat: played with the feet, written with the stems down. */
export function isPlayedByFoot(key: number): boolean {
  return key === 35 || key === 36 || key === pedalHiHat
}

export const closedHiHat = 42
export const openHiHat = 46
const pedalHiHat = 44

export function isHiHat(key: number): boolean {
  return key === closedHiHat || key === openHiHat || key === pedalHiHat
}
