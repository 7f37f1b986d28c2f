import { changeTrack } from '../project/commands'
import { newTrack } from '../project/create'
import type { Project, Source, Track } from '../project/schema'
import { ringInWords } from '../routing/feedback'
import { cableName, type KnownPort } from '../routing/ports'
import type { Route } from '../routing/route'
import { keysThatDiffer, listenersOf, plainRoute, reachOf } from '../routing/route'
import { lostVoices, seatVoices } from './dealtVoices'
import { feedbackIn } from './feedbackIn'
import { missingPorts, movePort } from './portsInUse'

/** Something in the wiring that will surprise, in a sentence, with its remedies. */
export interface WiringRemark {
  /** The same for the same matter, so that it can be said to be meant so. */
  readonly id: string
  readonly head: string
  readonly text: string
  /** Whom it is about: where it is shown. */
  readonly sourceIds: readonly string[]
  readonly trackIds: readonly string[]
  readonly fixes: readonly { readonly label: string; readonly change: (project: Project) => Project }[]
}

/** What was seen of the world lately. */
export interface RecentActivity {
  /** MIDI ports that are there; null where the browser has none to tell of. */
  readonly ports: readonly KnownPort[] | null
  /** Note-ons heard from each stream since the project was opened. */
  readonly streams: readonly {
    readonly portId: string
    readonly channel: number
    readonly noteOns: number
  }[]
  /** Cables that a program outside reads. */
  readonly readCables: readonly string[]
}

export const nothingSeen: RecentActivity = { ports: null, streams: [], readCables: [] }

/** So many notes of others make a player who played none worth a remark. */
const notesOfOthers = 60

/**
 * Looks over the wiring: every source, every track, every way between them. Each check is a function of its own over the
 * set-up and what was seen lately.
 */
export function checkWiring(project: Project, activity: RecentActivity = nothingSeen): WiringRemark[] {
  return [
    ...feedback(project),
    ...portsGone(project, activity),
    ...project.sources.flatMap((source) => [
      ...reachesNothing(project, source),
      ...voicesLost(project, source),
      ...drivesSeveral(project, source),
      ...silentLinks(project, source),
      ...wrongKindOfInstrument(project, source),
      ...unused(source, activity),
    ]),
    ...sharedAddress(project),
    ...project.tracks.flatMap((track) => [
      ...severalPlayers(project, track),
      ...cableNobodyReads(project, track, activity),
    ]),
  ].filter((remark) => !project.acceptedRemarks.includes(remark.id))
}

/** The tracks a source reaches, whatever its channel. */
export function tracksOf(project: Project, source: Source): Track[] {
  const { portId, channel } = source.address
  return channel === null
    ? project.tracks.filter((track) => track.routes.some((route) => route.portId === portId))
    : listenersOf({ portId, channel }, project.tracks)
}

function inWords(channel: number | null): string {
  return channel === null ? 'any channel' : `channel ${channel}`
}

function changeRoutes(trackId: string, change: (routes: readonly Route[]) => Route[]) {
  return (project: Project) =>
    changeTrack(project, trackId, (track) => ({ ...track, routes: change(track.routes) }))
}

function feedback(project: Project): WiringRemark[] {
  const ring = feedbackIn(project)
  const last = ring.at(-1)
  if (!last) return []
  return [
    {
      id: `feedback ${ring
        .map((track) => track.id)
        .sort()
        .join(' ')}`,
      head: 'Feedback.',
      text: `${ringInWords(ring)}: each sends what the next one hears, so notes would multiply. Nothing is sent there until it is mended.`,
      sourceIds: [],
      trackIds: ring.map((track) => track.id),
      fixes: [
        {
          label: `Let ${last.name} send nothing`,
          change: (before) => changeTrack(before, last.id, (track) => ({ ...track, sendTo: null })),
        },
      ],
    },
  ]
}

