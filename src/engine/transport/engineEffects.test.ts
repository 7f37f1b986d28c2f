import { takeToNotes } from '@/core/capture/takeToNotes'
import { type EffectSlot, newSlot } from '@/core/effects/catalogue'
import { printChain } from '@/core/effects/print'
import type { Generator } from '@/core/generators/generator'
import { emptyProject, newClip, newTrack, soundingNotes } from '@/core/project/create'
import { stepLane } from '@/core/project/generatorCommands'
import { cablePortId } from '@/core/routing/ports'
import { plainRoute } from '@/core/routing/route'
import { MeterMap } from '@/core/time/meterMap'
import { TempoMap } from '@/core/time/tempoMap'
import { printCable } from '@/core/wiring/printCable'
import { engineWorkshop, note, offs, ons, recordOrder } from './engineWorkshop.testing'

const context = {
  tempoMap: new TempoMap([{ tick: 0, tempoBpm: 120 }]),
  meterMap: new MeterMap([{ tick: 0, numerator: 4, denominator: 4 }]),
}
/** At 120 bpm. */
const msPerTick = 500 / 10_080

const fiveEffects: readonly EffectSlot[] = [
  newSlot('chordInKey', 'a', { steps: [2, 4] }),
  newSlot('probability', 'b', { share: 70 }, 11),
  newSlot('chancePitch', 'c', {}, 12),
  newSlot('repeat', 'd', { count: 2, spacing: '1/16' }),
  newSlot('humanise', 'e', {}, 13),
]

const lanes = (channel: number, cable: string | null = null): Generator => ({
  id: 'g',
  name: 'Tide',
  isPlaying: true,
  seed: 1,
  isSeedKept: true,
  earlierSeeds: [],
  work: { kind: 'lanes', lanes: [stepLane('l', 'Lane', { channel, cable, rate: '1/8' })] },
})

const finishedTake = (workshop: ReturnType<typeof engineWorkshop>) => {
  const take = workshop.window.find((message) => message.type === 'takeFinished')
  if (take?.type !== 'takeFinished') throw new Error('A take should be finished')
  return take
}

test('played live through five effects with chance: the notes that printing the take gives, at their times', () => {
  const workshop = engineWorkshop([{ slots: fiveEffects }], { countInBars: 0 })
  const { engine, synth, input, runTo, run, now } = workshop
  engine.receive(recordOrder())
  const startMs = now() + 120
  for (let index = 0; index < 24; index++) {
    const onMs = startMs + index * 310 + 3
    runTo(onMs)
    input({ status: 0x90, data1: 60 + (index % 8), timeMs: onMs })
    runTo(onMs + 170)
    input({ status: 0x80, data1: 60 + (index % 8), timeMs: onMs + 170 })
  }
  run(3000)
  engine.receive({ type: 'stop' })
  const take = finishedTake(workshop)
  const track = { id: 't0', routes: [plainRoute({ portId: 'A', channel: 1 })] }
  const placement = { ...take, takeSerial: 1, tempoMap: context.tempoMap }
  const [recorded] = takeToNotes(take.events, placement, [track], 1).tracks
  const printed = printChain(recorded!.notes, { slots: fiveEffects, changes: [] }, context, 1).notes
  const live = ons(synth).map(({ key, velocity, atSeconds }) => ({ key, velocity, atSeconds }))
  expect(live.length).toBe(printed.length)
  const bag = (notes: readonly { key: number; velocity: number }[]) =>
    notes.map(({ key, velocity }) => `${key} ${velocity}`).sort()
  expect(bag(live)).toEqual(bag(printed))
  // What is due later is sounded with its moment; what is due at once, at once.
  const scheduled = live.filter(({ atSeconds }) => atSeconds > 0)
  expect(scheduled.length).toBeGreaterThan(20)
  for (const { key, velocity, atSeconds } of scheduled) {
    const nearest = Math.min(
      ...printed
        .filter((each) => each.key === key && each.velocity === velocity)
        .map((each) => Math.abs(startMs - 5_000_000 + each.onsetTicks * msPerTick + 12 - atSeconds * 1000)),
    )
    expect(nearest).toBeLessThan(0.1)
  }
})

