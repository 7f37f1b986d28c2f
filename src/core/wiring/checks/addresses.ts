import { newTrack } from '../../project/create'
import type { Project, Source } from '../../project/schema'
import { plainRoute } from '../../routing/route'
import { missingPorts, movePort } from '../portsInUse'
import { inWords } from '../reaching'
import type { RecentActivity, WiringRemark } from '../wiringRemark'

export function portsGone(project: Project, { ports }: RecentActivity): WiringRemark[] {
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

export function sharedAddress(project: Project): WiringRemark[] {
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
