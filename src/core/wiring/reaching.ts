import { changeTrack } from '../project/commands'
import type { Project, Source, Track } from '../project/schema'
import { keysThatDiffer, listenersOf, type Route, reachOf } from '../routing/route'

/** The tracks a source reaches, whatever its channel. */
export function tracksOf(project: Project, source: Source): Track[] {
  const { portId, channel } = source.address
  return channel === null
    ? project.tracks.filter((track) => track.routes.some((route) => route.portId === portId))
    : listenersOf({ portId, channel }, project.tracks)
}

export function inWords(channel: number | null): string {
  return channel === null ? 'any channel' : `channel ${channel}`
}

export function changeRoutes(trackId: string, change: (routes: readonly Route[]) => Route[]) {
  return (project: Project) =>
    changeTrack(project, trackId, (track) => ({ ...track, routes: change(track.routes) }))
}

/** Tracks that one key of a source reaches together; a keyboard divided by key ranges is not meant. */
export function togetherReached(project: Project, source: Source): Track[] {
  const { portId, channel } = source.address
  const onPort = project.tracks.filter((track) => track.routes.some((route) => route.portId === portId))
  let most: Track[] = []
  for (const key of keysThatDiffer(portId, onPort)) {
    const reached = reachOf({ portId, channel: channel ?? 1 }, key, onPort)
    if (reached.length > most.length) most = reached.map((reach) => reach.track)
  }
  return most
}
