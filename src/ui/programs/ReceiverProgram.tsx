'use client'

import { Circle, Square } from 'lucide-react'
import { keyName } from '@/core/event/note'
import type { ReceiverSettings } from '@/core/programs/receiver/receiverSettings'
import { TICKS_PER_QUARTER } from '@/core/time/units'
import { epochNowMs } from '@/engine/clock'
import type { ReceiverPicture } from '@/engine/standIns/receiver.worker'
import { Button } from '../controls/Button'
import { Choice } from '../controls/Choice'
import { threadOf } from '../theme/threads'
import { CableChoice, ProgramPage } from './ProgramPage'
import { ReceiverPages } from './ReceiverPages'
import { ReceiverSetUp, ReceiverStaves } from './ReceiverSetUp'
import { useCables } from './useCables'
import { useReceiver } from './useReceiver'

/** A small notation program that reads a cable: it writes what arrives, and tells the sender what it wrote. */
export function ReceiverProgram() {
  const { names, cable, setCable } = useCables()
  const { picture, settings, change, problem, receiver } = useReceiver(cable)
  const isIdle = !picture || picture.state.doing === 'nothing'
  return (
    <ProgramPage
      title="Receiver"
      isWide
      text="Stands for notation software that takes notes in: it reads a virtual cable, writes what arrives at the nearest place of a grid, and says over the cable what it wrote. A further recording is written beside what is there."
    >
      <div className="flex flex-wrap items-center gap-x-5 gap-y-2 rounded-md border border-rule bg-sheet px-4 py-3">
        <CableChoice cables={names} cable={cable} onChange={setCable} />
        <Choice
          label="begins"
          value={settings.begins}
          options={beginnings}
          onChange={(begins) => change({ begins })}
        />
        <Button look="main" disabled={!isIdle} onClick={() => void receiver.current?.record()}>
          <Circle size={13} aria-hidden /> Record
        </Button>
        <Button disabled={isIdle} onClick={() => void receiver.current?.stop()}>
          <Square size={13} aria-hidden /> Stop
        </Button>
        <span data-testid="receiver-state">{picture && stateWords(picture)}</span>
        <span data-testid="receiver-clock" className="ml-auto text-soft">
          {picture && clockWords(picture)}
        </span>
        <Button look="quiet" onClick={() => void receiver.current?.clear()}>
          Begin anew
        </Button>
      </div>
      <div className="mt-3 border-t border-rule">
        <ReceiverSetUp settings={settings} change={change} />
        <ReceiverStaves settings={settings} change={change} arrived={picture?.parts ?? []} />
      </div>
      {problem && (
        <p role="alert" className="mt-3 text-live">
          {problem}
        </p>
      )}
      {picture && <ReceiverPages receiver={receiver} picture={picture} />}
      {picture && <Channels picture={picture} />}
    </ProgramPage>
  )
}

const beginnings: readonly { value: ReceiverSettings['begins']; text: string }[] = [
  { value: 'with the clock', text: 'with the clock on the cable' },
  { value: 'with the first note', text: 'with the first note' },
  { value: 'after a count-in', text: 'after a count-in' },
]

function stateWords({ state, bar }: ReceiverPicture): string {
  switch (state.doing) {
    case 'nothing':
      return 'not recording'
    case 'waiting':
      return state.waitsFor === 'with the clock' ? 'waiting for the clock' : 'waiting for the first note'
    case 'writing':
      if (state.fromMs !== null && state.fromMs > epochNowMs()) return 'counting in'
      return bar === null ? 'writing' : `writing bar ${bar}`
  }
}

function clockWords({ clock }: ReceiverPicture): string {
  const beat = Math.floor(clock.ticks / TICKS_PER_QUARTER) + 1
  if (clock.state === 'running') return `clock runs at ${clock.tempoBpm.toFixed(1)}, beat ${beat}`
  return clock.tempoBpm === null ? 'no clock yet' : `clock stopped at beat ${beat}`
}

/** What has come on each channel, written or not. */
function Channels({ picture: { channels } }: { picture: ReceiverPicture }) {
  const used = channels.filter(({ noteOns, others }) => noteOns + others > 0)
  const total = used.reduce((sum, { noteOns }) => sum + noteOns, 0)
  const down = used.reduce((sum, heard) => sum + heard.down.length, 0)
  return (
    <>
      <p className="mt-4" role="status" data-testid="receiver-total">
        {total === 0
          ? 'Nothing has arrived yet.'
          : `${total} notes arrived on ${used.length} ${used.length === 1 ? 'channel' : 'channels'}; ${down === 0 ? 'none sounds now' : `${down} sound now`}.`}
      </p>
      {used.length > 0 && (
        <table className="mt-3 w-full text-left">
          <thead>
            <tr className="border-b border-rule text-[13px] text-soft">
              <th className="w-24 py-1 font-normal">channel</th>
              <th className="w-24 font-normal">notes</th>
              <th className="w-28 font-normal">other events</th>
              <th className="font-normal">sounds now</th>
            </tr>
          </thead>
          <tbody>
            {used.map(({ channel, noteOns, others, down: keys, lastKey }) => (
              <tr key={channel} className="border-b border-rule">
                <td className="py-1 font-semibold" style={{ color: threadOf(channel - 1).colour }}>
                  {channel}
                </td>
                <td>{noteOns}</td>
                <td>{others}</td>
                <td>
                  {keys.length > 0 ? (
                    <span className="font-semibold">{keys.map(keyName).join(' ')}</span>
                  ) : (
                    <span className="text-soft">{lastKey >= 0 ? `last ${keyName(lastKey)}` : '–'}</span>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  )
}
