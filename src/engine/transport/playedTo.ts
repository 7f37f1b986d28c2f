import isSame from 'fast-deep-equal'
import type { PlayedTo } from '@/core/capture/takeInfo'
import { withChange } from '@/core/effects/chainChanges'
import type { TempoChange } from '@/core/time/tempoMap'
import type { Ticks } from '@/core/time/units'
import type { EngineSetup } from '../protocol'

/** What a take that begins now is played to. */
export function playedTo(setup: EngineSetup, tempos: readonly TempoChange[]): PlayedTo {
  return {
    tempos: [...tempos],
    listeners: listenersOf(setup),
    compensations: [...setup.compensations],
    chains: setup.sourceChains.map(({ slots, ...address }) => ({
      ...address,
      slots: [...slots],
      changes: [],
    })),
  }
}

/**
 * The same while it goes on and the set-up was changed: who listens is as at the end, a change of effects is part of the
 * performance, the tempi stay.
 *
 * @returns the very same object where nothing of it has changed
 */
export function playedToFrom(before: PlayedTo, setup: EngineSetup, tick: Ticks): PlayedTo {
  const slotsNow = (address: PlayedTo['chains'][number]) =>
    setup.sourceChains.find((chain) => isAt(chain, address))?.slots ?? []
  const chains = before.chains.map((chain) => {
    const slots = [...slotsNow(chain)]
    const slotsBefore = chain.changes.at(-1)?.slots ?? chain.slots
    return isSame(slots, slotsBefore)
      ? chain
      : {
          ...chain,
          changes: withChange(chain.changes, tick, slots).map((each) => ({
            ...each,
            slots: [...each.slots],
          })),
        }
  })
  for (const { slots, ...address } of setup.sourceChains)
    if (!before.chains.some((chain) => isAt(chain, address)))
      chains.push({
        ...address,
        slots: [],
        changes: [{ tick: Math.max(0, Math.round(tick)), slots: [...slots] }],
      })
  const after = { ...before, listeners: listenersOf(setup), compensations: [...setup.compensations], chains }
  return isSame(before, after) ? before : after
}

function listenersOf({ tracks }: EngineSetup): PlayedTo['listeners'] {
  return tracks
    .filter((track) => track.isArmed)
    .map(({ id, routes }) => ({ trackId: id, routes: [...routes] }))
}

const isAt = (a: { portId: string; channel: number | null }, b: { portId: string; channel: number | null }) =>
  a.portId === b.portId && a.channel === b.channel
