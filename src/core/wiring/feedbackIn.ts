import { chainOf } from '../project/printing'
import type { Project, Track } from '../project/schema'
import { feedbackRing } from '../routing/feedback'

/** A ring of tracks of a piece in which each sends what the next one hears; empty when there is none. */
export function feedbackIn({ tracks }: Pick<Project, 'tracks'>): Track[] {
  const sending = tracks.map((track) => ({ ...track, ...chainOf(track), track }))
  return feedbackRing(sending).map(({ track }) => track)
}