test('effects of a player: the tracks hear the result, the take keeps what was played', () => {
  const slots = [newSlot('chordInKey', 'a', { steps: [2, 4] })]
  const workshop = engineWorkshop([{}], {
    sourceChains: [{ portId: 'A', channel: 1, slots }],
    countInBars: 0,
  })
  const { engine, synth, input, run } = workshop
  engine.receive(recordOrder())
  run(200)
  input({ status: 0x90, data1: 60 })
  expect(ons(synth).map((command) => command.key)).toEqual([60, 64, 67])
  run(200)
  input({ status: 0x80, data1: 60 })
  expect(offs(synth).map((command) => command.key)).toEqual([60, 64, 67])
  engine.receive({ type: 'stop' })
  const take = finishedTake(workshop)
  expect(take.events.count).toBe(2)
  const track = { id: 't0', routes: [plainRoute({ portId: 'A', channel: 1 })] }
  const placement = { ...take, takeSerial: 1, tempoMap: context.tempoMap }
  const chains = [{ portId: 'A', channel: 1, slots, changes: [] }]
  const result = takeToNotes(take.events, { ...placement, chains }, [track], 1)
  expect(result.tracks[0]!.notes.map((each) => each.key)).toEqual([60, 64, 67])
  expect(
    result.tracks[0]!.notes.every((each) => each.origin.kind === 'played' && each.origin.eventIndex === 0),
  ).toBe(true)
  expect(result.account).toMatchObject({ heard: 1, captured: 1, withheld: 0 })
  expect(takeToNotes(take.events, placement, [track], 1).tracks[0]!.notes).toHaveLength(1)
  const half = [{ portId: 'A', channel: 1, slots: [newSlot('filter', 'f', { lowest: 90 })], changes: [] }]
  expect(takeToNotes(take.events, { ...placement, chains: half }, [track], 1).account).toMatchObject({
    heard: 1,
    captured: 0,
    withheld: 1,
  })
})

test('voices that are dealt live reach tracks of their own', () => {
  const slots = [newSlot('dealVoices', 'd', { voices: 2 })]
  const routes = (channel: number) => [plainRoute({ portId: 'A', channel })]
  const { synth, input } = engineWorkshop([{ routes: routes(1) }, { routes: routes(2) }], {
    sourceChains: [{ portId: 'A', channel: 1, slots }],
  })
  for (const data1 of [60, 64]) input({ status: 0x90, data1 })
  expect(ons(synth).map(({ channel, key }) => [channel, key])).toEqual([
    [1, 60],
    [2, 64],
  ])
})

test('effects taken away while keys are down leave no note hanging', () => {
  const slots = [newSlot('chordInKey', 'a'), newSlot('repeat', 'b', { count: 4 })]
  const workshop = engineWorkshop([{}], { sourceChains: [{ portId: 'A', channel: 1, slots }] })
  const { engine, base, synth, input, run } = workshop
  input({ status: 0x90, data1: 60 })
  run(400)
  engine.receive({ type: 'setup', setup: { ...base, sourceChains: [] } })
  run(100)
  input({ status: 0x80, data1: 60 })
  run(3000)
  expect(offs(synth).length).toBe(ons(synth).length)
})

test('a generator sounds on its grid, on the track that hears it, and is kept in the take', () => {
  const workshop = engineWorkshop([{ routes: [plainRoute({ portId: 'generator:g', channel: 3 })] }, {}], {
    countInBars: 0,
  })
  const { engine, synth, run, now } = workshop
  engine.receive({ type: 'generators', generators: [lanes(3)] })
  engine.receive(recordOrder())
  const startSeconds = (now() + 120 - 5_000_000) / 1000
  run(4000)
  engine.receive({ type: 'stop' })
  const steps = [60, 67, 72, 64, 67]
  const places = [0, 2, 3, 5, 6]
  const first = ons(synth).slice(0, 10)
  expect(first.map((command) => command.channel)).toEqual(Array(10).fill(1))
  for (const [index, command] of first.entries()) {
    const bar = Math.floor(index / 5)
    expect(command.key).toBe(steps[index % 5])
    expect(command.atSeconds - startSeconds).toBeCloseTo((bar * 8 + places[index % 5]!) * 0.25, 9)
  }
  const take = finishedTake(workshop)
  const track = { id: 't0', routes: [plainRoute({ portId: 'generator:g', channel: 3 })] }
  const placement = { ...take, takeSerial: 1, tempoMap: context.tempoMap }
  const { tracks, account } = takeToNotes(take.events, placement, [track], 1)
  expect(tracks[0]!.notes.slice(0, 5).map((each) => [each.onsetTicks, each.key])).toEqual(
    places.map((place, index) => [place * 5040, steps[index]]),
  )
  expect(account.captured).toBe(account.heard)
  expect(offs(synth).length).toBeGreaterThanOrEqual(ons(synth).length - 1)
})

