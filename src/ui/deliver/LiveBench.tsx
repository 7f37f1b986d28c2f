import { Cable } from 'lucide-react'
import { useState } from 'react'
import { useStore } from 'zustand'
import { soundingNotes } from '@/core/project/create'
import type { Project } from '@/core/project/schema'
import { cableName } from '@/core/routing/ports'
import { Button } from '../controls/Button'
import { Choice, ColumnHeading } from '../controls/Choice'
import { NumberField } from '../controls/NumberField'
import { Tick } from '../controls/Tick'
import { usePortsToSend } from '../players/portsToSend'
import { useLive, useSession } from '../workspace/sessionContext'
import { WhatArrivedTable } from './WhatArrivedTable'

const channels = Array.from({ length: 16 }, (_, index) => ({ value: index + 1, text: String(index + 1) }))

/** How parts are to be sent. */
interface Wish {
  /** null: the first there is. */
  readonly portId: string | null
  /** Parts that are not sent, by track. */
  readonly left: ReadonlySet<string>
  readonly manner: 'played' | 'written'
  readonly dividesStaves: boolean
  readonly withClock: boolean
  readonly click: 'none' | 'count-in' | 'throughout'
  readonly clickChannel: number
  readonly countInBars: number
  /** null: all together. */
  readonly pauseSeconds: number | null
  /** An input, or '' for none. */
  readonly backOn: string
}

const firstWish: Wish = {
  portId: null,
  left: new Set(),
  manner: 'written',
  dividesStaves: true,
  withClock: true,
  click: 'none',
  clickChannel: 16,
  countInBars: 1,
  pauseSeconds: null,
  backOn: '',
}

