import { type PartNote, type PlayerHabits, performPart } from '../capture/performer'
import { type TakeEvents, TakeRecorder } from '../capture/takeEvents'
import { takeToNotes } from '../capture/takeToNotes'
import { parseKeyName } from '../event/note'
import { addSource, addTake } from '../project/commands'
import { emptyProject } from '../project/create'
import type { Instrument, Project, Source } from '../project/schema'
import { TempoMap } from '../time/tempoMap'
import { TICKS_PER_QUARTER } from '../time/units'

/**
 * The demo's invented world: three players of an ensemble in the harbour town of Sandmarch rehearse a piece for the
 * evening on which the town sets lanterns on the water.
 */
export const standInPortId = 'stand-in-port'
export const standInPortName = 'Harbour room'

export interface StandInPlayer {
  readonly name: string
  readonly description: string
  readonly instrument: Instrument
  readonly habits: PlayerHabits
  readonly part: readonly PartNote[]
}

/** Reads a line such as "A4:1 D5:.5 r:1.5": note or rest, length in quarters; bar lines are for the eye. */
function line(text: string, velocity: number): PartNote[] {
  const notes: PartNote[] = []
  let position = 0
  for (const word of text.split(/[\s|]+/).filter(Boolean)) {
    const [name, length] = word.split(':') as [string, string]
    const [over, under] = length.split('/').map(Number) as [number, number | undefined]
    const ticks = (over / (under ?? 1)) * TICKS_PER_QUARTER
    const onsetTicks = Math.round(position)
    const durationTicks = Math.round(position + ticks) - onsetTicks
    if (name !== 'r')
      for (const single of name.split('+')) {
        const key = parseKeyName(single)
        if (key === undefined) throw new Error(`"${single}" is not a note`)
        notes.push({ onsetTicks, durationTicks, key, velocity })
      }
    position += ticks
  }
  return notes
}

const fluteLine = `
  A4:1 D5:1 E5:.5 F5:.5 E5:1 | D5:1.5 F5:.5 G5:1 F5:1 | C5:1 F5:1 A5:1/3 G5:1/3 F5:1/3 G5:1 | E5:2 r:1 G5:.5 A5:.5 |
  Bb5:1.5 A5:.5 G5:.5 F5:.5 G5:1 | A5:1 F5:1 D5:2 | C#5:.75 D5:.25 E5:1 G5:1 E5:1 | D5:3 r:1 |
  F5:.5 G5:1 A5:.5 Bb5:1 A5:1 | C6:1.5 A5:.5 F5:3 | G5:1 Bb5:1/3 A5:1/3 G5:1/3 F5:1 | E5:1 C#5:1 A4:2 |
  D5:.5 E5:.5 F5:.5 G5:.5 A5:1 D6:1 | Bb5:1.5 A5:.5 G5:1 F5:1 | G5:1 E5:1 C#5:1.5 E5:.5 | D5:4`

const rightHand = `
  D4:.5 F4:.5 A4:.5 F4:.5 D4:.5 F4:.5 A4:.5 F4:.5 | D4:.5 F4:.5 Bb4:.5 F4:.5 D4:.5 F4:.5 Bb4:.5 F4:.5 |
  C4:.5 F4:.5 A4:.5 F4:.5 C4:.5 F4:.5 A4:.5 F4:.5 | E4+G4:1 E4+G4:1 r:1 C4+E4+G4:1 |
  D4:.5 G4:.5 Bb4:.5 G4:.5 D4:.5 G4:.5 Bb4:.5 G4:.5 | D4:.5 F4:.5 A4:.5 F4:.5 D4+F4+A4:2 |
  C#4:.25 E4:.25 G4:.5 A4:1 C#4:.25 E4:.25 G4:.5 A4:1 | D4+F4+A4:2 r:2 |
  D4+F4:1.5 D4+F4+Bb4:.5 D4+F4:2 | C4+F4:1.5 C4+F4+A4:.5 C4+F4:2 | D4+G4:1.5 D4+G4+Bb4:.5 D4+G4:2 | C#4+E4+A4:2 r:2 |
  D4:.5 F4:.5 A4:.5 F4:.5 D4:.5 F4:.5 A4:.5 F4:.5 | D4:.5 F4:.5 Bb4:.5 F4:.5 D4:.5 F4:.5 Bb4:.5 F4:.5 |
  D4+G4:2 C#4+E4+A4:2 | D4+F4+A4:4`

