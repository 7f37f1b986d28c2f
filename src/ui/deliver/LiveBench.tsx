import { Cable } from 'lucide-react'
import { useState } from 'react'
import { useStore } from 'zustand'
import { soundingNotes } from '@/core/project/create'
import { playingEndTicks } from '@/core/project/printing'
import type { Project } from '@/core/project/schema'
import { Button } from '../controls/Button'
import { Choice, ColumnHeading } from '../controls/Choice'
import { Tick } from '../controls/Tick'
import { usePortsToSend } from '../players/portsToSend'
import { HeardAs } from '../score/HeardAs'
import { useLive, useSession } from '../workspace/sessionContext'

/** Parts played over a cable or port into notation software that records them. */
export function LiveBench({ project }: { project: Project }) {
  const session = useSession()
  const ports = usePortsToSend(null)
  const { transfer } = useStore(session.hearingPage.state)
  const isStopped = useLive((state) => state.transport.state === 'stopped')
  const [portId, setPortId] = useState<string | null>(null)
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set())
  const [dividesStaves, setDivided] = useState(true)
  const [withClock, setWithClock] = useState(false)
  const parts = project.tracks.filter((track) => track.isOnPage && soundingNotes(track).length > 0)
  const chosen = parts.filter(({ id }) => !left.has(id))
  const port = portId ?? ports[0]?.value ?? null
  const send = async () => {
    if (port === null) return
    try {
      await session.hearingPage.transfer({
        portId: port,
        trackIds: chosen.map(({ id }) => id),
        dividesStaves,
        withClock,
      })
      await session.play(0, playingEndTicks(project))
    } catch (error) {
      await session.hearingPage.transfer(null)
      session.notify(`Nothing was sent: ${error instanceof Error ? error.message : error}.`, true)
    }
  }
  return (
    <section aria-label="Live into notation software" className="mt-8 border-t border-rule pt-4">
      <ColumnHeading>Live into notation software</ColumnHeading>
      <p className="max-w-2xl text-soft">
        Plays parts over a cable or port, each on a channel of its own, from the beginning: as they were
        played, or as they are written, with clean lengths on the grid, so that any receiver writes them
        right. Choose a slower speed beside the tempo for one that cannot follow.
      </p>
      {ports.length === 0 ? (
        <p className="mt-2 text-soft">There is no port, and no cable: make one under Players, “Cables”.</p>
      ) : (
        <>
          <div className="mt-3 flex flex-wrap items-center gap-x-4 gap-y-2">
            <Choice label="To" value={port ?? ''} options={ports} onChange={setPortId} />
            <HeardAs label="Sends" />
            <Tick isOn={dividesStaves} onChange={setDivided}>
              two staves on two channels
            </Tick>
            <Tick isOn={withClock} onChange={setWithClock}>
              clock, start and stop
            </Tick>
          </div>
          <fieldset className="mt-2 flex flex-wrap gap-x-5 gap-y-1" aria-label="Parts that are sent">
            {parts.map(({ id, name }) => (
              <Tick
                key={id}
                isOn={!left.has(id)}
                onChange={(isOn) =>
                  setLeft(
                    (before) => new Set(isOn ? [...before].filter((each) => each !== id) : [...before, id]),
                  )
                }
              >
                {name}
              </Tick>
            ))}
          </fieldset>
          <div className="mt-3 flex flex-wrap items-center gap-4">
            <Button look="main" disabled={!isStopped || chosen.length === 0} onClick={() => void send()}>
              <Cable size={14} aria-hidden /> Send them
            </Button>
            <span role="status" className="text-soft">
              {transfer && !isStopped ? 'Sending… Stop ends it.' : ''}
            </span>
          </div>
        </>
      )}
    </section>
  )
}
