/** A port that is there now. */
export interface KnownPort {
  readonly id: string
  readonly name: string
}

const cablePrefix = 'cable:'

/** A virtual cable is a port by its name, the same in every tab. */
export function cablePortId(name: string): string {
  return `${cablePrefix}${name}`
}

/** The name of a cable; null for other ports. */
export function cableName(portId: string): string | null {
  return portId.startsWith(cablePrefix) ? portId.slice(cablePrefix.length) : null
}

const filePrefix = 'file:'

/** The port on which a file plays as a player. */
export function filePortId(assetId: string): string {
  return `${filePrefix}${assetId}`
}

const soundPrefix = 'sound:'

/** The port on which the notes of a followed sound come. */
export function soundPortId(sourceId: string): string {
  return `${soundPrefix}${sourceId}`
}

export function isSoundPort(portId: string): boolean {
  return portId.startsWith(soundPrefix)
}
