import type { NoteId } from '../../event/note'
import type { Ticks } from '../../time/units'
import { headNumbers, type Manuscript } from './manuscript'

/** Which numbers of a head are places in the piece: when it is heard, and where it is written. */
const placesInHead: ReadonlySet<number> = new Set([1, 4])

/**
 * The manuscript of a copy: the same of notes that are called otherwise, and may lie later.
 *
 * @param copyOf the copy of each note that the manuscript tells of
 */
export function manuscriptOfCopy(
  manuscript: Manuscript,
  copyOf: (noteId: NoteId) => NoteId,
  laterTicks: Ticks = 0,
): Manuscript {
  const at = ([noteId, offsetTicks]: readonly [NoteId, Ticks]): [NoteId, Ticks] => [
    copyOf(noteId),
    offsetTicks,
  ]
  const pair = ([from, to]: readonly [NoteId, NoteId]): [NoteId, NoteId] => [copyOf(from), copyOf(to)]
  return {
    ...manuscript,
    heads: manuscript.heads.map((number, index) => {
      const place = index % headNumbers
      return place === 0 ? copyOf(number) : placesInHead.has(place) ? number + laterTicks : number
    }),
    within: manuscript.within.map((ids) => ids.map(copyOf)),
    graces: manuscript.graces.map(({ ids, fifths }) => ({ ids: ids.map(copyOf), fifths })),
    signs: manuscript.signs.map(([id, sign]) => [copyOf(id), sign]),
    fingerings: manuscript.fingerings.map(([id, text]) => [copyOf(id), text]),
    slurs: manuscript.slurs.map(pair),
    glissandi: manuscript.glissandi.map(pair),
    levels: manuscript.levels.map(([place, mark]) => [at(place), mark]),
    hairpins: manuscript.hairpins.map(([from, to, kind]) => [at(from), at(to), kind]),
    pedals: manuscript.pedals.map(([from, to]) => [at(from), at(to)]),
    clefChanges: manuscript.clefChanges.map(([place, staff, clef]) => [at(place), staff, clef]),
    octaveLines: manuscript.octaveLines.map(([from, to, staff, octaves]) => [
      at(from),
      at(to),
      staff,
      octaves,
    ]),
    reached: manuscript.reached.map(copyOf),
    layouts: manuscript.layouts.map(({ first, pieces }) => ({ first: at(first), pieces })),
    end: at(manuscript.end),
  }
}
