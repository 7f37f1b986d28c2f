/** A line of music that is to be put on a page. */
export interface LineToPlace {
  readonly heightPt: number
  /** All who play from it rest where it ends. */
  readonly endsInRest: boolean
  /** Somebody wants a page to begin with it. */
  readonly beginsPage: boolean
}

export interface PlacedLine {
  /** Of the lines that were given. */
  readonly index: number
  /** From the top of the page. */
  readonly topPt: number
}

export interface PageRoom {
  /** Where music begins on the first page, under the title, and on the others. */
  readonly firstTopPt: number
  readonly topPt: number
  readonly bottomPt: number
  readonly linesToPage: number | null
  /** Pages that are turned end in a rest, where that costs little. */
  readonly turnsAtRests: boolean
}

/** Lines stand so far apart at least, and are not drawn further apart than that to fill a page. */
const leastGapPt = 6
const mostGapPt = 42
/** To turn at a rest a page may stay empty by this share. */
const mostEmpty = 0.42

/**
 * Puts lines of music on pages, in order: as many as fit, spread so that the last one stands at the bottom. Pages with odd numbers are on
 * the right, and turned. A line that is higher than a page has one of its own.
 */
export function layOutPages(lines: readonly LineToPlace[], room: PageRoom): PlacedLine[][] {
  const pages: PlacedLine[][] = []
  for (let first = 0; first < lines.length; ) {
    const topPt = pages.length === 0 ? room.firstTopPt : room.topPt
    const heightPt = room.bottomPt - topPt
    let end = first + 1
    let usedPt = lines[first]!.heightPt
    while (
      end < lines.length &&
      !lines[end]!.beginsPage &&
      (room.linesToPage === null || end - first < room.linesToPage) &&
      usedPt + leastGapPt + lines[end]!.heightPt <= heightPt
    )
      usedPt += leastGapPt + lines[end++]!.heightPt
    const isTurned = pages.length % 2 === 0
    if (room.turnsAtRests && isTurned && end < lines.length && !lines[end]!.beginsPage)
      end = turnBefore(lines, first, end, heightPt)
    pages.push(spread(lines, first, end, topPt, room.bottomPt, end < lines.length))
    first = end
  }
  return pages
}

/** The line before which the page is turned: the last one after a rest, unless too much would stay empty. */
function turnBefore(lines: readonly LineToPlace[], first: number, end: number, heightPt: number): number {
  let usedPt = 0
  let best = end
  for (let index = first; index < end; index++) {
    usedPt += lines[index]!.heightPt + leastGapPt
    if (lines[index]!.endsInRest && usedPt >= (1 - mostEmpty) * heightPt) best = index + 1
  }
  return best
}

function spread(
  lines: readonly LineToPlace[],
  first: number,
  end: number,
  topPt: number,
  bottomPt: number,
  isFull: boolean,
): PlacedLine[] {
  const own = lines.slice(first, end)
  const usedPt = own.reduce((sum, { heightPt }) => sum + heightPt, 0)
  const free = own.length > 1 ? (bottomPt - topPt - usedPt) / (own.length - 1) : 0
  // The last page is as the music comes.
  const gapPt = Math.min(isFull ? mostGapPt : mostGapPt / 3, Math.max(leastGapPt, free))
  let atPt = topPt
  return own.map(({ heightPt }, place) => {
    const placed = { index: first + place, topPt: atPt }
    atPt += heightPt + gapPt
    return placed
  })
}
