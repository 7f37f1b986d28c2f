import { readFileSync } from 'node:fs'
import { findBars } from '../src/core/beats/findBars'
import type { Note } from '../src/core/event/note'
import { packNotes } from '../src/core/event/noteColumns'
import { midiToProject } from '../src/core/formats/midiToProject'
import { writeMusicXml } from '../src/core/formats/musicXml'
import { openFile } from '../src/core/formats/openFile'
import { type Generator, generatorPortId } from '../src/core/generators/generator'
import { readMidiFile } from '../src/core/midi/standardMidiFile/read'
import { soundingNotes } from '../src/core/project/create'
import { stepLane } from '../src/core/project/generatorCommands'
import { headingsOf, scoreOf } from '../src/core/project/onPage'
import { plainRoute } from '../src/core/routing/route'
import { splitByChannel } from '../src/core/separation/splitFile'
import { takeApart } from '../src/core/separation/takeApart'
import type { EngineTrack } from '../src/engine/protocol'
import { SampledSynth } from '../src/engine/synth/sampledSynth'
import { Engine } from '../src/engine/transport/engine'
import { emptySetup } from '../src/engine/transport/engineNow'
import { engineTrack } from '../src/engine/transport/engineTrack.testing'
import { effectFigures } from './effects'
import { atMost, type Figure, median, workAtMost } from './figure'
import { denseFile, performedPiece, repeatedLines, tenMinutesPlayedFreely } from './pieces'

const identity = { id: 'bench', name: 'Bench', nowMs: 0 }

/** Median of a few runs. */
function timed(runs: number, work: () => void): number {
  const times: number[] = []
  for (let run = 0; run < runs; run++) {
    const start = performance.now()
    work()
    times.push(performance.now() - start)
  }
  return median(times)
}

export async function coreFigures(): Promise<Figure[]> {
  const dense = denseFile(100_000)
  const split = timed(5, () => {
    const file = readMidiFile(dense)
    midiToProject(file, identity)
    splitByChannel(file)
  })
  const piece = performedPiece(8, 130, true)
  const { project } = midiToProject(readMidiFile(piece.bytes), identity)
  const perTenThousand = 10_000 / piece.notes
  const written = timed(5, () => {
    writeMusicXml(scoreOf(project), headingsOf(project))
  })
  const everything = timed(5, () => {
    const reading = { ...project.scoreSettings, followsHands: true }
    writeMusicXml(scoreOf({ ...project, scoreSettings: reading }), headingsOf(project))
  })
  const free = tenMinutesPlayedFreely()
  const barred = timed(3, () => {
    findBars(free)
  })
  const lines = repeatedLines(10_000)
  const apart = timed(3, () => {
    takeApart(lines, { by: 'voice', voices: 'found' }, 0.08)
  })
  return [
    workAtMost(
      'separate 10,000 notes of four lines by voice, their number found too (no thread between)',
      apart,
      'ms',
      1000,
    ),
    workAtMost('import and split by channel, 100,000 notes', split, 'ms', 500),
    workAtMost(
      `performance to MusicXML, scaled to 10,000 notes from ${piece.notes}`,
      written * perTenThousand,
      'ms',
      1000,
    ),
    workAtMost(
      `performance to MusicXML with everything on, hands followed too, scaled to 10,000 notes from ${piece.notes}`,
      everything * perTenThousand,
      'ms',
      1500,
    ),
    workAtMost(
      `beats and bars of a free performance of ten minutes (${free.length} notes; no thread between)`,
      barred,
      'ms',
      3000,
    ),
    ...(await renderedOnsets()),
    await renderedLanes(),
    ...effectFigures(),
  ]
}

/** An engine and a synthesiser with the drum kit, rendered without a browser. */
async function drumRoom(tempoBpm: number, tracks: readonly EngineTrack[]) {
  const rate = 44_100
  const file = readFileSync('public/instruments/drums.sf3')
  const synth = new SampledSynth(rate)
  await synth.ready()
  synth.addBank('drums', file.buffer.slice(file.byteOffset, file.byteOffset + file.byteLength) as ArrayBuffer)
  for (const track of tracks) {
    synth.setInstrument(track.synthChannel, 'drums')
    synth.setLevel(track.synthChannel, 1, 0)
  }
  let nowMs = 1_000_000
  const engine = new Engine({
    nowMs: () => nowMs,
    toSynth: (message) => {
      if (message.type === 'commands') synth.scheduleRows(message.rows)
      if (message.type === 'cancel') synth.cancel(message.synthChannels)
    },
    toWindow: () => undefined,
    toPorts: () => undefined,
    journal: { begin: async () => undefined, append: async () => nowMs, finish: async () => undefined },
  })
  engine.receive({ type: 'clock', sample: { contextSeconds: 0, epochMs: 1_000_000 } })
  engine.receive({
    type: 'setup',
    setup: {
      ...emptySetup,
      tracks,
      tempos: [{ tick: 0, tempoBpm }],
      meters: [{ tick: 0, numerator: 4, denominator: 4 }],
      countInBars: 0,
      click: { ...emptySetup.click, isOn: false },
    },
  })
  /**
   * How far the hits lie from where they are due: what all have in common (the attack of the sample is part of it), and how
   * far single ones are from that.
   */
  const play = (
    seconds: number,
    dueTicks: readonly number[],
  ): { readonly constantMs: number; readonly spreadMs: number } => {
    engine.receive({ type: 'play', fromTicks: 0, untilTicks: null, loop: null })
    const msPerTick = 60_000 / tempoBpm / 10_080
    const audio = new Float32Array(Math.ceil((seconds * rate) / 128) * 128)
    const right = new Float32Array(128)
    for (let frame = 0; frame < audio.length; frame += 128) {
      nowMs = 1_000_000 + (frame / rate) * 1000
      if (frame % 256 === 0) engine.tick()
      right.fill(0)
      synth.render(audio.subarray(frame, frame + 128), right, frame / rate)
    }
    // The engine starts 120 ms after the command; the side stick's own attack is taken from all hits.
    const startMs = 120
    const found: number[] = []
    for (const ticks of dueTicks) {
      const dueMs = startMs + ticks * msPerTick
      const from = Math.floor(((dueMs - 20) / 1000) * rate)
      for (let frame = Math.max(0, from); frame < audio.length; frame++)
        if (Math.abs(audio[frame]!) > 0.02) {
          found.push((frame / rate) * 1000 - dueMs)
          break
        }
    }
    if (found.length < dueTicks.length) return { constantMs: Infinity, spreadMs: Infinity }
    const constantMs = median(found)
    return { constantMs, spreadMs: Math.max(...found.map((difference) => Math.abs(difference - constantMs))) }
  }
  return { engine, play }
}

