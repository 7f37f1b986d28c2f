import {
  type ChordNote,
  type Clef,
  type ScoreElement,
  type SpelledPitch,
  staffOf,
  type VoiceInMeasure,
} from './score'
import type { KeySignature } from './scoreSettings'

const sharpOrder = ['F', 'C', 'G', 'D', 'A', 'E', 'B']

/** Alteration that the key signature gives a step. */
export function signatureAlter(step: SpelledPitch['step'], fifths: number): number {
  const place = sharpOrder.indexOf(step)
  if (fifths > 0) return place < fifths ? 1 : 0
  return 6 - place < -fifths ? -1 : 0
}

const signs: Record<string, NonNullable<ChordNote['accidental']>> = {
  '-2': 'flat-flat',
  '-1': 'flat',
  '0': 'natural',
  '1': 'sharp',
  '2': 'double-sharp',
}

/**
 * Accidentals in force on one staff: a sign holds for its line until the bar line; a tied note repeats none. One
 * keeper a measure and staff.
 */
export class AccidentalKeeper {
  private readonly inForce = new Map<string, number>()

  constructor(private readonly key: KeySignature) {}

  /** The sign to print before this note, if any. */
  signFor(pitch: SpelledPitch, tiesFromPrevious: boolean): ChordNote['accidental'] {
    const line = `${pitch.step}${pitch.octave}`
    const current = this.inForce.get(line) ?? signatureAlter(pitch.step, this.key.fifths)
    if (tiesFromPrevious || current === pitch.alter) return null
    this.inForce.set(line, pitch.alter)
    return signs[String(pitch.alter)] ?? null
  }
}

/** Signs depend on all voices of a staff in order of time. */
export function withAccidentals(
  voices: readonly VoiceInMeasure[],
  clefs: readonly Clef[],
  key: KeySignature,
): readonly VoiceInMeasure[] {
  // Keys of percussion are instruments.
  if (clefs[0] === 'percussion') return voices
  const signs = new Map<ScoreElement, { readonly graces: ChordNote[]; readonly notes: ChordNote[] }>()
  for (let staff = 1; staff <= clefs.length; staff++) {
    const keeper = new AccidentalKeeper(key)
    const elements = voices
      .flatMap((voice) => voice.elements.filter((element) => staffOf(element, voice) === staff))
      .sort((a, b) => a.startTicks - b.startTicks)
    for (const element of elements)
      if (element.kind === 'chord')
        signs.set(element, {
          graces: element.graces.map((note) => withSign(note, keeper)),
          notes: element.notes.map((note) => withSign(note, keeper)),
        })
  }
  return voices.map((voice) => ({
    ...voice,
    elements: voice.elements.map((element) =>
      element.kind === 'chord' ? { ...element, ...signs.get(element)! } : element,
    ),
  }))
}

function withSign(note: ChordNote, keeper: AccidentalKeeper): ChordNote {
  return { ...note, accidental: keeper.signFor(note.pitch, note.tiesFromPrevious) }
}
