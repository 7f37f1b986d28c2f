import { changeTrack } from '../../project/commands'
import type { Project, Track } from '../../project/schema'
import { ringInWords } from '../../routing/feedback'
import { cableName } from '../../routing/ports'
import { feedbackIn } from '../feedbackIn'
import type { RecentActivity, WiringRemark } from '../wiringRemark'

export function feedback(project: Project): WiringRemark[] {
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

export function cableNobodyReads(
  project: Project,
  track: Track,
  { readCables }: RecentActivity,
): WiringRemark[] {
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