/** Parts played over a cable or port into notation software that records them. */
export function LiveBench({ project }: { project: Project }) {
  const session = useSession()
  const ports = usePortsToSend(null)
  const midi = useLive((state) => state.midi)
  const { doing, trackIds, results } = useStore(session.transfers.state)
  const isStopped = useLive((state) => state.transport.state === 'stopped')
  const [wish, setWish] = useState(firstWish)
  const change = (fields: Partial<Wish>) => setWish((before) => ({ ...before, ...fields }))
  const { left, manner, dividesStaves, withClock, click, clickChannel, countInBars, pauseSeconds, backOn } =
    wish
  const parts = project.tracks.filter((track) => track.isOnPage && soundingNotes(track).length > 0)
  const chosen = parts.filter(({ id }) => !left.has(id))
  const port = wish.portId ?? ports[0]?.value ?? null
  const inputs = midi.state === 'ready' ? midi.ports : []
  const isReal = port !== null && cableName(port) === null
  const nameOf = (trackId: string) => project.tracks.find(({ id }) => id === trackId)?.name ?? 'a part'
  const send = async () => {
    if (port === null) return
    try {
      await session.transfers.send({
        portId: port,
        trackIds: chosen.map(({ id }) => id),
        manner,
        dividesStaves,
        withClock,
        countInBars: click === 'none' ? 0 : countInBars,
        click: click === 'none' ? null : { channel: clickChannel, goesOn: click === 'throughout' },
        pauseMs: pauseSeconds === null ? null : pauseSeconds * 1000,
        backOn: isReal && backOn !== '' ? backOn : null,
      })
    } catch (error) {
      session.notify(`Not everything was sent: ${error instanceof Error ? error.message : error}.`, true)
    }
  }
  const end = () => {
    session.transfers.end()
    session.stop()
  }
  return (
    <section aria-label="Live into notation software" className="mt-8 border-t border-rule pt-4">
      <ColumnHeading>Live into notation software</ColumnHeading>
      <p className="max-w-2xl text-soft">
        Plays parts over a cable or port, each on a channel of its own, from the beginning. As they are
        written, every note is sent at its place on the page for its whole value, so that any receiver writes
        it right: small notes are left out, ornaments are their main note. Choose a slower speed beside the
        tempo for one that cannot follow.
      </p>
      {ports.length === 0 ? (
        <p className="mt-2 text-soft">There is no port, and no cable: make one under Players, “Cables”.</p>
      ) : (
        <>
          <div className="mt-3 flex flex-wrap items-center gap-x-5 gap-y-2">
            <Choice label="To" value={port ?? ''} options={ports} onChange={(portId) => change({ portId })} />
            <Choice
              label="Sends"
              value={manner}
              options={[
                { value: 'written', text: 'as written' },
                { value: 'played', text: 'as played' },
              ]}
              onChange={(manner) => change({ manner })}
            />
            <Tick isOn={dividesStaves} onChange={(dividesStaves) => change({ dividesStaves })}>
              two staves on two channels
            </Tick>
            <Tick isOn={withClock} onChange={(withClock) => change({ withClock })}>
              clock, start and stop
            </Tick>
          </div>
          <div className="mt-2 flex flex-wrap items-center gap-x-5 gap-y-2">
            <Choice
              label="Click"
              value={click}
              options={[
                { value: 'none', text: 'none' },
                { value: 'count-in', text: 'counts in' },
                { value: 'throughout', text: 'counts in and goes on' },
              ]}
              onChange={(click) => change({ click })}
            />
            {click !== 'none' && (
              <>
                <Choice
                  label="on channel"
                  value={clickChannel}
                  options={channels}
                  onChange={(clickChannel) => change({ clickChannel })}
                />
                <NumberField
                  label="bars before"
                  value={countInBars}
                  min={1}
                  max={4}
                  onChange={(countInBars) => change({ countInBars })}
                />
              </>
            )}
            <Choice
              label="Parts go"
              value={pauseSeconds === null ? 'together' : 'turns'}
              options={[
                { value: 'together', text: 'all together' },
                { value: 'turns', text: 'one after another' },
              ]}
              onChange={(way) => change({ pauseSeconds: way === 'together' ? null : 5 })}
            />
            {pauseSeconds !== null && (
              <NumberField
                label="pause between"
                unit="s"
                value={pauseSeconds}
                min={0}
                max={120}
                onChange={(pauseSeconds) => change({ pauseSeconds })}
              />
            )}
            {isReal && (
              <Choice
                label="Comes back on"
                value={backOn}
                options={[
                  { value: '', text: 'no input' },
                  ...inputs.map(({ id, name }) => ({ value: id, text: name })),
                ]}
                onChange={(backOn) => change({ backOn })}
              />
            )}
          </div>
          <fieldset className="mt-2 flex flex-wrap gap-x-5 gap-y-1" aria-label="Parts that are sent">
            {parts.map(({ id, name }) => (
              <Tick
                key={id}
                isOn={!left.has(id)}
                onChange={(isOn) =>
                  change({ left: new Set(isOn ? [...left].filter((each) => each !== id) : [...left, id]) })
                }
              >
                {name}
              </Tick>
            ))}
          </fieldset>
          <div className="mt-3 flex flex-wrap items-center gap-4">
            <Button
              look="main"
              disabled={doing !== 'nothing' || !isStopped || chosen.length === 0}
              onClick={() => void send()}
            >
              <Cable size={14} aria-hidden /> Send them
            </Button>
            {/* Beside it: a second press does not end what the first began. */}
            {doing !== 'nothing' && <Button onClick={end}>End it</Button>}
            <span role="status" className="text-soft">
              {doing === 'sending'
                ? `Sending ${trackIds.length === 1 ? nameOf(trackIds[0]!) : `${trackIds.length} parts`}…`
                : doing === 'asking'
                  ? 'Asking what arrived…'
                  : doing === 'pausing'
                    ? 'Pause before the next part…'
                    : ''}
            </span>
          </div>
          {results.map((sent) => (
            <WhatArrivedTable
              key={sent.trackIds.join(' ')}
              sent={sent}
              project={project}
              title={sent.trackIds.length === 1 ? nameOf(sent.trackIds[0]!) : `${sent.trackIds.length} parts`}
              isCable={!isReal}
            />
          ))}
        </>
      )}
    </section>
  )
}
