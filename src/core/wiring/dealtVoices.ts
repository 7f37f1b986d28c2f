import { addressedChannels } from '../effects/address/channels'
import { newTrack } from '../project/create'
import type { Project, Source } from '../project/schema'
import { listenersOf, plainRoute } from '../routing/route'
import { nameWith } from '../text/bounded'

/** Channels that the effects of a source send notes to and that reach no track: those notes would be lost. */
export function lostVoices(project: Project, source: Source): readonly number[] {
  const { portId } = source.address
  return (addressedChannels(source.effects) ?? []).filter(
    (channel) => listenersOf({ portId, channel }, project.tracks).length === 0,
  )
}

/** Channels that the effects of a source send notes to and that have no track to themselves. */
export function voicesWithoutTrack(project: Project, source: Source): readonly number[] {
  const { portId } = source.address
  return (addressedChannels(source.effects) ?? []).filter(
    (channel) =>
      !project.tracks.some((track) =>
        track.routes.some((route) => route.portId === portId && route.channel === channel),
      ),
  )
}

/** Gives each dealt voice that has none a track to itself, with the instrument its source has now. */
export function seatVoices(project: Project, source: Source): Project {
  const { portId, channel: own } = source.address
  const channels = addressedChannels(source.effects) ?? []
  const instrument = listenersOf({ portId, channel: own ?? 1 }, project.tracks)[0]?.instrument ?? {
    kind: 'program' as const,
    program: 0,
  }
  return voicesWithoutTrack(project, source).reduce(
    (next, channel) =>
      newTrack(next, {
        name: nameWith(source.name, `, voice ${channels.indexOf(channel) + 1}`),
        instrument,
        routes: [plainRoute({ portId, channel })],
      }).project,
    project,
  )
}
