import {
  type Expression,
  type PartNote,
  type PerformedMessage,
  type PlayerHabits,
  performExpression,
  performPart,
} from '../capture/performer'
import { type TakeEvents, TakeRecorder } from '../capture/takeEvents'
import type { TakeInfo } from '../capture/takeInfo'
import { takeToNotes } from '../capture/takeToNotes'
import type { Instrument } from '../midi/instrument'
import { addSource, addTakes } from '../project/commands'
import { emptyProject } from '../project/create'
import type { Project, Source } from '../project/schema'
import { TempoMap } from '../time/tempoMap'
import { TICKS_PER_QUARTER, type Ticks } from '../time/units'
import { partLine } from './partLine'

/**
 * The demo's invented world: six players of an ensemble in the harbour town of Sandmarch rehearse a piece for the
 * evening on which the town sets lanterns on the water.
 */
const harbourRoom = { portId: 'stand-in-port', portName: 'Harbour room' } as const
const netLoft = { portId: 'stand-in-port-loft', portName: 'Net loft' } as const
const bellTower = { portId: 'stand-in-port-tower', portName: 'Bell tower' } as const
/** The ports the stand-ins play on. */
export const standInPorts = [harbourRoom, netLoft, bellTower] as const

export interface StandInPlayer {
  readonly name: string
  readonly description: string
  readonly portId: string
  readonly portName: string
  readonly instrument: Instrument
  /** What else is moved while playing. */
  readonly expression: Expression | null
  readonly habits: PlayerHabits
  readonly part: readonly PartNote[]
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

const celloLine = `
  D2:3 A2:1 | Bb2:3 A2:1 | F2:3 G2:1 | C3:2 Bb2:2 | G2:3 F2:1 | D2:3 E2:1 | A2:2 G2:2 | D2:4 |
  Bb2:2 A2:2 | F2:4 | G2:2 Bb2:2 | A2:4 | D3:3 A2:1 | Bb2:4 | G2:2 A2:2 | D2:4`
const marimbaLine = `
  A4:1 D5:1 F5:1 D5:1 | Bb4:1 D5:1 F5:1 D5:1 | A4:1 C5:1 F5:1 C5:1 | G4:1 C5:1 E5:1 C5:1 |
  G4:1 Bb4:1 D5:1 Bb4:1 | F4:1 A4:1 D5:1 A4:1 | E4:1 A4:1 C#5:1 E5:1 | D5:1 A4:1 F4:2 |
  F4:1 Bb4:1 D5:1 Bb4:1 | F4:1 A4:1 C5:1 A4:1 | G4:1 Bb4:1 D5:1 Bb4:1 | A4:1 C#5:1 E5:2 |
  D5:1 A4:1 F4:1 A4:1 | D5:1 Bb4:1 F4:1 Bb4:1 | D5:1 Bb4:1 C#5:1 A4:1 | D5:4`

/** Kick, snare and hi-hat in eighths; the hi-hat opens at the end of every second bar. */
function drumPart(bars: number): PartNote[] {
  const eighth = TICKS_PER_QUARTER / 2
  const notes: PartNote[] = []
  for (let step = 0; step < bars * 8; step++) {
    const inBar = step % 8
    const onsetTicks = step * eighth
    const hit = (key: number, velocity: number) =>
      notes.push({ onsetTicks, durationTicks: eighth, key, velocity })
    if (inBar === 0 || inBar === 5) hit(36, inBar === 0 ? 92 : 74)
    if (inBar === 2 || inBar === 6) hit(38, 80)
    hit(step % 16 === 15 ? 46 : 42, inBar % 2 === 0 ? 70 : 52)
  }
  return notes
}

export const standInPlayers: readonly StandInPlayer[] = [
  {
    name: 'Orla’s flute',
    description: 'wind controller, breath and bend',
    ...harbourRoom,
    instrument: { kind: 'program', program: 73 },
    expression: 'breath and bend',
    habits: { channel: 1, deviationMs: 11, biasMs: -4, gate: 0.93, velocitySpread: 8, seed: 11 },
    part: partLine(fluteLine, 88),
  },
  {
    name: 'Benno’s piano',
    description: 'keyboard, two hands, pedal',
    ...harbourRoom,
    instrument: { kind: 'program', program: 0 },
    expression: 'sustain pedal',
    habits: { channel: 2, deviationMs: 9, biasMs: 3, gate: 0.9, velocitySpread: 7, seed: 23 },
    part: [...partLine(rightHand, 70), ...partLine(leftHand, 76)].sort(
      (a, b) => a.onsetTicks - b.onsetTicks || a.key - b.key,
    ),
  },
  {
    name: 'Sefa’s harp',
    description: 'keyboard, chords',
    ...harbourRoom,
    instrument: { kind: 'program', program: 46 },
    expression: null,
    habits: { channel: 3, deviationMs: 10, biasMs: 6, gate: 0.95, velocitySpread: 6, seed: 37 },
    part: partLine(harpLine, 72),
  },
  {
    name: 'Runa’s drums',
    description: 'drum pads, hi-hat pedal',
    ...harbourRoom,
    instrument: { kind: 'drums' },
    expression: 'hi-hat openness',
    habits: { channel: 10, deviationMs: 6, biasMs: 0, gate: 0.5, velocitySpread: 9, seed: 41 },
    part: drumPart(16),
  },
  {
    name: 'Ivo’s cello',
    description: 'string controller, channel 1 only',
    ...netLoft,
    instrument: { kind: 'program', program: 42 },
    expression: null,
    habits: { channel: 1, deviationMs: 12, biasMs: 5, gate: 0.95, velocitySpread: 6, seed: 53 },
    part: partLine(celloLine, 74),
  },
  {
    name: 'Mette’s marimba',
    description: 'mallets, channel 1 only, ahead of the beat',
    ...bellTower,
    instrument: { kind: 'program', program: 12 },
    expression: null,
    habits: { channel: 1, deviationMs: 5, biasMs: -60, gate: 0.6, velocitySpread: 7, seed: 67 },
    part: partLine(marimbaLine, 78),
  },
]

export const demoTempoBpm = 92

/** The three who play in the demo; the others can join. */
export const trio = standInPlayers.slice(0, 3)

const seatId = (player: StandInPlayer) => `stand-in-${standInPlayers.indexOf(player) + 1}`

/** Seats stand-in players: each is a source with a track of its own. Who is seated already stays. */
export function seatStandIns(project: Project, players: readonly StandInPlayer[] = standInPlayers): Project {
  return players.reduce((next, player) => {
    const source: Source = {
      id: seatId(player),
      name: player.name,
      kind: 'standIn',
      address: { portId: player.portId, channel: player.habits.channel },
      description: player.description,
      portName: player.portName,
      group: '',
      compensationMs: 0,
      soundInput: null,
      effects: [],
    }
    return addSource(next, source, player.instrument)
  }, project)
}

/** The stand-ins that sit in a project. */
export function seatedStandIns(project: Project): StandInPlayer[] {
  return standInPlayers.filter((player) =>
    project.sources.some((source) => source.kind === 'standIn' && source.id === seatId(player)),
  )
}

/**
 * A stand-in plays their part from a position on, with everything they move.
 *
 * @param variation changes the slips of the performance: every take is played anew
 */
export function performStandIn(
  player: StandInPlayer,
  tempoMap: TempoMap,
  fromTicks: Ticks,
  variation = 0,
): PerformedMessage[] {
  const habits = { ...player.habits, seed: player.habits.seed + variation * 101 }
  const notes = performPart(player.part, habits, tempoMap, fromTicks)
  if (!player.expression) return notes
  const barMs = tempoMap.msAt(fromTicks + TICKS_PER_QUARTER * 4) - tempoMap.msAt(fromTicks)
  const moves = performExpression(notes, player.expression, habits.channel, barMs)
  return [...moves, ...notes].sort((a, b) => a.timeMs - b.timeMs)
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
      portName: 'this computer',
      group: '',
      compensationMs: 0,
      soundInput: null,
      effects: [],
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
  const seated = seatComputerKeyboard(seatStandIns(empty, trio), keyboardPortId)
  const tempoMap = new TempoMap(seated.tempos)
  const recorder = new TakeRecorder()
  const messages = trio
    .flatMap((player) => performStandIn(player, tempoMap, 0).map((message) => ({ ...message, player })))
    .sort((a, b) => a.timeMs - b.timeMs)
  for (const { timeMs, bytes, player } of messages) recorder.add(player.portId, nowMs + timeMs, ...bytes)
  const events = recorder.slice()
  const takeSerial = seated.nextSerial
  const durationMs = messages.at(-1)!.timeMs
  const earlyMs = 150
  const recorded = takeToNotes(
    events,
    { takeSerial, startTicks: 0, anchorMs: nowMs, endMs: nowMs + durationMs, tempoMap, earlyMs },
    seated.tracks,
    takeSerial + 1,
  )
  const take: TakeInfo = {
    serial: takeSerial,
    name: 'First rehearsal',
    recordedAtMs: nowMs,
    startTicks: 0,
    anchorMs: nowMs,
    durationMs,
    eventCount: events.count,
    tempos: seated.tempos,
    listeners: seated.tracks.map((track) => ({ trackId: track.id, routes: track.routes })),
    compensations: [],
    earlyMs,
    loop: null,
    clockPoints: [],
    chains: [],
  }
  return {
    project: addTakes(seated, [{ take, tracks: recorded.tracks }], recorded.nextNoteId),
    takeSerial,
    events,
  }
}
