import {
  type Generator,
  type GeneratorKind,
  type GeneratorWork,
  generatorPortId,
  streamsOf,
} from '../generators/generator'
import type { Lane } from '../generators/lane'
import type { InputAddress } from '../routing/address'
import { streamKey } from '../routing/address'
import { addSource } from './commands'
import { instrumentOf } from './create'
import type { Project, Source } from './schema'

export const generatorTitles: Readonly<
  Record<GeneratorKind, { readonly title: string; readonly says: string }>
> = {
  lanes: {
    title: 'Lanes of steps',
    says: 'Patterns that turn round and round, each at its own pace: steps you set, or pulses spread evenly.',
  },
  chords: { title: 'A chord player', says: 'A progression, typed as chord symbols, voiced and in a rhythm.' },
  accompaniment: {
    title: 'Bass, drums and comping',
    says: 'A chord chart with a feel: three players to play along with.',
  },
  typed: {
    title: 'Typed music',
    says: 'Parts written as text: ABC notation, or plain lists of pitches and lengths.',
  },
}

export function stepLane(id: string, name: string, fields: Partial<Lane> = {}): Lane {
  return {
    id,
    name,
    isOn: true,
    channel: 1,
    cable: null,
    rate: '1/8',
    direction: 'forwards',
    swing: 50,
    gate: 80,
    transpose: 0,
    force: 100,
    chance: 100,
    movements: [],
    pattern: {
      kind: 'steps',
      steps: [60, null, 67, 72, null, 64, 67, null].map((key) => ({
        key,
        velocity: 88,
        isTied: false,
        chance: 100,
      })),
    },
    ...fields,
  }
}

const exampleChart = '|: Dm7 | G7 | Cmaj7 | Am7 :|\n'
const exampleText =
  'part Bell, channel 1, program 15\nE5 1/8 G5 B5 1/4 | A5 1/8 F#5 D5 1/4\n\npart Low water, channel 2, program 33\nE2 1/4. B2 1/8 E2 1/4 r\n'

function exampleOf(kind: GeneratorKind, name: string): GeneratorWork {
  switch (kind) {
    case 'lanes':
      return {
        kind,
        lanes: [
          stepLane('lane-1', `${name}, steps`),
          stepLane('lane-2', `${name}, pulses`, {
            channel: 10,
            rate: '1/16',
            pattern: { kind: 'euclid', pulses: 5, steps: 16, rotation: 0, key: 75, velocity: 84, accent: 16 },
          }),
        ],
      }
    case 'chords':
      return {
        kind,
        chart: exampleChart,
        voicing: 'close',
        rhythm: 'pushed',
        strumMs: 8,
        middleKey: 60,
        gate: 92,
        velocity: 78,
        channel: 1,
        startBar: 1,
        choruses: 4,
      }
    case 'accompaniment':
      return {
        kind,
        chart: exampleChart,
        feel: 'swing',
        countInBars: 0,
        choruses: 4,
        startBar: 1,
        bassChannel: 2,
        drumsChannel: 10,
        compingChannel: 3,
      }
    case 'typed':
      return { kind, language: 'lists', text: exampleText, gate: 90, startBar: 1 }
  }
}

/** A new generator with something to hear, its streams as sources with tracks of their own. */
export function addGenerator(
  project: Project,
  kind: GeneratorKind,
): { project: Project; generator: Generator } {
  const serial = project.nextSerial
  const names = { lanes: 'Lanes', chords: 'Chords', accompaniment: 'Band', typed: 'Typed' }
  const count = project.generators.filter((each) => each.work.kind === kind).length
  const name = count > 0 ? `${names[kind]} ${count + 1}` : names[kind]
  const generator: Generator = {
    id: `generator-${serial}`,
    name,
    isPlaying: true,
    seed: serial,
    isSeedKept: true,
    earlierSeeds: [],
    work: exampleOf(kind, name),
  }
  const added = { ...project, nextSerial: serial + 1, generators: [...project.generators, generator] }
  return { project: seatStreams(added, generator), generator }
}

/** Changes a generator; streams that are new get a source and a track, those that are gone lose their source. */
export function changeGenerator(
  project: Project,
  generatorId: string,
  change: (generator: Generator) => Generator,
): Project {
  const before = project.generators.find((generator) => generator.id === generatorId)
  if (!before) return project
  const after = change(before)
  const next = {
    ...project,
    generators: project.generators.map((generator) => (generator.id === generatorId ? after : generator)),
  }
  return before.work === after.work && before.name === after.name ? next : seatStreams(next, after, before)
}

/** Takes a generator away with its sources; its tracks stay, with what is on them, unless they are empty. */
export function removeGenerator(project: Project, generatorId: string): Project {
  const portId = generatorPortId(generatorId)
  const without = sendHome(
    project,
    project.sources.filter((source) => source.address.portId === portId),
  )
  return { ...without, generators: without.generators.filter((generator) => generator.id !== generatorId) }
}

/** Takes sources away, with the ways that lead from them; a track that heard nobody else and is empty goes too. */
function sendHome(project: Project, sources: readonly Source[]): Project {
  const isGone = (route: InputAddress) =>
    sources.some(({ address }) => address.portId === route.portId && address.channel === route.channel)
  return {
    ...project,
    sources: project.sources.filter((source) => !sources.includes(source)),
    tracks: project.tracks
      .filter((track) => track.clips.length > 0 || track.routes.length === 0 || !track.routes.every(isGone))
      .map((track) =>
        track.routes.some(isGone)
          ? { ...track, routes: track.routes.filter((route) => !isGone(route)) }
          : track,
      ),
  }
}

/** @param before the generator as it was, where it was changed: names that were not given by hand follow it */
function seatStreams(project: Project, generator: Generator, before?: Generator): Project {
  const portId = generatorPortId(generator.id)
  const streams = streamsOf(generator)
  const gone = project.sources.filter(
    ({ address }) =>
      address.portId === portId && !streams.some((stream) => stream.channel === address.channel),
  )
  let next = sendHome(project, gone)
  const oldNames = new Map(before && streamsOf(before).map((stream) => [stream.channel, stream.name]))
  for (const stream of streams) {
    const id = streamKey({ portId, channel: stream.channel })
    const isHeard = next.tracks.some((track) =>
      track.routes.some((route) => route.portId === portId && route.channel === stream.channel),
    )
    const source = {
      id,
      name: stream.name,
      kind: 'generator' as const,
      address: { portId, channel: stream.channel },
      description: generatorTitles[generator.work.kind].title.toLowerCase(),
      portName: generator.name,
      group: streams.length > 1 ? generator.name : '',
      compensationMs: 0,
      soundInput: null,
      effects: [],
    }
    const known = next.sources.find((each) => each.id === id)
    if (known)
      next = {
        ...next,
        sources: next.sources.map((each) =>
          each.id === id
            ? {
                ...each,
                name: each.name === oldNames.get(stream.channel) ? source.name : each.name,
                portName: source.portName,
                group: source.group,
              }
            : each,
        ),
      }
    else if (isHeard) next = { ...next, sources: [...next.sources, source] }
    else next = addSource(next, source, instrumentOf(stream))
  }
  return next
}