function portsGone(project: Project, { ports }: RecentActivity): WiringRemark[] {
  if (!ports) return []
  const inUse = new Set(project.sources.map((source) => source.address.portId))
  return missingPorts(project, ports).map((missing) => {
    const players = project.sources.filter((source) => source.address.portId === missing.id)
    return {
      id: `port gone ${missing.id}`,
      head: `${players.map((source) => source.name).join(' and ')} cannot be heard.`,
      text: `The port “${missing.name}” is not connected. Plug it in and it takes up its old place, or take another port for it.`,
      sourceIds: players.map((source) => source.id),
      trackIds: [],
      fixes: ports
        .filter((port) => !inUse.has(port.id))
        .slice(0, 3)
        .map((port) => ({
          label: `Use ${port.name}`,
          change: (before: Project) => movePort(before, missing.id, port),
        })),
    }
  })
}

function reachesNothing(project: Project, source: Source): WiringRemark[] {
  const { portId, channel } = source.address
  if (tracksOf(project, source).length > 0) return []
  const own = {
    label: `Give ${source.name} a track`,
    change: (before: Project) =>
      newTrack(before, {
        name: source.name,
        instrument: channel === 10 ? { kind: 'drums' } : { kind: 'program', program: 0 },
        routes: [plainRoute(source.address)],
      }).project,
  }
  // A track on the same port that nobody reaches was probably meant for this player.
  const orphan = project.tracks.find((track) =>
    track.routes.some(
      (route) =>
        route.portId === portId &&
        route.channel !== null &&
        !project.sources.some(
          (other) => other.address.portId === portId && other.address.channel === route.channel,
        ),
    ),
  )
  const heard = orphan?.routes.find((route) => route.portId === portId)
  const about = { id: `unheard ${source.id}`, sourceIds: [source.id] }
  if (orphan && heard)
    return [
      {
        ...about,
        head: `${orphan.name} is silent.`,
        text: `The track listens to ${inWords(heard.channel)}, but ${source.name} sends on ${inWords(channel)}.`,
        trackIds: [orphan.id],
        fixes: [
          {
            label: `Listen to ${inWords(channel)}`,
            change: changeRoutes(orphan.id, (routes) =>
              routes.map((route) => (route === heard ? { ...route, channel } : route)),
            ),
          },
          own,
        ],
      },
    ]
  return [
    {
      ...about,
      head: `${source.name} reaches no track.`,
      text: `No track listens to ${inWords(channel)} of that port.`,
      trackIds: [],
      fixes: [own],
    },
  ]
}

function voicesLost(project: Project, source: Source): WiringRemark[] {
  const channels = lostVoices(project, source)
  if (channels.length === 0) return []
  const listed = channels.length === 1 ? `channel ${channels[0]}` : `channels ${inSeries(channels)}`
  return [
    {
      id: `voices lost ${source.id}`,
      head: `Notes of ${source.name} reach no track.`,
      text: `Its effects send to ${listed}, and no track listens there.`,
      sourceIds: [source.id],
      trackIds: [],
      fixes: [{ label: 'A track for each voice', change: (before) => seatVoices(before, source) }],
    },
  ]
}

function inSeries(numbers: readonly number[]): string {
  return `${numbers.slice(0, -1).join(', ')} and ${numbers.at(-1)}`
}

/** Tracks that one key of a source reaches together; a keyboard divided by key ranges is not meant. */
function togetherReached(project: Project, source: Source): Track[] {
  const { portId, channel } = source.address
  const onPort = project.tracks.filter((track) => track.routes.some((route) => route.portId === portId))
  let most: Track[] = []
  for (const key of keysThatDiffer(portId, onPort)) {
    const reached = reachOf({ portId, channel: channel ?? 1 }, key, onPort)
    if (reached.length > most.length) most = reached.map((reach) => reach.track)
  }
  return most
}

function drivesSeveral(project: Project, source: Source): WiringRemark[] {
  const tracks = togetherReached(project, source)
  const [first, ...others] = tracks
  if (!first || others.length === 0) return []
  const { portId, channel } = source.address
  return [
    {
      id: `drives several ${source.id} ${tracks.map((track) => track.id).join(' ')}`,
      head: `${source.name} drives ${tracks.length} tracks.`,
      text: `${tracks.map((track) => track.name).join(' and ')} ${tracks.length === 2 ? 'both' : 'all'} listen to it.`,
      sourceIds: [source.id],
      trackIds: tracks.map((track) => track.id),
      fixes: [
        {
          label: `Keep only ${first.name}`,
          change: (before) =>
            others.reduce(
              (next, track) =>
                changeRoutes(track.id, (routes) =>
                  routes.filter(
                    (route) =>
                      route.portId !== portId || (route.channel !== channel && route.channel !== null),
                  ),
                )(next),
              before,
            ),
        },
      ],
    },
  ]
}

