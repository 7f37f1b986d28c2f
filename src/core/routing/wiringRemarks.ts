import { addTrack, changeTrack } from '../project/commands'
import type { Project } from '../project/schema'
import { listenersOf } from './route'

/** Something in the wiring that will surprise, in a sentence, with its remedy. */
export interface WiringRemark {
  readonly head: string
  readonly text: string
  readonly fixLabel: string
  readonly fix: (project: Project) => Project
}

/** Looks at the set-up alone: sources nobody listens to, tracks that are muted, one player driving several tracks. */
export function wiringRemarks(project: Project): WiringRemark[] {
  const remarks: WiringRemark[] = []
  for (const source of project.sources) {
    const { portId, channel } = source.address
    if (channel === null) continue
    const listeners = listenersOf({ portId, channel }, project.tracks)
    if (listeners.length === 0)
      remarks.push({
        head: `${source.name} reaches no track.`,
        text: `No track listens to channel ${channel} of that port.`,
        fixLabel: `Give ${source.name} a track`,
        fix: (before) =>
          addTrack(before, {
            name: source.name,
            instrument: { kind: 'program', program: 0 },
            input: source.address,
          }),
      })
    if (listeners.length > 1)
      remarks.push({
        head: `${source.name} drives ${listeners.length} tracks.`,
        text: `${listeners.map((track) => track.name).join(' and ')} both listen to it.`,
        fixLabel: `Keep only ${listeners[0]!.name}`,
        fix: (before) =>
          listeners.slice(1).reduce(
            (next, track) =>
              changeTrack(next, track.id, (old) => ({
                ...old,
                input: { portId: 'nobody', channel: null },
              })),
            before,
          ),
      })
    const muted = listeners.find((track) => track.isMuted)
    if (muted)
      remarks.push({
        head: `${muted.name} is silent.`,
        text: `${source.name} reaches it, but it is muted.`,
        fixLabel: `Unmute ${muted.name}`,
        fix: (before) => changeTrack(before, muted.id, (old) => ({ ...old, isMuted: false })),
      })
  }
  return remarks
}
