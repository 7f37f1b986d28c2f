import { useEffect, useRef } from 'react'
import type { EffectSlot } from '@/core/effects/catalogue'
import { keyName, type Note } from '@/core/event/note'
import { firstIndex } from '@/core/time/firstIndex'
import type { Ticks } from '@/core/time/units'
import { useSession } from '../workspace/sessionContext'
import { type ChainPlace, isOfChain, type SlotFlow } from './slotTypes'

const everyMs = 80
const mostNames = 5

/**
 * How many notes go into an effect and come out of it; while it plays, which: of what is recorded and of whoever plays.
 */
export function NowSounding({
  slot,
  place,
  flow,
}: {
  slot: EffectSlot
  place: ChainPlace
  /** What goes through of what is recorded; null where that is nothing. */
  flow: SlotFlow | null
}) {
  const session = useSession()
  const shown = useRef<HTMLSpanElement>(null)
  useEffect(() => {
    const show = () => {
      const element = shown.current
      if (!element) return
      const { transport, flows } = session.live.getState()
      const isRunning = transport.state === 'playing' || transport.state === 'recording'
      const ofChain = flows.filter((each) => isOfChain(each, place))
      const live = ofChain.filter((each) => each.slotId === slot.id)
      const tick = session.positionTicks()
      const words = (side: 'goesIn' | 'comesOut') => {
        const recorded = isRunning && flow ? keysAt(flow[side], tick) : []
        return inWords([...recorded, ...live.flatMap((each) => each[side])])
      }
      const text =
        isRunning || ofChain.length > 0
          ? `${words('goesIn')} → ${words('comesOut')}`
          : flow
            ? `${flow.goesIn.length} → ${flow.comesOut.length} notes`
            : ''
      if (element.textContent !== text) element.textContent = text
    }
    show()
    const timer = setInterval(show, everyMs)
    return () => clearInterval(timer)
  }, [session, slot.id, place, flow])
  return (
    <span
      ref={shown}
      data-testid="flow"
      className={`truncate text-[12px] ${slot.isOn ? 'text-verdigris' : 'text-soft'}`}
    />
  )
}

function inWords(keys: readonly number[]): string {
  const names = [...new Set(keys)].sort((a, b) => a - b).map(keyName)
  if (names.length === 0) return '–'
  return names.length > mostNames ? `${names.slice(0, mostNames).join(' ')} …` : names.join(' ')
}

/** Keys of the notes that sound at a position. */
function keysAt(notes: readonly Note[], tick: Ticks): number[] {
  const keys: number[] = []
  const later = firstIndex(notes.length, (index) => notes[index]!.onsetTicks > tick)
  for (let index = later - 1; index >= Math.max(0, later - 64); index--) {
    const note = notes[index]!
    if (note.onsetTicks + note.durationTicks > tick) keys.push(note.key)
  }
  return keys
}
