import { useEffect, useRef } from 'react'
import { keyName, type Note } from '@/core/event/note'
import { useSession } from '../workspace/sessionContext'
import type { SlotFlow } from './slotTypes'

const everyMs = 80
const mostNames = 5

/** How many notes go into an effect and come out; while it plays, which. */
export function NowSounding({ flow, isOn }: { flow: SlotFlow; isOn: boolean }) {
  const session = useSession()
  const shown = useRef<HTMLSpanElement>(null)
  const { goesIn, comesOut } = flow
  useEffect(() => {
    const counts = `${goesIn.length} → ${comesOut.length} notes`
    const show = () => {
      const element = shown.current
      if (!element) return
      const { transport } = session.live.getState()
      const isRunning = transport.state === 'playing' || transport.state === 'recording'
      const tick = session.positionTicks()
      const text = isRunning ? `${namesAt(goesIn, tick)} → ${namesAt(comesOut, tick)}` : counts
      if (element.textContent !== text) element.textContent = text
    }
    show()
    const timer = setInterval(show, everyMs)
    return () => clearInterval(timer)
  }, [session, goesIn, comesOut])
  return (
    <span
      ref={shown}
      data-testid="flow"
      className={`truncate text-[12px] ${isOn ? 'text-verdigris' : 'text-soft'}`}
    />
  )
}

function namesAt(notes: readonly Note[], tick: number): string {
  const names: string[] = []
  let low = 0
  let high = notes.length
  while (low < high) {
    const middle = (low + high) >> 1
    if (notes[middle]!.onsetTicks <= tick) low = middle + 1
    else high = middle
  }
  for (let index = low - 1; index >= Math.max(0, low - 64); index--) {
    const note = notes[index]!
    if (note.onsetTicks + note.durationTicks > tick) names.unshift(keyName(note.key))
  }
  if (names.length === 0) return '–'
  return names.length > mostNames ? `${names.slice(0, mostNames).join(' ')} …` : names.join(' ')
}