/** The first link on the way to a track that keeps it silent or unrecorded. */
function silentLinks(project: Project, source: Source): WiringRemark[] {
  const hasSolo = project.tracks.some((track) => track.isSolo)
  return tracksOf(project, source).flatMap((track): WiringRemark[] => {
    const link = silentLink(track, hasSolo)
    if (!link) return []
    return [
      {
        id: `${link.id} ${track.id}`,
        head: `${track.name} ${link.what}.`,
        text: `${source.name} reaches it, but ${link.why}.`,
        sourceIds: [source.id],
        trackIds: [track.id],
        fixes: [{ label: link.fix, change: (before) => changeTrack(before, track.id, link.change) }],
      },
    ]
  })
}

interface SilentLink {
  readonly id: string
  readonly what: 'is silent' | 'is not recorded'
  readonly why: string
  readonly fix: string
  readonly change: (track: Track) => Track
}

function silentLink(track: Track, hasSolo: boolean): SilentLink | null {
  const silent = (id: string, why: string, fix: string, change: SilentLink['change']): SilentLink => ({
    id,
    what: 'is silent',
    why,
    fix,
    change,
  })
  if (track.isMuted)
    return silent('muted', 'it is muted', `Unmute ${track.name}`, (old) => ({ ...old, isMuted: false }))
  if (hasSolo && !track.isSolo)
    return silent('not solo', 'another track plays solo', `Let ${track.name} be heard too`, (old) => ({
      ...old,
      isSolo: true,
    }))
  if (track.volume === 0)
    return silent('volume', 'its volume is zero', `Turn ${track.name} up`, (old) => ({ ...old, volume: 0.8 }))
  if (track.instrument.kind === 'none' && !track.sendTo)
    return silent('no instrument', 'it has no instrument and sends to no port', 'Give it a piano', (old) => ({
      ...old,
      instrument: { kind: 'program', program: 0 },
    }))
  if (track.monitor === 'off')
    return silent('not monitored', 'what arrives is not monitored', `Hear ${track.name}`, (old) => ({
      ...old,
      monitor: 'always',
    }))
  if (!track.isArmed)
    return {
      id: 'not armed',
      what: 'is not recorded',
      why: track.monitor === 'armed' ? 'it is not armed, so it is silent too' : 'it is not armed',
      fix: `Arm ${track.name}`,
      change: (old) => ({ ...old, isArmed: true }),
    }
  return null
}

/** Channel 10 is percussion by General MIDI; any other choice is allowed, and can be said to be meant. */
function wrongKindOfInstrument(project: Project, source: Source): WiringRemark[] {
  const { channel } = source.address
  return tracksOf(project, source).flatMap((track): WiringRemark[] => {
    const isDrumTrack = track.instrument.kind === 'drums'
    const sendsDrums = channel === 10
    if (channel === null || isDrumTrack === sendsDrums || track.instrument.kind === 'none') return []
    return [
      {
        id: `instrument ${source.id} ${track.id}`,
        head: sendsDrums
          ? `${source.name} plays drums on a pitched instrument.`
          : `${source.name} plays on a drum kit.`,
        text: sendsDrums
          ? `It sends on channel 10, the drums’ channel; ${track.name} sounds as a pitched instrument.`
          : `It sends on channel ${channel}, but ${track.name} has a drum kit.`,
        sourceIds: [source.id],
        trackIds: [track.id],
        fixes: [
          {
            label: sendsDrums ? 'Take the drum kit' : 'Take a piano',
            change: (before) =>
              changeTrack(before, track.id, (old) => ({
                ...old,
                instrument: sendsDrums ? { kind: 'drums' } : { kind: 'program', program: 0 },
              })),
          },
        ],
      },
    ]
  })
}

