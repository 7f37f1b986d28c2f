/** Words on a printed page. */
export interface PrintedText {
  readonly text: string
  readonly xPt: number
  /** Of the line that letters stand on. */
  readonly yPt: number
  readonly sizePt: number
  readonly anchor: 'start' | 'middle' | 'end'
  readonly weight: 'regular' | 'bold' | 'italic'
}

/** A line of music on a printed page. */
export interface PrintedLine {
  /** Drawing with a size in pixels of its own. */
  readonly svg: string
  readonly xPt: number
  readonly yPt: number
  /** Points to each of its pixels. */
  readonly scale: number
}

export interface PrintedPage {
  readonly texts: readonly PrintedText[]
  readonly lines: readonly PrintedLine[]
}

/** A score, or one part of it, on pages. */
export interface PrintedBook {
  /** Of the part, or "Score". */
  readonly name: string
  readonly widthPt: number
  readonly heightPt: number
  /** Height of its staves, and whether that is less than was wanted, so that a line finds room on a page. */
  readonly staffMm: number
  readonly isStaffSmaller: boolean
  readonly pages: readonly PrintedPage[]
}
