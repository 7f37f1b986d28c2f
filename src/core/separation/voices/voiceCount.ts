import { type LineNote, soundingOn, strokesOf } from './strokes'

/** More lines than this are not looked for; they can be asked for. */
export const mostVoicesFound = 4
/** Texture that is thicker for less than this part of the time has chords in it, not more lines. */
const passingShare = 0.03

/**
 * How many lines a piece has: as many as sound at once, but for a passing chord. Where that is more than four, notes that begin
 * and end together are taken for chords of one line.
 *
 * @returns 1 to 4
 */
export function countVoices(notes: readonly LineNote[], togetherQuarters: number): number {
  const single = textureOf(notes, togetherQuarters)
  if (single <= mostVoicesFound) return Math.max(1, single)
  return Math.max(
    1,
    Math.min(mostVoicesFound, textureOf(chordsOf(notes, togetherQuarters), togetherQuarters)),
  )
}

/** The number of notes sounding at once that is not exceeded but for a passing moment. */
function textureOf(notes: readonly LineNote[], togetherQuarters: number): number {
  const strokes = strokesOf(notes, togetherQuarters)
  const times: number[] = []
  let sounding: number[] = []
  let total = 0
  for (const [index, stroke] of strokes.entries()) {
    const quarters = notes[stroke[0]!]!.onsetQuarters
    sounding = soundingOn(notes, sounding, quarters, togetherQuarters)
    sounding.push(...stroke)
    const next = strokes[index + 1]
    const untilQuarters = next
      ? notes[next[0]!]!.onsetQuarters
      : Math.max(...stroke.map((note) => notes[note]!.endQuarters))
    const lastsQuarters = Math.min(4, untilQuarters - quarters)
    times[sounding.length] = (times[sounding.length] ?? 0) + lastsQuarters
    total += lastsQuarters
  }
  let beyond = 0
  for (let count = times.length - 1; count > 0; count--) {
    beyond += times[count] ?? 0
    if (beyond > passingShare * total) return count
  }
  return 1
}

/** Notes that begin and end together, as one. */
function chordsOf(notes: readonly LineNote[], togetherQuarters: number): LineNote[] {
  return strokesOf(notes, togetherQuarters).flatMap((stroke) => {
    const chords: LineNote[] = []
    for (const index of stroke) {
      const note = notes[index]!
      const isInChord = chords.some(
        ({ endQuarters }) => Math.abs(endQuarters - note.endQuarters) <= Math.max(togetherQuarters, 0.1),
      )
      if (!isInChord) chords.push(note)
    }
    return chords
  })
}

/** So many notes sound together at most; a moment that they share by touch alone does not count. */
export function mostTogether(
  notes: readonly { readonly onsetTicks: number; readonly durationTicks: number }[],
): number {
  const moments = notes.flatMap(({ onsetTicks, durationTicks }) => [
    [onsetTicks, 1] as const,
    [onsetTicks + durationTicks * heldShare, -1] as const,
  ])
  moments.sort((a, b) => a[0] - b[0] || a[1] - b[1])
  let [now, most] = [0, 0]
  for (const [, change] of moments) {
    now += change
    most = Math.max(most, now)
  }
  return most
}

/** A note that is held a little into the next is still followed by it. */
const heldShare = 0.85