test('a lane goes over its cable as well, each note with its end and its moment', () => {
  const { engine, ports, run } = engineWorkshop([{}])
  engine.receive({ type: 'generators', generators: [lanes(5, 'Pier')] })
  engine.receive({ type: 'play', fromTicks: 0, untilTicks: null, loop: null })
  run(1000)
  engine.receive({ type: 'stop' })
  run(50)
  const sent = ports.filter((message) => message.portId === cablePortId('Pier'))
  const down = new Set<number>()
  for (const { bytes } of sent) {
    expect(bytes[0]! & 0x0f).toBe(4)
    if ((bytes[0]! & 0xf0) === 0x90) down.add(bytes[1]!)
    else down.delete(bytes[1]!)
  }
  expect(sent.length).toBeGreaterThan(4)
  expect(down.size).toBe(0)
  expect(sent[0]!.timeMs).toBeCloseTo(5_000_120, 6)
})

test('a pattern that was changed while it played is heard with its changes, also from the middle', () => {
  const slots = [newSlot('transpose', 't')]
  const changes = [{ tick: 20_160, slots: [newSlot('transpose', 't', { octaves: 1 })] }]
  const notes = [0, 10_080, 20_160, 30_240].map((onset, index) => note(index + 1, onset, 5000, 60))
  const whole = engineWorkshop([{ slots, changes }])
  whole.content('t0', notes)
  whole.engine.receive({ type: 'play', fromTicks: 0, untilTicks: null, loop: null })
  whole.run(3000)
  expect(ons(whole.synth).map((command) => command.key)).toEqual([60, 60, 72, 72])
  const middle = engineWorkshop([{ slots, changes }])
  middle.content('t0', notes)
  middle.engine.receive({ type: 'play', fromTicks: 25_000, untilTicks: null, loop: null })
  middle.run(3000)
  expect(ons(middle.synth).map((command) => command.key)).toEqual([72])
})

test('from the middle, effects with memory go on as from the beginning', () => {
  const effects = [newSlot('everyNth', 'n', { n: 3, first: 2 })]
  const notes = Array.from({ length: 12 }, (_, index) => note(index + 1, index * 5040, 2000, 60 + index))
  const printed = printChain(notes, { slots: effects, changes: [] }, context, 1).notes
  const { engine, synth, content, run } = engineWorkshop([{ slots: effects }])
  content('t0', notes)
  engine.receive({ type: 'play', fromTicks: 5 * 5040, untilTicks: null, loop: null })
  run(4000)
  expect(ons(synth).map((command) => command.key)).toEqual(
    printed.filter((each) => each.onsetTicks >= 5 * 5040).map((each) => each.key),
  )
})

test('an effect put in while a key is down: the key that sounded straight is still ended', () => {
  const { synth, input, setTracks, run } = engineWorkshop([{}])
  input({ status: 0x90, data1: 60 })
  setTracks((track) => ({ ...track, slots: [newSlot('chordInKey', 'c')] }))
  input({ status: 0x80, data1: 60 })
  run(50)
  expect(ons(synth).map((command) => command.key)).toEqual([60])
  expect(offs(synth).map((command) => command.key)).toEqual([60])
})

test('an effect taken out while a key is down: everything it made of the key is ended', () => {
  const { synth, input, setTracks, run } = engineWorkshop([{ slots: [newSlot('chordInKey', 'c')] }])
  input({ status: 0x90, data1: 60 })
  setTracks((track) => ({ ...track, slots: [] }))
  input({ status: 0x80, data1: 60 })
  run(50)
  expect(
    offs(synth)
      .map((command) => command.key)
      .sort(),
  ).toEqual([60, 64, 67])
})

