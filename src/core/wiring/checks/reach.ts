import { newTrack } from '../../project/create'
import type { Project, Source } from '../../project/schema'
import { plainRoute } from '../../routing/route'
import { lostVoices, seatVoices } from '../dealtVoices'
import { changeRoutes, inWords, togetherReached, tracksOf } from '../reaching'
import type { WiringRemark } from '../wiringRemark'

export function reachesNothing(project: Project, source: Source): WiringRemark[] {
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

export function voicesLost(project: Project, source: Source): WiringRemark[] {
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

export function drivesSeveral(project: Project, source: Source): WiringRemark[] {
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
