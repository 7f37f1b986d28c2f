import { soundingPlayers, standInAt } from '@/core/demo/soundingPlayers'
import type { KnownSoundInput } from '@/engine/soundInput/microphones'

/** The input that the system uses, whatever it is called. */
export const usualInput: KnownSoundInput = { id: '', name: 'The system’s input' }

/** All inputs that can be chosen: those of the machine, the system's own, and the stand-ins. */
export function inputChoices(ofMachine: readonly KnownSoundInput[]): readonly KnownSoundInput[] {
  return [...ofMachine, usualInput, ...soundingPlayers.map(({ deviceId, name }) => ({ id: deviceId, name }))]
}

/** An input as it is called in a list. */
export const inputWords = ({ id, name }: KnownSoundInput) => (standInAt(id) ? `${name} (stand-in)` : name)
