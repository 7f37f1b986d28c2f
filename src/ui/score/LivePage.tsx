import { useEffect, useLayoutEffect, useRef } from 'react'
import { useStore } from 'zustand'
import type { LiveLineAt } from '@/state/livePage'
import { useSession } from '../workspace/sessionContext'
import { Drawing } from './Drawing'

/** What is being recorded, as it is played: the newest bars are always in sight; afterwards they are read with everything else. */
export function LivePage() {
  const session = useSession()
  const { lines } = useStore(session.livePage.state)
  const strip = useRef<HTMLDivElement>(null)
  useEffect(() => {
    session.livePage.watch()
    return session.livePage.unwatch
  }, [session])
  // biome-ignore lint/correctness/useExhaustiveDependencies: with each line that is new
  useLayoutEffect(() => {
    strip.current?.scrollTo({ top: strip.current.scrollHeight })
  }, [lines.at(-1)?.from, lines.at(-1)?.heightPx])
  if (lines.length === 0) return null
  return (
    <section
      ref={strip}
      aria-label="Being played"
      className="sticky bottom-0 z-20 mx-auto max-h-[62vh] max-w-[1000px] overflow-y-auto border-2 border-live bg-white px-2 py-2 md:px-8"
    >
      {lines.map((line) => (
        <Line key={line.from} line={line} />
      ))}
    </section>
  )
}

function Line({ line: { from, to, svg, atTicks, isAllNew } }: { line: LiveLineAt }) {
  return (
    <Drawing
      svg={svg}
      aria-label={`Bars ${from + 1} to ${to}, being played`}
      data-testid="live-line"
      data-from={from}
      data-to={to}
      data-at={atTicks}
      className={`is-live ${isAllNew ? 'is-all-new' : ''}`}
    />
  )
}
