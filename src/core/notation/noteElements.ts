import type { ChordNote } from './score'

/**
 * Identifier of a notehead on a drawn page: "n12" for the note with id 12, "n12-at-3-4030" for a tied continuation that
 * begins 4,030 ticks into its bar; the bar's number keeps continuations apart.
 */
export function noteElementId(note: ChordNote, bar: number, startTicks: number): string {
  return note.tiesFromPrevious ? `n${note.noteIds[0]}-at-${bar}-${startTicks}` : `n${note.noteIds[0]}`
}

/** Identifier of a rest on a drawn page: "r2-1-40320" for one of the third part, in voice 1, at tick 40,320. */
export function restElementId(partIndex: number, voice: number, tick: number): string {
  return `r${partIndex}-${voice}-${tick}`
}

/** Where the rest behind an identifier stands; undefined for anything else. */
export function restOfElement(
  elementId: string,
): { readonly partIndex: number; readonly voice: number; readonly tick: number } | undefined {
  const match = /^r(\d+)-(\d+)-(\d+)$/.exec(elementId)
  return match ? { partIndex: Number(match[1]), voice: Number(match[2]), tick: Number(match[3]) } : undefined
}

/** The performed note behind a notehead's identifier; undefined for anything else. */
export function noteIdOfElement(elementId: string): number | undefined {
  const match = /^n(\d+)(?:-at-\d+-\d+)?$/.exec(elementId)
  return match ? Number(match[1]) : undefined
}
