import { useEffect, useState } from 'react'
import { Button } from '../controls/Button'
import { useLive, useView } from './sessionContext'
import { goTo, type Step } from './viewStore'

const doneKey = 'first steps done'

interface FirstStep {
  readonly id: 'play' | 'record' | 'page' | 'deliver'
  readonly sentence: string
  readonly step: Step
}

/** The way through the work in four sentences; each goes when it has been done. */
const sentences: readonly FirstStep[] = [
  {
    id: 'play',
    sentence:
      'Play a few notes with the keys A to ; or let the stand-ins play, and watch them run along the threads.',
    step: 'players',
  },
  {
    id: 'record',
    sentence: 'Record everyone: after a bar of count-in each player is on a track.',
    step: 'record',
  },
  { id: 'page', sentence: 'Look at the page, and press a notehead to see how it was played.', step: 'score' },
  {
    id: 'deliver',
    sentence: 'Write and check the files, for notation software or for somebody else.',
    step: 'deliver',
  },
]

function readDone(): ReadonlySet<string> {
  try {
    return new Set(JSON.parse(localStorage.getItem(doneKey) ?? '[]') as string[])
  } catch {
    // Something else lies there: the way begins anew.
    return new Set()
  }
}

/** For the first visit, on the page itself: the next thing to do, until all were done or it was sent away. */
export function FirstSteps() {
  const step = useView((state) => state.step)
  const hasHeard = useLive((state) => state.streams.some((stream) => stream.noteOns > 0))
  const hasRecorded = useLive((state) => state.lastTake !== null)
  const isNoteChosen = useView((state) => state.noteIds.size > 0)
  const isDelivered = useView((state) => state.isDelivered)
  const [done, setDone] = useState<ReadonlySet<string>>(readDone)
  const finish = (...ids: readonly string[]) => {
    const next = new Set([...done, ...ids])
    setDone(next)
    try {
      localStorage.setItem(doneKey, JSON.stringify([...next]))
    } catch {
      // The browser keeps nothing: the way is shown again next time.
    }
  }
  const doings = {
    play: hasHeard,
    record: hasRecorded,
    page: step === 'score' && isNoteChosen,
    deliver: isDelivered,
  }
  const now = sentences.map(({ id }) => id).filter((id) => doings[id] && !done.has(id))
  // biome-ignore lint/correctness/useExhaustiveDependencies: what was done now is the only thing that matters
  useEffect(() => {
    if (now.length > 0) finish(...now)
  }, [now.join()])
  const next = sentences.find(({ id }) => !done.has(id))
  if (!next) return null
  return (
    <section
      aria-label="First steps"
      className="flex shrink-0 flex-wrap items-center gap-x-3 gap-y-1 border-b border-rule border-l-4 border-l-indigo bg-sheet px-4 py-1.5 text-[13px]"
    >
      <span className="text-soft">
        {sentences.indexOf(next) + 1} of {sentences.length}
      </span>
      <span className="min-w-0 flex-1 basis-[240px]">{next.sentence}</span>
      {step !== next.step && <Button onClick={() => goTo(next.step)}>Go there</Button>}
      <Button look="quiet" onClick={() => finish(...sentences.map(({ id }) => id))}>
        I know my way
      </Button>
    </section>
  )
}