const generatorTrack = { routes: [plainRoute({ portId: 'generator:g', channel: 3 })] }

test('at the turn of a loop a generator is not cut short, and what it holds ends with the turn', () => {
  const { engine, synth, cancels, run, now } = engineWorkshop([generatorTrack], { countInBars: 0 })
  const held = stepLane('l', 'Lane', {
    channel: 3,
    rate: '1/1',
    gate: 100,
    pattern: { kind: 'steps', steps: [{ key: 60, velocity: 80, isTied: false, chance: 100 }] },
  })
  engine.receive({
    type: 'generators',
    generators: [{ ...lanes(3), work: { kind: 'lanes', lanes: [held] } }],
  })
  engine.receive({
    type: 'play',
    fromTicks: 0,
    untilTicks: null,
    loop: { startTicks: 0, endTicks: 20_160 },
  })
  const startMs = now() + 120 - 5_000_000
  const before = cancels.length
  run(2900)
  expect(cancels).toHaveLength(before)
  // Half a bar at 120 bpm is a second; each turn strikes and ends the note.
  expect(ons(synth).map((command) => Math.round(command.atSeconds * 1000 - startMs))).toEqual([0, 1000, 2000])
  expect(offs(synth).map((command) => Math.round(command.atSeconds * 1000 - startMs))).toEqual([1000, 2000])
})

test('a generator changed while it is recorded: no note hangs in the take, nor on a cable', () => {
  const workshop = engineWorkshop([generatorTrack], { countInBars: 0 })
  const { engine, ports, run } = workshop
  engine.receive({ type: 'generators', generators: [lanes(3, 'Pier')] })
  engine.receive(recordOrder())
  run(1010)
  const other = stepLane('l', 'Lane', { channel: 3, cable: 'Pier', transpose: 5 })
  engine.receive({
    type: 'generators',
    generators: [{ ...lanes(3), work: { kind: 'lanes', lanes: [other] } }],
  })
  run(1990)
  engine.receive({ type: 'stop' })
  run(100)
  const take = finishedTake(workshop)
  const track = { id: 't0', ...generatorTrack }
  const { tracks, account } = takeToNotes(
    take.events,
    { ...take, takeSerial: 1, tempoMap: context.tempoMap },
    [track],
    1,
  )
  expect(account.endedAtStop).toBe(0)
  expect(Math.max(...tracks[0]!.notes.map((each) => each.durationTicks))).toBeLessThanOrEqual(5040)
  const down = new Set<number>()
  for (const { portId, bytes } of ports) {
    if (portId !== cablePortId('Pier')) continue
    if ((bytes[0]! & 0xf0) === 0x90) down.add(bytes[1]!)
    else down.delete(bytes[1]!)
  }
  expect(down.size).toBe(0)
})

test('two lanes on one channel go over a cable each', () => {
  const { engine, ports, run } = engineWorkshop([{}])
  const lane = (id: string, cable: string, key: number) =>
    stepLane(id, id, {
      cable,
      pattern: { kind: 'steps', steps: [{ key, velocity: 80, isTied: false, chance: 100 }] },
    })
  const work = { kind: 'lanes' as const, lanes: [lane('a', 'Pier', 60), lane('b', 'Mole', 72)] }
  engine.receive({ type: 'generators', generators: [{ ...lanes(1), work }] })
  engine.receive({ type: 'play', fromTicks: 0, untilTicks: null, loop: null })
  run(1000)
  const keysOn = (cable: string) =>
    new Set(ports.flatMap(({ portId, bytes }) => (portId === cablePortId(cable) ? [bytes[1]] : [])))
  expect(keysOn('Pier')).toEqual(new Set([60]))
  expect(keysOn('Mole')).toEqual(new Set([72]))
})

