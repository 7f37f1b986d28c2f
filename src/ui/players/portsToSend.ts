import { useStore } from 'zustand'
import { cableName, cablePortId } from '@/core/routing/ports'
import { useLive, useSession } from '../workspace/sessionContext'

/**
 * The ports and cables something can be sent to, as choices.
 *
 * @param current named also when it is not there now
 */
export function usePortsToSend(current: string | null): { readonly value: string; readonly text: string }[] {
  const midi = useLive((state) => state.midi)
  const { names } = useStore(useSession().cables.store)
  const ports = [
    ...names.map((name) => ({ value: cablePortId(name), text: `cable ${name}` })),
    ...(midi.state === 'ready' ? midi.outputs : []).map((port) => ({ value: port.id, text: port.name })),
  ]
  if (current === null || ports.some((port) => port.value === current)) return ports
  const cable = cableName(current)
  return [...ports, { value: current, text: cable ? `cable ${cable}` : 'a port that is not here' }]
}
