import { useEffect, useState } from 'react'
import { firstCable, followCables } from '@/state/rig'

/** The cables of this browser, and the one the address names. */
export function useCables(): {
  readonly names: readonly string[]
  readonly cable: string
  readonly setCable: (name: string) => void
} {
  const [names, setNames] = useState<readonly string[]>([firstCable])
  const [cable, setCable] = useState(firstCable)
  useEffect(() => {
    setCable(new URL(location.href).searchParams.get('cable') ?? firstCable)
    const cables = followCables()
    const stop = cables.store.subscribe((state) => setNames(state.names))
    return () => {
      stop()
      cables.close()
    }
  }, [])
  return { names, cable, setCable }
}