test('in a layered loop, what effects of a player made of earlier passes is heard again', () => {
  const slots = [newSlot('chordInKey', 'a')]
  const workshop = engineWorkshop([{}], {
    countInBars: 0,
    takeMode: 'layered',
    sourceChains: [{ portId: 'A', channel: 1, slots }],
  })
  const { engine, synth, input, run, runTo, now } = workshop
  engine.receive(recordOrder({ endTicks: 40_320, isLooping: true }))
  const startMs = now() + 120
  runTo(startMs + 500)
  input({ status: 0x90, data1: 60 })
  run(200)
  input({ status: 0x80, data1: 60 })
  runTo(startMs + 2900)
  const again = ons(synth).filter((command) => command.atSeconds > (startMs - 5_000_000 + 2000) / 1000)
  expect(again.map((command) => command.key).sort()).toEqual([60, 64, 67])
})

test('what goes through the effects of a player and of a track is told while it is played', () => {
  const { window, input, run } = engineWorkshop([{ slots: [newSlot('transpose', 'b', { semitones: 12 })] }], {
    sourceChains: [{ portId: 'A', channel: 1, slots: [newSlot('chordInKey', 'a')] }],
  })
  const told = () => window.flatMap((message) => (message.type === 'activity' ? [message.flows] : [])).at(-1)
  input({ status: 0x90, data1: 60 })
  run(100)
  expect(told()).toEqual([
    { chain: { portId: 'A', channel: 1 }, slotId: 'a', goesIn: [60], comesOut: [60, 64, 67] },
    { chain: { trackId: 't0' }, slotId: 'b', goesIn: [60, 64, 67], comesOut: [72, 76, 79] },
  ])
  input({ status: 0x80, data1: 60 })
  run(100)
  expect(told()).toEqual([])
  const before = window.length
  run(500)
  expect(window.length).toBe(before)
})

test('what goes over a cable is what printing the cable gives, at its times', () => {
  const effects = [...fiveEffects, newSlot('dealVoices', 'f', { voices: 3, first: 4 })]
  const played = Array.from({ length: 24 }, (_, index) =>
    note(index + 1, index * 5040, 4000, 60 + (index % 5)),
  )
  const sendTo = { portId: cablePortId('Pier'), channel: null }
  const { project: seated, track } = newTrack(
    { ...emptyProject('p', 'Piece', 0), nextSerial: 100, tempos: [{ tick: 0, tempoBpm: 120 }] },
    {
      name: 'Lute',
      instrument: { kind: 'program', program: 24 },
      sendTo,
      effects,
      clips: [newClip('c', 'Played', played)],
    },
  )
  const generator = lanes(9, 'Pier')
  const project = { ...seated, generators: [generator] }
  const endTicks = 20 * 10_080
  const printed = printCable(project, 'Pier', { startTicks: 0, endTicks })
  const wanted = printed.printedTrackIds.flatMap((id) =>
    soundingNotes(printed.project.tracks.find((each) => each.id === id)!).map(
      (each) => [each.onsetTicks * msPerTick, each.channel, each.key, each.velocity] as const,
    ),
  )
  const { engine, ports, content, run, now } = engineWorkshop([
    { sendTo, slots: effects, channel: track.channel },
  ])
  content('t0', played)
  engine.receive({ type: 'generators', generators: [generator] })
  const startMs = now() + 120
  engine.receive({ type: 'play', fromTicks: 0, untilTicks: null, loop: null })
  run(endTicks * msPerTick + 400)
  const inOrder = (a: readonly number[], b: readonly number[]) =>
    a[1]! - b[1]! || a[2]! - b[2]! || a[0]! - b[0]!
  const sent = ports
    .filter(({ portId, bytes }) => portId === sendTo.portId && (bytes[0]! & 0xf0) === 0x90)
    .map(({ timeMs, bytes }) => [timeMs - startMs, (bytes[0]! & 15) + 1, bytes[1]!, bytes[2]!] as const)
    .filter(([timeMs]) => timeMs < endTicks * msPerTick - 0.01)
    .sort(inOrder)
  expect(sent.length).toBeGreaterThan(100)
  expect(sent.map((each) => each.slice(1))).toEqual(wanted.sort(inOrder).map((each) => each.slice(1)))
  for (const [index, [timeMs]] of sent.entries()) expect(Math.abs(timeMs - wanted[index]![0])).toBeLessThan(1)
})
