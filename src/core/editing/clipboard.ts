import { z } from '../border/checks'
import { byOnset, mostLines, type Note } from '../event/note'
import { longestName } from '../text/bounded'
import { lastTick, TICKS_PER_QUARTER, type Ticks } from '../time/units'

/**
 * Notes on their way, as text: JSON that anybody can read, so that they go through the system's clipboard from piece to piece.
 * Places are counted from `startTicks`, 10,080 to the quarter.
 */
const copiedSchema = z.object({
  format: z.literal('unbroken-voice-notes'),
  version: z.literal(1),
  ticksPerQuarter: z.literal(TICKS_PER_QUARTER),
  /** Where the notes were: they can be pasted at the same place. */
  startTicks: z.number().int().min(0).max(lastTick),
  lengthTicks: z.number().int().min(1).max(lastTick),
  tracks: z
    .array(
      z.object({
        name: z.string().max(longestName),
        notes: z.array(
          z.object({
            onsetTicks: z.number().int().min(0).max(lastTick),
            durationTicks: z.number().int().min(1).max(lastTick),
            key: z.number().int().min(0).max(127),
            velocity: z.number().int().min(1).max(127),
            releaseVelocity: z.number().int().min(0).max(127),
            voice: z.number().int().min(1).max(mostLines).optional(),
            staff: z.union([z.literal(1), z.literal(2)]).optional(),
          }),
        ),
      }),
    )
    .min(1)
    .max(512),
})

export type CopiedNotes = Readonly<z.infer<typeof copiedSchema>>

/** Text that is pasted where notes are expected, and is none. */
export class ClipboardError extends Error {
  override name = 'ClipboardError'
}

/** Notes of some tracks as text; places are counted from the first of them. */
export function copyNotes(
  tracks: readonly { readonly name: string; readonly notes: readonly Note[] }[],
  range: { readonly startTicks: Ticks; readonly endTicks: Ticks },
): string {
  const copied: CopiedNotes = {
    format: 'unbroken-voice-notes',
    version: 1,
    ticksPerQuarter: TICKS_PER_QUARTER,
    startTicks: range.startTicks,
    lengthTicks: Math.max(1, range.endTicks - range.startTicks),
    tracks: tracks.map(({ name, notes }) => ({
      name,
      notes: notes.map(({ onsetTicks, durationTicks, key, velocity, releaseVelocity, voice, staff }) => ({
        onsetTicks: onsetTicks - range.startTicks,
        durationTicks,
        key,
        velocity,
        releaseVelocity,
        ...(voice !== undefined && { voice }),
        ...(staff !== undefined && { staff }),
      })),
    })),
  }
  return JSON.stringify(copied)
}

/** Longer text is not looked at: 200,000 notes take less. */
const longestTextLetters = 64_000_000

/**
 * Reads notes from text.
 *
 * @throws ClipboardError that says what the text is instead
 */
export function readCopied(text: string): CopiedNotes {
  if (text.trim() === '') throw new ClipboardError('There is nothing to paste')
  if (text.length > longestTextLetters) throw new ClipboardError('The text is too long to be notes')
  let value: unknown
  try {
    value = JSON.parse(text)
  } catch {
    const begin = text.trim().slice(0, 24)
    throw new ClipboardError(`What is on the clipboard is not music: it begins “${begin}…”`)
  }
  const parsed = copiedSchema.safeParse(value)
  if (parsed.success) return parsed.data
  const issue = parsed.error.issues[0]!
  throw new ClipboardError(
    issue.path[0] === 'format'
      ? 'What is on the clipboard is not music'
      : `The notes on the clipboard are damaged: at “${issue.path.join('.')}”, ${issue.message}`,
  )
}

/** Copied notes as notes of a track, from a place on. */
export function pastedNotes(
  copied: CopiedNotes['tracks'][number],
  atTicks: Ticks,
  channel: number,
  nextId: () => number,
): Note[] {
  return copied.notes
    .filter(({ onsetTicks }) => atTicks + onsetTicks <= lastTick)
    .map(
      ({ onsetTicks, voice, staff, ...fields }): Note => ({
        ...fields,
        id: nextId(),
        onsetTicks: atTicks + onsetTicks,
        channel,
        origin: { kind: 'drawn' },
        ...(voice !== undefined && { voice }),
        ...(staff !== undefined && { staff }),
      }),
    )
    .sort(byOnset)
}
