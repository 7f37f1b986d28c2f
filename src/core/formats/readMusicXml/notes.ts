import { percussionKeyAt } from '../../notation/percussion'
import { isStep, keyOf } from '../../notation/pitchSteps'
import { type NoteValue, noteValueTypes } from '../../notation/score'
import type { Entry, EntryChord, EntryNote } from '../../notation/writtenMusic/writtenMusic'
import { child, childrenOf, textOf, type XmlElement } from '../xmlTree'
import type { NoteSigns } from './notations'

/**
 * A note with its pitch.
 *
 * @param writtenAbove how much what is written lies above what sounds, in semitones
 * @param drumOf of percussion: the key of each instrument, by its id
 * @returns null for one that cannot be played
 */
export function readNote(
  element: XmlElement,
  signs: NoteSigns,
  writtenAbove: number,
  drumOf: ReadonlyMap<string, number>,
): EntryNote | null {
  const [pitch, unpitched] = [child(element, 'pitch'), child(element, 'unpitched')]
  const force = Number(element.attributes.dynamics ?? Number.NaN)
  const shared = {
    tiesFromPrevious: signs.tiesFrom,
    tiesToNext: signs.tiesTo,
    // Percent of 90, which the standard takes for forte.
    velocity: Number.isFinite(force) ? Math.min(127, Math.max(1, Math.round(force * 0.9))) : null,
    fingering: signs.fingerings.join(' ') || null,
  }
  if (unpitched) {
    const said = textOf(unpitched, 'display-step') ?? ''
    const step = isStep(said) ? said : 'B'
    const octave = Number(textOf(unpitched, 'display-octave') ?? 4)
    const head = textOf(element, 'notehead') ?? 'normal'
    const drum = drumOf.get(child(element, 'instrument')?.attributes.id ?? '')
    return {
      key: drum ?? percussionKeyAt(step, octave, head),
      pitch: { step, alter: 0, octave },
      ...shared,
    }
  }
  const step = textOf(pitch, 'step') ?? ''
  const alter = Math.round(Number(textOf(pitch, 'alter') ?? 0))
  const octave = Number(textOf(pitch, 'octave') ?? Number.NaN)
  if (!isStep(step) || !Number.isInteger(octave) || !(Math.abs(alter) <= 2)) return null
  const key = keyOf({ step, alter, octave }) - writtenAbove
  return key >= 0 && key <= 127 ? { key, pitch: { step, alter, octave }, ...shared } : null
}

/** What is sung on a note, verse by verse. */
export function versesOf(element: XmlElement): NonNullable<EntryChord['lyric']>[] {
  return childrenOf(element, 'lyric')
    .filter((each) => textOf(each, 'text'))
    .sort((a, b) => Number(a.attributes.number ?? 1) - Number(b.attributes.number ?? 1))
    .map((verse) => {
      const said = textOf(verse, 'syllabic')
      // Two syllables on one note have an elision between them.
      const text = childrenOf(verse, 'text')
        .map((each) => each.text.trim())
        .join(' ')
      return { text, syllabic: said === 'begin' || said === 'middle' || said === 'end' ? said : 'single' }
    })
}

/** The value that a note is written with; null where none is said that is known here. */
export function valueTold(element: XmlElement): NoteValue | null {
  const said = textOf(element, 'type')
  const type = noteValueTypes.find((each) => each === said)
  const dots = childrenOf(element, 'dot').length
  return type === undefined || dots > 3 ? null : { type, dots: dots as NoteValue['dots'] }
}

export function tupletOf(element: XmlElement, { tupletStarts, tupletStops }: NoteSigns): Entry['tuplet'] {
  const modification = child(element, 'time-modification')
  const actual = Number(textOf(modification, 'actual-notes') ?? Number.NaN)
  const normal = Number(textOf(modification, 'normal-notes') ?? Number.NaN)
  if (!Number.isInteger(actual) || !Number.isInteger(normal) || actual < 1 || normal < 1 || actual === normal)
    return null
  return {
    actual,
    normal,
    edge: tupletStarts || tupletStops ? { starts: tupletStarts, stops: tupletStops } : null,
  }
}
