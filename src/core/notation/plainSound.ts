import type { Note, StaffNumber } from '../event/note'
import { TICKS_PER_QUARTER, type Ticks } from '../time/units'
import { standingIn } from './heads'
import { type Score, staffOf } from './score'
import { playedAgain } from './soundOfScore'

/** So much before its end a note is let go of, so that a program that is sent the same key again tells the two apart. */
const gapTicks: Ticks = TICKS_PER_QUARTER / 48

/**
 * The notes of a page as plainly as they can be sent: each at its written place for its whole value, with the staff it stands on. What
 * is in small print is left out, ornaments are their main note, swing is even: whoever writes this down gets the page again.
 *
 * @returns for each part its notes in order of onset, with the identity of the note each head is for
 */
export function plainSound(score: Score): ReadonlyMap<string, readonly Note[]> {
  const standing = standingIn(score)
  const sounds = new Map<string, Note[]>()
  for (const [partIndex, part] of score.parts.entries()) {
    const notes = standing
      .headsOf(partIndex)
      .flatMap(({ note, chord, isGrace, onsetTicks, endTicks, ...head }): Note[] => {
        if (isGrace) return []
        return [
          {
            id: note.noteIds[0]!,
            onsetTicks,
            durationTicks: Math.max(1, endTicks - onsetTicks - gapTicks),
            key: note.key,
            velocity: note.velocity > 0 ? note.velocity : usualVelocity,
            releaseVelocity: 64,
            channel: 1,
            origin: { kind: 'drawn' },
            ...(part.clefs.length > 1 && { staff: (staffOf(chord, head) === 2 ? 2 : 1) as StaffNumber }),
          },
        ]
      })
    sounds.set(part.id, notes)
  }
  return playedAgain(score, sounds)
}

const usualVelocity = 80

/** The value that a note of these is written with. */
export function writtenTicks({ durationTicks }: Pick<Note, 'durationTicks'>): Ticks {
  return durationTicks + gapTicks
}
