import type { Project } from '../project/schema'
import type { InputAddress } from '../routing/address'
import { cableName, type KnownPort } from '../routing/ports'

/** What a stream is called: by its player, or else by its cable or port and channel. */
export function streamName(
  project: Pick<Project, 'sources'>,
  { portId, channel }: { readonly portId: string; readonly channel: number },
): string {
  const source = project.sources.find(
    ({ address }) => address.portId === portId && (address.channel ?? channel) === channel,
  )
  return source?.name ?? `${cableName(portId) ?? 'a port'}, channel ${channel}`
}

/** Points everything that refers to one port to another: sources, routes, sends and clocks. */
export function movePort(project: Project, fromPortId: string, to: KnownPort): Project {
  const at = <Address extends InputAddress>(address: Address): Address =>
    address.portId === fromPortId ? { ...address, portId: to.id } : address
  const id = (portId: string) => (portId === fromPortId ? to.id : portId)
  return {
    ...project,
    sources: project.sources.map((source) =>
      source.address.portId === fromPortId
        ? { ...source, address: at(source.address), portName: to.name }
        : source,
    ),
    tracks: project.tracks.map((track) => ({
      ...track,
      routes: track.routes.map(at),
      sendTo: track.sendTo && at(track.sendTo),
    })),
    clock: {
      sendTo: project.clock.sendTo.map(id),
      follow: project.clock.follow && id(project.clock.follow),
    },
  }
}

/**
 * Finds the ports of a set-up again that have other identifiers now, as on another day or machine: a port that is missing
 * is taken to be the one of the same name that nobody in the project refers to yet.
 */
export function findPortsByName(project: Project, ports: readonly KnownPort[]): Project {
  let next = project
  for (const missing of missingPorts(project, ports)) {
    const inUse = new Set(next.sources.map((source) => source.address.portId))
    const twin = ports.find((port) => port.name === missing.name && !inUse.has(port.id))
    if (twin) next = movePort(next, missing.id, twin)
  }
  return next
}

/** MIDI ports that sources of the project are on and that are not there. */
export function missingPorts(project: Project, ports: readonly KnownPort[]): KnownPort[] {
  const missing = new Map<string, KnownPort>()
  for (const source of project.sources) {
    const { portId } = source.address
    if (source.kind === 'midiPort' && !ports.some((port) => port.id === portId))
      missing.set(portId, { id: portId, name: source.portName })
  }
  return [...missing.values()]
}
