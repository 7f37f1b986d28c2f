import { useEffect, useRef, useState } from 'react'
import { fewestStrokes, type LatencyMeasurement, measureLatency } from '@/core/capture/latency'
import type { Source } from '@/core/project/schema'
import { clockTimes, epochNowMs } from '@/engine/clock'
import { Button } from '../controls/Button'
import { useLive, useSession } from '../workspace/sessionContext'
import { LatencyChart } from './LatencyChart'

const clicks = 20
const gapMs = 500
const firstClickMs = 800

/**
 * Measures how late a source arrives: clicks are played, the person plays along, and the median of what lies between can be
 * taken off. Clicks are timed as they are heard, so the delay of the sound output is accounted for.
 */
export function LatencyMeasure({
  source,
  onApply,
}: {
  source: Source
  onApply: (compensationMs: number) => void
}) {
  const session = useSession()
  const isStopped = useLive((state) => state.transport.state === 'stopped')
  const [isRunning, setIsRunning] = useState(false)
  const [result, setResult] = useState<LatencyMeasurement | 'too few' | null>(null)
  const stop = useRef<() => void>(() => undefined)
  useEffect(() => () => stop.current(), [])

  const measure = async () => {
    await session.startAudio()
    const startMs = epochNowMs() + firstClickMs
    const clicksMs = Array.from({ length: clicks }, (_, index) => startMs + index * gapMs)
    const strokesMs: number[] = []
    const { portId, channel } = source.address
    const stopListening = session.onActivity((events) => {
      for (const event of events)
        if (event.isOn && event.portId === portId && (channel === null || event.channel === channel))
          strokesMs.push(event.timeMs)
    })
    session.clickAt(clicksMs, source.address)
    setResult(null)
    setIsRunning(true)
    const end = setTimeout(
      () => {
        stopListening()
        setIsRunning(false)
        setResult(measureLatency(clicksMs, strokesMs) ?? 'too few')
      },
      (firstClickMs + clicks * gapMs + 300) / clockTimes,
    )
    stop.current = () => {
      clearTimeout(end)
      stopListening()
    }
  }

  return (
    <div className="space-y-1.5 text-[12px]">
      <Button
        className="px-2 py-0.5 text-[12px]"
        disabled={isRunning || !isStopped}
        onClick={() => void measure()}
      >
        {isRunning ? 'Play one note on every click…' : 'Measure: play along to the click'}
      </Button>
      {result === 'too few' && (
        <p role="status">
          Fewer than {fewestStrokes} notes fell near a click, which says nothing. Nothing was changed.
        </p>
      )}
      {result !== null && result !== 'too few' && (
        <div role="status">
          <LatencyChart measurement={result} />
          <p>
            Median {Math.abs(result.medianMs).toFixed(1)} ms {result.medianMs < 0 ? 'before' : 'after'} the
            click, half of the notes within {result.spreadMs.toFixed(1)} ms
            {result.leftOut > 0 && `; ${result.leftOut} left out`}.
          </p>
          <Button
            className="mt-1 px-2 py-0.5 text-[12px]"
            onClick={() => {
              onApply(Math.round(result.medianMs * 10) / 10)
              setResult(null)
            }}
          >
            Move its notes {Math.abs(result.medianMs).toFixed(1)} ms{' '}
            {result.medianMs < 0 ? 'later' : 'earlier'}
          </Button>
        </div>
      )}
    </div>
  )
}
