import { activeSlots, type EffectSlot } from '../effects/catalogue'
import { newTrack } from '../project/create'
import type { Project, Source } from '../project/schema'
import { listenersOf, plainRoute } from './route'

const lastChannel = 16

/** The channels on which the effects of a source send the voices they deal; none where they deal none. */
export function dealtChannels(slots: readonly EffectSlot[]): readonly number[] {
  const deal = activeSlots(slots).findLast((slot) => slot.kind === 'dealVoices')
  if (!deal) return []
  const first = Math.round(Number(deal.settings.first))
  const count = Math.min(Math.round(Number(deal.settings.voices)), lastChannel - first + 1)
  return Array.from({ length: count }, (_, voice) => first + voice)
}

/** Channels of dealt voices that reach no track: their notes would be lost. */
export function lostVoices(project: Project, source: Source): readonly number[] {
  const { portId } = source.address
  return dealtChannels(source.effects).filter(
    (channel) => listenersOf({ portId, channel }, project.tracks).length === 0,
  )
}

/** Channels of dealt voices that have no track to themselves. */
export function voicesWithoutTrack(project: Project, source: Source): readonly number[] {
  const { portId } = source.address
  return dealtChannels(source.effects).filter(
    (channel) =>
      !project.tracks.some((track) =>
        track.routes.some((route) => route.portId === portId && route.channel === channel),
      ),
  )
}

/** Gives each dealt voice that has none a track to itself, with the instrument its source has now. */
export function seatVoices(project: Project, source: Source): Project {
  const { portId, channel: own } = source.address
  const channels = dealtChannels(source.effects)
  const instrument = listenersOf({ portId, channel: own ?? 1 }, project.tracks)[0]?.instrument ?? {
    kind: 'program' as const,
    program: 0,
  }
  return voicesWithoutTrack(project, source).reduce(
    (next, channel) =>
      newTrack(next, {
        name: `${source.name}, voice ${channels.indexOf(channel) + 1}`,
        instrument,
        routes: [plainRoute({ portId, channel })],
      }).project,
    project,
  )
}