const sideStick = 37

/** Plays a drum track through the engine and the synthesiser, and finds each onset in the rendered audio. */
async function renderedOnsets(): Promise<Figure[]> {
  const { engine, play } = await drumRoom(97, [engineTrack('t', 1)])
  const hits = Array.from(
    { length: 48 },
    (_, index): Note => ({
      id: index + 1,
      onsetTicks: index * 6720,
      durationTicks: 3000,
      key: sideStick,
      velocity: 127,
      releaseVelocity: 64,
      channel: 10,
      origin: { kind: 'drawn' },
    }),
  )
  engine.receive({ type: 'trackContent', trackId: 't', notes: packNotes(hits), controllers: [] })
  const { constantMs, spreadMs } = play(
    22,
    hits.map((hit) => hit.onsetTicks),
  )
  return [
    atMost(
      `playback onset against the schedule, from audio rendered without a browser, simulated clock: differences between ${hits.length} hits`,
      spreadMs,
      'ms',
      1,
    ),
    atMost(
      'the same: what all hits have in common, with the attack of the sample',
      Math.abs(constantMs),
      'ms',
      5,
    ),
  ]
}

/** Sixteen lanes, each on a track of its own and each striking on another step, so that every hit can be told apart. */
async function renderedLanes(): Promise<Figure> {
  const channels = Array.from({ length: 16 }, (_, index) => index + 1)
  const portId = generatorPortId('g')
  const { engine, play } = await drumRoom(
    97,
    channels.map((channel) =>
      engineTrack(`t${channel}`, channel, { routes: [plainRoute({ portId, channel })] }),
    ),
  )
  const lanes = channels.map((channel) =>
    stepLane(`lane-${channel}`, `Lane ${channel}`, {
      channel,
      rate: '1/4 dotted',
      gate: 30,
      pattern: {
        kind: 'euclid',
        pulses: 1,
        steps: 16,
        rotation: 1 - channel,
        key: sideStick,
        velocity: 127,
        accent: 0,
      },
    }),
  )
  const generator: Generator = {
    id: 'g',
    name: 'Lanes',
    isPlaying: true,
    seed: 1,
    isSeedKept: true,
    earlierSeeds: [],
    work: { kind: 'lanes', lanes },
  }
  engine.receive({ type: 'generators', generators: [generator] })
  const hits = Array.from({ length: 32 }, (_, index) => index * 15_120)
  return atMost(
    `scheduled output of 16 generator lanes against the grid, from rendered audio, simulated clock: differences between ${hits.length} hits`,
    play(31, hits).spreadMs,
    'ms',
    1,
  )
}

/** MusicXML of 30,000 notes: brought in, with its tracks and its page, and written with all that is done before it is offered. */
export async function notationFiles(): Promise<Figure[]> {
  const { bytes } = performedPiece(30, 122, true)
  const played = midiToProject(readMidiFile(bytes), identity).project
  const project = { ...played, scoreSettings: { ...played.scoreSettings, readsClefs: false } }
  const file = new TextEncoder().encode(writeMusicXml(scoreOf(project), headingsOf(project)))
  // The first time counts: nobody brings a piece in twice.
  const start = performance.now()
  const opened = openFile(file, identity)
  const score = scoreOf(opened.project)
  const inMs = performance.now() - start
  const notes = opened.project.tracks.reduce((sum, track) => sum + soundingNotes(track).length, 0)
  if (score.parts.length !== 30) throw new Error('Parts are missing')
  const perThirtyThousand = 30_000 / notes
  return [
    workAtMost('MusicXML of 30,000 notes in: read, tracks and page', inMs * perThirtyThousand, 'ms', 2000),
  ]
}
