import type { ChordNote, Score, ScoreElement, VoiceInMeasure } from '../notation/score'

/**
 * What a score says, with the identities of its notes left away: what must be the same after it was written to a file and read again.
 */
export function sayingOf(score: Score, { withBeams = true } = {}): unknown {
  const barSays = barSaysWith(withBeams)
  return {
    measures: score.measures.map(({ numerator, denominator, writtenIn }) => [
      numerator,
      denominator,
      writtenIn,
    ]),
    keys: score.keys.map(({ tick, fifths }) => [tick, fifths]),
    sections: score.sections,
    chordSymbols: score.chordSymbols,
    parts: score.parts.map((part) => ({
      clefs: part.clefs,
      clefChanges: part.clefChanges,
      octaveLines: part.octaveLines,
      transposition: part.transposition,
      bars: part.measures.map(barSays),
      levels: part.dynamics.levels,
      hairpins: part.dynamics.hairpins,
      slurs: part.slurs,
      glissandi: part.glissandi,
      pedals: part.pedals,
    })),
  }
}

/** Lines that rest for a whole bar say nothing. */
function barSaysWith(withBeams: boolean): (voices: readonly VoiceInMeasure[]) => unknown {
  return (voices) =>
    voices
      .filter(({ elements }) => elements.some(({ kind }) => kind === 'chord'))
      .map(({ voice, staff, elements }) => [
        voice,
        staff,
        elements.map((element) => elementSays(element, withBeams)),
      ])
}

/** Beams and printed signs are found here, whatever a file has. */
function elementSays(element: ScoreElement, withBeams: boolean): unknown {
  const { startTicks, durationTicks, value, tuplet } = element
  const time = [startTicks, durationTicks, value.type, value.dots, tuplet]
  if (element.kind === 'rest') return [...time, element.isWholeMeasure, element.isHidden]
  const { notes, graces, articulations, crossesTo, lyric, beams } = element
  return [
    ...time,
    notes.map((note) => noteSays(note, withBeams)),
    graces.map((note) => noteSays(note, withBeams)),
    [...articulations].sort(),
    crossesTo,
    lyric && [lyric.text, lyric.syllabic],
    withBeams ? beams : null,
  ]
}

function noteSays(
  { key, pitch, tiesFromPrevious, tiesToNext, fingering, accidental }: ChordNote,
  withBeams: boolean,
): unknown {
  return [
    key,
    `${pitch.step}${pitch.alter}${pitch.octave}`,
    tiesFromPrevious,
    tiesToNext,
    fingering,
    withBeams ? accidental : null,
  ]
}