function unused(source: Source, { streams }: RecentActivity): WiringRemark[] {
  const isOfSource = (stream: RecentActivity['streams'][number]) =>
    stream.portId === source.address.portId && (source.address.channel ?? stream.channel) === stream.channel
  if (streams.some(isOfSource) || source.kind === 'computerKeyboard') return []
  if (streams.reduce((sum, stream) => sum + stream.noteOns, 0) < notesOfOthers) return []
  return [
    {
      id: `unused ${source.id}`,
      head: `${source.name} has not played yet.`,
      text: 'The others have. Is it switched on and on its channel?',
      sourceIds: [source.id],
      trackIds: [],
      fixes: [
        {
          label: 'Take it off the list',
          change: (before) => ({
            ...before,
            sources: before.sources.filter((other) => other.id !== source.id),
          }),
        },
      ],
    },
  ]
}

function sharedAddress(project: Project): WiringRemark[] {
  const byAddress = new Map<string, Source[]>()
  for (const source of project.sources) {
    const address = `${source.address.channel} ${source.address.portId}`
    byAddress.set(address, [...(byAddress.get(address) ?? []), source])
  }
  return [...byAddress.entries()].flatMap(([address, sources]): WiringRemark[] => {
    if (sources.length < 2) return []
    const { portId, channel } = sources[0]!.address
    const used = project.sources
      .filter((source) => source.address.portId === portId)
      .map((source) => source.address.channel)
    const free = Array.from({ length: 16 }, (_, index) => index + 1).find(
      (candidate) => candidate !== 10 && !used.includes(candidate),
    )
    const second = sources[1]!
    return [
      {
        id: `shared address ${address}`,
        head: `${sources.map((source) => source.name).join(' and ')} cannot be told apart.`,
        text: `Both send on ${inWords(channel)} of one port. Give one of them another channel on the device, and here; or divide the keyboard between two tracks by key range.`,
        sourceIds: sources.map((source) => source.id),
        trackIds: [],
        fixes:
          free === undefined
            ? []
            : [
                {
                  label: `Expect ${second.name} on channel ${free}`,
                  change: (before) => {
                    const address = { portId, channel: free }
                    const moved = {
                      ...before,
                      sources: before.sources.map((source) =>
                        source.id === second.id ? { ...source, address } : source,
                      ),
                    }
                    return newTrack(moved, {
                      name: second.name,
                      instrument: { kind: 'program', program: 0 },
                      routes: [plainRoute(address)],
                    }).project
                  },
                },
              ],
      },
    ]
  })
}

function severalPlayers(project: Project, track: Track): WiringRemark[] {
  // One way in from one channel is one player.
  if (track.routes.length < 2 && track.routes.every((route) => route.channel !== null)) return []
  const players = project.sources.filter((source) =>
    togetherReached(project, source).some((reached) => reached.id === track.id),
  )
  const addresses = new Set(players.map((source) => `${source.address.channel} ${source.address.portId}`))
  if (addresses.size < 2) return []
  const [first, ...others] = players
  return [
    {
      id: `several players ${track.id} ${players.map((source) => source.id).join(' ')}`,
      head: `${players.length} players share ${track.name}.`,
      text: `${players.map((source) => source.name).join(' and ')} land in one track, on one instrument.`,
      sourceIds: players.map((source) => source.id),
      trackIds: [track.id],
      fixes: [
        {
          label: 'Give each a track',
          change: (before) => {
            const kept = changeRoutes(track.id, () => [plainRoute(first!.address)])(before)
            return others.reduce(
              (next, source) =>
                newTrack(next, {
                  name: source.name,
                  instrument: track.instrument,
                  routes: [plainRoute(source.address)],
                }).project,
              kept,
            )
          },
        },
      ],
    },
  ]
}

function cableNobodyReads(project: Project, track: Track, { readCables }: RecentActivity): WiringRemark[] {
  const cable = track.sendTo && cableName(track.sendTo.portId)
  if (!cable || !track.sendTo) return []
  const isReadHere = project.tracks.some((other) =>
    other.routes.some((route) => route.portId === track.sendTo!.portId),
  )
  if (isReadHere || readCables.includes(cable)) return []
  return [
    {
      id: `unread ${track.id} ${cable}`,
      head: `Nobody reads the cable “${cable}”.`,
      text: `${track.name} sends to it. Open the other program and let it read this cable.`,
      sourceIds: [],
      trackIds: [track.id],
      fixes: [
        {
          label: 'Send nothing',
          change: (before) => changeTrack(before, track.id, (old) => ({ ...old, sendTo: null })),
        },
      ],
    },
  ]
}
