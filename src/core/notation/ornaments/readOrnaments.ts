import type { Note } from '../../event/note'
import type { TempoMap } from '../../time/tempoMap'
import { isPlayedByFoot } from '../percussion'
import { findGlissandi } from './glissandi'
import { findGraceNotes } from './graceNotes'
import { findNeighbourOrnaments } from './neighbours'
import { type Ornamented, unornamented, withFindings } from './ornamented'
import { findRolledChords } from './rolledChords'
import { findStrokeRolls } from './strokeRolls'

/** How the sound of a part is made, as far as ornaments go. */
export type WayOfPlaying = 'held' | 'struck' | 'percussion'

/**
 * Takes the ornaments of a part out of the notes that have a place in the bar: what is quicker than the smallest value is never written
 * as a chord. What is struck may be rolled; percussion knows nothing else.
 *
 * @param notes in order of onset
 * @param smallestValue denominator of the smallest value that is written
 */
export function readOrnaments(
  notes: readonly Note[],
  way: WayOfPlaying,
  tempoMap: TempoMap,
  smallestValue: number,
): Ornamented {
  let read = unornamented(notes)
  if (way !== 'held')
    read = withFindings(
      read,
      findStrokeRolls(read.notes, tempoMap, smallestValue, (rolled, other) =>
        way === 'percussion' ? isPlayedByFoot(rolled.key) !== isPlayedByFoot(other.key) : false,
      ),
    )
  if (way === 'percussion') return read
  read = withFindings(read, findGlissandi(read.notes, tempoMap, smallestValue))
  read = withFindings(read, findRolledChords(read.notes, tempoMap))
  read = withFindings(read, findNeighbourOrnaments(read.notes, tempoMap, smallestValue))
  return withFindings(read, findGraceNotes(read.notes, tempoMap, smallestValue))
}
