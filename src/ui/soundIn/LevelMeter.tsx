import { useRef, useState } from 'react'
import { remarkOf, type SoundProblem } from '@/core/pitch/soundRemarks'
import { useEarPicture } from './useEarPicture'

const lowestDb = -60
/** Where peaks of music belong: loud enough for soft notes, with room above for the loudest. */
const goodFromDb = -24
const goodToDb = -6
/** Nearer to full scale than this is too near. */
const hotDb = -1
/** How fast the bar falls, so that the eye can follow. */
const fallDbPerSecond = 24

const part = (db: number) => Math.max(0, Math.min(1, (db - lowestDb) / -lowestDb)) * 100

/** How loud an input is, with the range marked in which it should be; and in a sentence what is wrong with it. */
export function LevelMeter({
  sourceId,
  name,
  isStandIn,
}: {
  sourceId: string
  name: string
  isStandIn: boolean
}) {
  const bar = useRef<HTMLDivElement>(null)
  const meter = useRef<HTMLMeterElement>(null)
  const shown = useRef({ db: -120, atMs: 0 })
  const [problem, setProblem] = useState<SoundProblem | null>(null)
  useEarPicture(sourceId, (picture) => {
    const nowMs = performance.now()
    const fallenDb = shown.current.db - ((nowMs - shown.current.atMs) / 1000) * fallDbPerSecond
    const db = Math.max(picture.peakDb, fallenDb)
    shown.current = { db, atMs: nowMs }
    if (bar.current) {
      bar.current.style.width = `${part(db)}%`
      bar.current.style.background = db > hotDb ? 'var(--color-live)' : 'var(--color-ink)'
    }
    if (meter.current) meter.current.value = Math.max(lowestDb, Math.round(db))
    if (picture.problem !== problem) setProblem(picture.problem)
  })
  return (
    <div>
      <meter
        ref={meter}
        className="sr-only"
        aria-label={`Level of ${name}, in decibels below full scale`}
        min={lowestDb}
        max={0}
        value={lowestDb}
      />
      <div aria-hidden className="relative mt-1 h-3 overflow-hidden rounded-sm border border-rule bg-sheet">
        <div
          className="absolute inset-y-0 border-x-2 border-verdigris bg-verdigris/15"
          style={{ left: `${part(goodFromDb)}%`, width: `${part(goodToDb) - part(goodFromDb)}%` }}
        />
        <div ref={bar} className="absolute top-[3px] bottom-[3px] left-0 w-0" />
      </div>
      <div className="relative h-4 text-[11px] text-soft" aria-hidden>
        <span className="absolute left-0">{lowestDb}</span>
        <span
          className="absolute -translate-x-1/2 text-verdigris"
          style={{ left: `${(part(goodFromDb) + part(goodToDb)) / 2}%` }}
        >
          good
        </span>
        <span className="absolute right-0">0 dB</span>
      </div>
      {problem && (
        <p className="rounded border-l-4 border-l-weld bg-sheet px-2 py-1 text-[12px]" role="status">
          {/* Who only plays when asked is silent until then. */}
          {isStandIn && problem === 'silent'
            ? 'Plays when you record, and with “Let them play”.'
            : remarkOf[problem]}
        </p>
      )}
    </div>
  )
}
