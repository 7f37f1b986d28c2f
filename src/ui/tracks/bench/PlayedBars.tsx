import { useEffect, useRef, useState } from 'react'
import {
  barLinesMs,
  beatOneAt,
  countedIn,
  dividedIn,
  halfAsFast,
  twiceAsFast,
} from '@/core/beats/correctBars'
import { type BeatsPerBar, barsProblem, beatsPerBarChoices, type FoundBars } from '@/core/beats/findBars'
import { barsOfTaps, fewestTaps } from '@/core/beats/tappedBeats'
import { contextOf } from '@/core/project/context'
import { layBars, timedNotesOf } from '@/core/project/playedBars'
import type { Project } from '@/core/project/schema'
import type { Milliseconds } from '@/core/time/units'
import { Button } from '../../controls/Button'
import { Choice } from '../../controls/Choice'
import { useLive, useSession } from '../../workspace/sessionContext'
import { tell, viewStore } from '../../workspace/viewStore'
import { useFoundBars } from '../useFoundBars'

/** Below this the program says that it is not sure. */
const sureFrom = 0.8

/** Bar lines for what was played without a click: found or tapped, corrected, seen over the notes, then used. */
export function PlayedBars({ project }: { project: Project }) {
  const session = useSession()
  const found = useFoundBars(project)
  const [isFinding, setIsFinding] = useState(false)
  const [taps, setTaps] = useState<readonly Milliseconds[] | null>(null)
  const isPlaying = useLive((state) => state.transport.state === 'playing')
  const { tempoMap } = contextOf(project)
  const { tempos } = project
  const show = (bars: FoundBars | null) => viewStore.setState({ foundBars: bars && { bars, under: tempos } })
  useEffect(() => () => viewStore.setState({ foundBars: null }), [])

  const find = async () => {
    setIsFinding(true)
    try {
      const bars = await session.findBars()
      show(bars)
      if (!bars) session.notify(`${barsProblem(timedNotesOf(project))}.`, true)
    } catch (error) {
      session.notify(
        `The bars could not be found: ${error instanceof Error ? error.message : String(error)}`,
        true,
      )
    } finally {
      setIsFinding(false)
    }
  }

  const tap = useRef(() => {})
  tap.current = () => {
    const atMs = tempoMap.msAt(session.positionTicks())
    const next = [...(taps ?? []), atMs]
    setTaps(next)
    if (next.length >= fewestTaps) show(barsOfTaps(timedNotesOf(project), next))
  }
  const isTapping = taps !== null
  useEffect(() => {
    if (!isTapping) return
    const onKey = (event: KeyboardEvent) => {
      if (event.key !== 'Enter' || event.repeat) return
      event.preventDefault()
      event.stopPropagation()
      tap.current()
    }
    window.addEventListener('keydown', onKey, true)
    return () => window.removeEventListener('keydown', onKey, true)
  }, [isTapping])

  const use = () => {
    if (!found) return
    const bars = barLinesMs(found).length
    const isDone = session.store
      .getState()
      .apply('bars where they were played', (before) => layBars(before, found))
    if (!isDone) return
    setTaps(null)
    show(null)
    tell(
      `${bars.toLocaleString('en')} bar lines lie where they were played; every note sounds as before`,
      session.store.getState().project,
    )
  }

  return (
    <div className="space-y-2" data-testid="played-bars">
      <h3 className="font-semibold">Played without a click</h3>
      <div className="flex flex-wrap items-center gap-1.5">
        <Button className="px-2 py-0.5" disabled={isFinding} onClick={() => void find()}>
          {isFinding ? 'Listening…' : 'Find the bars'}
        </Button>
        {isTapping ? (
          <Button className="px-2 py-0.5" look="main" onClick={() => tap.current()}>
            Beat ({taps.length})
          </Button>
        ) : (
          <Button
            className="px-2 py-0.5"
            title="Play, and press Enter at each beat"
            onClick={() => {
              setTaps([])
              if (!isPlaying) void session.playOn()
            }}
          >
            Tap along
          </Button>
        )}
        {isTapping && (
          <Button className="px-2 py-0.5" look="quiet" onClick={() => setTaps(null)}>
            Enough
          </Button>
        )}
      </div>
      {isTapping && (
        <p className="text-[12px] text-soft">
          Press Enter at each beat while it plays. After {fewestTaps} the bars are drawn.
        </p>
      )}
      {!found && !isTapping && (
        <p className="text-[12px] text-soft">
          Tempo and bar lines are laid where the music has them. No note moves in time.
        </p>
      )}
      {found && (
        <>
          <p aria-live="polite" data-testid="found-bars">
            {wordsOf(found)}
            {found.confidence < sureFrom && <span className="text-live">, not sure</span>}
          </p>
          <div className="flex flex-wrap items-center gap-1.5">
            <Button className="px-2 py-0.5" onClick={() => show(twiceAsFast(found))}>
              Twice as fast
            </Button>
            <Button className="px-2 py-0.5" onClick={() => show(halfAsFast(found))}>
              Half as fast
            </Button>
            <Choice
              label="beats to the bar"
              value={found.beatsPerBar}
              options={beatsPerBarChoices.map((value) => ({ value, text: String(value) }))}
              onChange={(beats: BeatsPerBar) => show(countedIn(found, beats))}
            />
            <Choice
              label="each in"
              value={found.division}
              options={[
                { value: 2 as const, text: 'halves' },
                { value: 3 as const, text: 'thirds' },
              ]}
              onChange={(division) => show(dividedIn(found, division))}
            />
            <Button
              className="px-2 py-0.5"
              title="The beat nearest to where the piece stands begins a bar"
              onClick={() => show(beatOneAt(found, tempoMap.msAt(session.positionTicks())))}
            >
              Here is beat one
            </Button>
          </div>
          <p className="text-[12px] text-soft">
            Drag a bar’s number over the notes to move its line; arrow keys move it finely.
          </p>
          <div className="flex gap-1.5">
            <Button className="px-2 py-0.5" look="main" onClick={use}>
              Use these bars
            </Button>
            <Button className="px-2 py-0.5" look="quiet" onClick={() => show(null)}>
              Leave it
            </Button>
          </div>
        </>
      )}
    </div>
  )
}

function wordsOf(found: FoundBars): string {
  const { beatsMs, beatsPerBar, division, pickupBeats } = found
  const lengths = beatsMs.slice(1).map((beatMs, index) => beatMs - beatsMs[index]!)
  const perMinute = 60_000 / lengths.sort((a, b) => a - b)[lengths.length >> 1]!
  const meter = division === 3 ? `${beatsPerBar * 3}/8` : `${beatsPerBar}/4`
  const pickup =
    pickupBeats === 0 ? '' : `, ${pickupBeats} ${pickupBeats === 1 ? 'beat' : 'beats'} before the first`
  return `${barLinesMs(found).length} bars of ${meter}, about ${Math.round(perMinute)} beats a minute${pickup}`
}
