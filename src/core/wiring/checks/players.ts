import { newTrack } from '../../project/create'
import type { Project, Source, Track } from '../../project/schema'
import { plainRoute } from '../../routing/route'
import { changeRoutes, togetherReached } from '../reaching'
import type { RecentActivity, WiringRemark } from '../wiringRemark'

/** So many notes of others make a player who played none worth a remark. */
const notesOfOthers = 60

export function unused(source: Source, { streams }: RecentActivity): WiringRemark[] {
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

export function severalPlayers(project: Project, track: Track): WiringRemark[] {
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
