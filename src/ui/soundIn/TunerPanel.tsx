import { useEffect, useRef, useState } from 'react'
import { keyName } from '@/core/event/note'
import { frequencyOfKey, highestConcertHz, lowestConcertHz } from '@/core/pitch/listenerSettings'
import { nearestString, type StringTuningId, stringTunings } from '@/core/pitch/stringTunings'
import type { TunedPitch } from '@/core/pitch/tuner'
import { Button } from '../controls/Button'
import { Choice } from '../controls/Choice'
import { NumberField } from '../controls/NumberField'
import { useSession } from '../workspace/sessionContext'
import { useEarPicture } from './useEarPicture'

/** Nearer than this nobody hears a difference. */
const inTuneCents = 3
const mostCents = 50
/** The stripes go round once for so many beats against the tone that is aimed at. */
const stripePx = 26

/**
 * A tuner: the tone that is heard, how far it is from the key or string that is aimed at, and stripes that stand still when it is there. They
 * move as fast as the tone beats against the one that is aimed at.
 */
export function TunerPanel({
  sourceId,
  concertHz,
  onConcert,
}: {
  sourceId: string
  concertHz: number
  onConcert: (concertHz: number) => void
}) {
  const session = useSession()
  const [tuningId, setTuningId] = useState<StringTuningId | 'keys'>('keys')
  const [chosen, setChosen] = useState<number | null>(null)
  const [tuned, setTuned] = useState<TunedPitch | null>(null)
  const stripes = useRef<HTMLDivElement>(null)
  const drift = useRef({ place: 0, hzOff: 0 })
  useEffect(() => session.soundInputs.tune(sourceId), [session, sourceId])
  useEarPicture(sourceId, (picture) => setTuned(picture.tuned))

  const strings = stringTunings.find(({ id }) => id === tuningId)?.strings ?? null
  const place = tuned?.place ?? null
  const target =
    chosen ?? (place === null ? null : strings ? nearestString(strings, place) : Math.round(place))
  const cents = place === null || target === null ? null : (place - target) * 100
  const isInTune = cents !== null && Math.abs(cents) < inTuneCents
  drift.current.hzOff = tuned && target !== null ? tuned.frequencyHz - frequencyOfKey(target, concertHz) : 0

  useEffect(() => {
    let frame = 0
    let before = performance.now()
    const turn = (now: number) => {
      const { current } = drift
      // Faster than the eye can follow says no more than fast.
      const hz = Math.max(-8, Math.min(8, current.hzOff))
      current.place = (current.place + (hz * stripePx * (now - before)) / 1000) % stripePx
      before = now
      if (stripes.current) stripes.current.style.backgroundPositionX = `${current.place}px`
      frame = requestAnimationFrame(turn)
    }
    frame = requestAnimationFrame(turn)
    return () => cancelAnimationFrame(frame)
  }, [])

  const words =
    cents === null
      ? 'Play one tone.'
      : isInTune
        ? 'in tune'
        : `${Math.round(Math.abs(cents))} cents ${cents > 0 ? 'too high' : 'too low'}`
  return (
    <section aria-label="Tuner" className="rounded border border-rule bg-sheet p-2">
      <div className="flex items-baseline justify-between gap-2">
        <span className="font-serif text-[34px] leading-9 font-semibold" data-testid="tuner-note">
          {target === null ? '–' : keyName(target)}
        </span>
        <span className="text-right text-[12px]">
          <span className={isInTune ? 'font-semibold text-verdigris' : ''} data-testid="tuner-words">
            {words}
          </span>
          <br />
          <span className="text-soft">{tuned ? `${tuned.frequencyHz.toFixed(1)} Hz` : '\u00a0'}</span>
        </span>
      </div>
      <svg viewBox="-60 0 120 34" className="mt-1 block w-full" aria-hidden="true">
        <title>How far from the tone that is aimed at</title>
        {[-50, -40, -30, -20, -10, 0, 10, 20, 30, 40, 50].map((mark) => (
          <line
            key={mark}
            x1={mark}
            x2={mark}
            y1={mark % 50 === 0 ? 12 : 17}
            y2={24}
            stroke="var(--color-soft)"
            strokeWidth={mark === 0 ? 1.4 : 0.7}
          />
        ))}
        <rect x={-inTuneCents} y={21} width={2 * inTuneCents} height={3} fill="var(--color-verdigris)" />
        {[-50, 0, 50].map((mark) => (
          <text key={mark} x={mark} y={32} fontSize={7} textAnchor="middle" fill="var(--color-soft)">
            {mark > 0 ? `+${mark}` : mark}
          </text>
        ))}
        {cents !== null && (
          <path
            d="M0 24 L-2.6 4 L2.6 4 Z"
            transform={`translate(${Math.max(-mostCents - 4, Math.min(mostCents + 4, cents))} 0)`}
            fill={isInTune ? 'var(--color-verdigris)' : 'var(--color-live)'}
          />
        )}
      </svg>
      <div
        ref={stripes}
        className="mt-1 h-4 rounded-sm"
        style={{
          opacity: tuned ? 0.35 + 0.65 * tuned.clarity : 0.15,
          backgroundImage: `repeating-linear-gradient(90deg, var(--color-ink) 0 ${stripePx / 2}px, var(--color-paper) ${stripePx / 2}px ${stripePx}px)`,
          backgroundSize: `${stripePx}px 100%`,
        }}
        title="Stripes that stand still: in tune. They run right when it is too high, left when it is too low."
      />
      <div className="mt-2 space-y-1.5">
        <Choice
          label="strings of"
          value={tuningId}
          options={[
            { value: 'keys' as const, text: 'any tone' },
            ...stringTunings.map(({ id, name }) => ({ value: id, text: name })),
          ]}
          onChange={(id) => {
            setTuningId(id)
            setChosen(null)
          }}
        />
        {strings && (
          <div className="flex flex-wrap gap-1">
            {strings.map((key) => (
              <Button
                key={key}
                look={target === key ? undefined : 'quiet'}
                className="px-1.5 py-0.5 text-[12px]"
                aria-pressed={chosen === key}
                onClick={() => setChosen(chosen === key ? null : key)}
              >
                {keyName(key)}
              </Button>
            ))}
          </div>
        )}
        <NumberField
          label="A4 is"
          value={concertHz}
          min={lowestConcertHz}
          max={highestConcertHz}
          unit="Hz"
          isDecimal
          onChange={onConcert}
        />
      </div>
    </section>
  )
}