const leftHand = `
  D3:2 A2:2 | Bb2:2 F3:2 | F2:2 C3:2 | C3:3 Bb2:1 | G2:2 D3:2 | D3:2 A2:1 D2:1 | A2:1.5 E3:.5 A2:2 | D3:1 A2:1 D2:2 |
  Bb2:4 | F2:3 G2:1 | G2:2 Bb2:2 | A2:1 B2:1 C#3:1 A2:1 | D3:2 A2:2 | Bb2:2 F3:2 | G2:2 A2:2 | D2+D3:4`

const harpLine = `
  D4+F4+A4:4 | D4+F4+Bb4:4 | C4+F4+A4:4 | C4+E4+G4:4 | D4+G4+Bb4:4 | D4+F4+A4:4 | C#4+E4+A4:4 | D4+F4+A4:4 |
  D4+F4+Bb4:4 | C4+F4+A4:4 | D4+G4+Bb4:4 | C#4+E4+A4:4 | D4+F4+A4:4 | D4+F4+Bb4:4 | D4+G4+Bb4:2 C#4+E4+A4:2 | D4+F4+A4:4`

export const standInPlayers: readonly StandInPlayer[] = [
  {
    name: 'Orla’s flute',
    description: 'wind controller',
    instrument: { kind: 'program', program: 73 },
    habits: { channel: 1, deviationMs: 11, biasMs: -4, gate: 0.93, velocitySpread: 8, seed: 11 },
    part: line(fluteLine, 88),
  },
  {
    name: 'Benno’s piano',
    description: 'keyboard, two hands',
    instrument: { kind: 'program', program: 0 },
    habits: { channel: 2, deviationMs: 9, biasMs: 3, gate: 0.9, velocitySpread: 7, seed: 23 },
    part: [...line(rightHand, 70), ...line(leftHand, 76)].sort(
      (a, b) => a.onsetTicks - b.onsetTicks || a.key - b.key,
    ),
  },
  {
    name: 'Sefa’s harp',
    description: 'keyboard, chords',
    instrument: { kind: 'program', program: 46 },
    habits: { channel: 3, deviationMs: 10, biasMs: 6, gate: 0.95, velocitySpread: 6, seed: 37 },
    part: line(harpLine, 72),
  },
]

export const demoTempoBpm = 92

/** Seats the three stand-in players: each is a source with a track of its own. */
export function seatStandIns(project: Project): Project {
  let next = project
  for (const [index, player] of standInPlayers.entries()) {
    const source: Source = {
      id: `stand-in-${index + 1}`,
      name: player.name,
      kind: 'standIn',
      address: { portId: standInPortId, channel: player.habits.channel },
      description: player.description,
    }
    next = addSource(next, source, player.instrument)
  }
  return next
}

/** The computer keyboard as a source with its own track. */
export function seatComputerKeyboard(project: Project, portId: string): Project {
  return addSource(
    project,
    {
      id: 'computer-keyboard',
      name: 'Your keys',
      kind: 'computerKeyboard',
      address: { portId, channel: 1 },
      description: 'computer keyboard',
    },
    { kind: 'program', program: 11 },
  )
}

/** The demo with one rehearsed take, performed by the stand-ins exactly as they perform live. */
export function createDemo(
  id: string,
  nowMs: number,
  keyboardPortId: string,
): { project: Project; takeSerial: number; events: TakeEvents } {
  const empty: Project = {
    ...emptyProject(id, 'Lamps on the Ebb', nowMs),
    subtitle: 'for the lantern evening in Sandmarch',
    tempos: [{ tick: 0, tempoBpm: demoTempoBpm }],
  }
  const seated = seatComputerKeyboard(seatStandIns(empty), keyboardPortId)
  const tempoMap = new TempoMap(seated.tempos)
  const messages = standInPlayers
    .flatMap((player) => performPart(player.part, player.habits, tempoMap, 0))
    .sort((a, b) => a.timeMs - b.timeMs)
  const recorder = new TakeRecorder()
  for (const { timeMs, bytes } of messages) recorder.add(standInPortId, nowMs + timeMs, ...bytes)
  const events = recorder.slice()
  const takeSerial = seated.nextSerial
  const durationMs = messages.at(-1)!.timeMs
  const recorded = takeToNotes(
    events,
    { takeSerial, startTicks: 0, anchorMs: nowMs, endMs: nowMs + durationMs, tempoMap, earlyMs: 150 },
    seated.tracks,
    takeSerial + 1,
  )
  const take = {
    serial: takeSerial,
    name: 'First rehearsal',
    recordedAtMs: nowMs,
    startTicks: 0,
    anchorMs: nowMs,
    durationMs,
    eventCount: events.count,
  }
  return { project: addTake(seated, take, recorded.tracks, recorded.nextNoteId), takeSerial, events }
}
