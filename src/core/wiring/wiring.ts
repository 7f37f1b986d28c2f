import type { Project } from '../project/schema'
import { portsGone, sharedAddress } from './checks/addresses'
import { cableNobodyReads, feedback } from './checks/cables'
import { severalPlayers, unused } from './checks/players'
import { drivesSeveral, reachesNothing, voicesLost } from './checks/reach'
import { silentLinks, wrongKindOfInstrument } from './checks/sound'
import { nothingSeen, type RecentActivity, type WiringRemark } from './wiringRemark'

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
