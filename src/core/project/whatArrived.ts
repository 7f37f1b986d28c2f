import type { ReceiverReport, ReportedNote } from '../programs/receiver/report'
import { TICKS_PER_QUARTER, type Ticks } from '../time/units'
import type { SentNote } from './transferring'

/** One staff of what was sent, beside what the receiver wrote. */
export interface LineArrived {
  readonly name: string
  readonly sent: number
  /** Of these, how many were written at all; at their place; with their value; on the staff where most of the line is. */
  readonly written: number
  readonly placed: number
  readonly valued: number
  readonly onStaff: number
}

/** A note that was not written as the page here has it. */
export interface Difference {
  readonly name: string
  readonly note: SentNote
  readonly what: 'not written' | 'elsewhere in time' | 'another value' | 'on another staff'
}

export interface WhatArrived {
  readonly lines: readonly LineArrived[]
  /** Notes there that nothing here is for. */
  readonly more: number
  /** The first of them, in time. */
  readonly differences: readonly Difference[]
  /** How much later everything stands there: its first bar may be another one. */
  readonly shiftTicks: Ticks
}

const mostDifferences = 12
/** Further off than this, it is another note. */
const nearTicks: Ticks = TICKS_PER_QUARTER
/** Places that differ by less are the same: clocks and grids divide otherwise than ticks. */
const sameTicks: Ticks = 60
const shiftSamples = 300

/** What a receiver wrote, note by note beside what was sent to it. */
export function whatArrived(
  sent: { readonly names: readonly string[]; readonly notes: readonly SentNote[] },
  { written }: Pick<ReceiverReport, 'written'>,
): WhatArrived {
  const notes = [...sent.notes].sort((a, b) => a.onsetTicks - b.onsetTicks || a.key - b.key)
  const byPitch = new Map<string, ReportedNote[]>()
  for (const note of [...written].sort((a, b) => a.onsetTicks - b.onsetTicks)) {
    const address = `${note.channel} ${note.key}`
    byPitch.set(address, [...(byPitch.get(address) ?? []), note])
  }
  const shiftTicks = shiftOf(notes, byPitch)
  const pairs = notes.map((note) => ({ note, there: takeNearest(byPitch, note, shiftTicks) }))
  const staffOf = staffOfLines(pairs, sent.names.length)
  const lines = sent.names.map((name) => ({ name, sent: 0, written: 0, placed: 0, valued: 0, onStaff: 0 }))
  const differences: Difference[] = []
  for (const { note, there } of pairs) {
    const line = lines[note.line]!
    line.sent++
    if (there) line.written++
    const isPlaced = there !== null && Math.abs(there.onsetTicks - shiftTicks - note.onsetTicks) <= sameTicks
    const isValued = there !== null && Math.abs(there.durationTicks - note.valueTicks) <= sameTicks
    const isOnStaff = there !== null && there.staff === staffOf[note.line]
    if (isPlaced) line.placed++
    if (isValued) line.valued++
    if (isOnStaff) line.onStaff++
    const what = !there
      ? 'not written'
      : !isOnStaff
        ? 'on another staff'
        : !isPlaced
          ? 'elsewhere in time'
          : isValued
            ? null
            : 'another value'
    if (what) differences.push({ name: line.name, note, what })
  }
  // Of a line that is not there at all, no note need be named.
  const named = differences.filter(({ note }) => lines[note.line]!.written > 0)
  return {
    lines,
    more: [...byPitch.values()].flat().length,
    differences: named.slice(0, mostDifferences),
    shiftTicks,
  }
}

/** The shift under which most notes lie on one another. */
function shiftOf(notes: readonly SentNote[], byPitch: ReadonlyMap<string, readonly ReportedNote[]>): Ticks {
  const votes = new Map<Ticks, number>()
  for (const { channel, key, onsetTicks } of notes.slice(0, shiftSamples))
    for (const there of byPitch.get(`${channel} ${key}`)?.slice(0, shiftSamples) ?? []) {
      const shift = Math.round((there.onsetTicks - onsetTicks) / sameTicks) * sameTicks
      votes.set(shift, (votes.get(shift) ?? 0) + 1)
    }
  let best: Ticks = 0
  for (const [shift, count] of votes) {
    const most = votes.get(best) ?? 0
    if (count > most || (count === most && Math.abs(shift) < Math.abs(best))) best = shift
  }
  return best
}

/** Takes the note of the receiver that is nearest to where one was sent. */
function takeNearest(
  byPitch: ReadonlyMap<string, ReportedNote[]>,
  { channel, key, onsetTicks }: SentNote,
  shiftTicks: Ticks,
): ReportedNote | null {
  const list = byPitch.get(`${channel} ${key}`) ?? []
  let best = -1
  const off = (index: number) => Math.abs(list[index]!.onsetTicks - shiftTicks - onsetTicks)
  for (let index = 0; index < list.length; index++) {
    if (list[index]!.onsetTicks - shiftTicks > onsetTicks + nearTicks) break
    if (off(index) <= nearTicks && (best < 0 || off(index) < off(best))) best = index
  }
  return best < 0 ? null : list.splice(best, 1)[0]!
}

/** The staff of each line: where most of it is, if no other line has more there; null: it has none of its own. */
function staffOfLines(
  pairs: readonly { readonly note: SentNote; readonly there: ReportedNote | null }[],
  lineCount: number,
): (number | null)[] {
  const counts = Array.from({ length: lineCount }, () => new Map<number, number>())
  for (const { note, there } of pairs) {
    if (!there) continue
    const own = counts[note.line]!
    own.set(there.staff, (own.get(there.staff) ?? 0) + 1)
  }
  const main = counts.map((own) =>
    [...own].reduce<readonly [number, number] | null>(
      (best, each) => (!best || each[1] > best[1] ? each : best),
      null,
    ),
  )
  return main.map((own, line) => {
    if (!own) return null
    const [staff, count] = own
    const isTaken = main.some(
      (other, index) => other?.[0] === staff && (other[1] > count || (other[1] === count && index < line)),
    )
    return isTaken ? null : staff
  })
}
