'use client'

import { useEffect, useRef, useState } from 'react'
import { keyName } from '@/core/event/note'
import { ClockFollower, isClockStatus } from '@/core/midi/clock'
import { parseChannelMessage } from '@/core/midi/message'
import { TICKS_PER_QUARTER } from '@/core/time/units'
import { CableReader } from '@/engine/cables/cable'
import { epochNowMs } from '@/engine/clock'
import { Button } from '../controls/Button'
import { threadOf } from '../theme/threads'
import { CableChoice, ProgramPage } from './ProgramPage'
import { useCables } from './useCables'

interface Heard {
  noteOns: number
  noteOffs: number
  others: number
  readonly down: Set<number>
  lastKey: number
}

const emptyChannels = (): Heard[] =>
  Array.from({ length: 16 }, () => ({ noteOns: 0, noteOffs: 0, others: 0, down: new Set(), lastKey: -1 }))

/** A program that reads a cable: it shows the notes of each channel as they arrive, and the clock. */
export function ReceiverProgram() {
  const { names, cable, setCable } = useCables()
  const channels = useRef(emptyChannels())
  const follower = useRef(new ClockFollower())
  const clocks = useRef(0)
  const [, setFrame] = useState(0)

  useEffect(() => {
    const reader = new CableReader(cable, 'Stand-in receiver', (events) => {
      for (const { timeMs, bytes } of events) {
        const [status, data1 = 0, data2 = 0] = bytes as [number, number?, number?]
        if (isClockStatus(status)) {
          if (status === 0xf8) clocks.current++
          follower.current.receive(status, data1, data2, timeMs)
          continue
        }
        const message = parseChannelMessage(status, data1, data2)
        if (!message) continue
        const heard = channels.current[message.channel - 1]!
        if (message.type === 'noteOn') {
          heard.noteOns++
          heard.lastKey = message.key
          heard.down.add(message.key)
        } else if (message.type === 'noteOff') {
          heard.noteOffs++
          heard.down.delete(message.key)
        } else heard.others++
      }
    })
    const timer = setInterval(() => setFrame((frame) => frame + 1), 100)
    return () => {
      clearInterval(timer)
      reader.close()
    }
  }, [cable])

  const clock = follower.current.at(epochNowMs())
  const isPlaying = clock.state === 'running'
  const used = channels.current.flatMap((heard, index) =>
    heard.noteOns + heard.others > 0 ? [{ ...heard, channel: index + 1 }] : [],
  )
  const total = used.reduce((sum, heard) => sum + heard.noteOns, 0)
  const down = used.reduce((sum, heard) => sum + heard.down.size, 0)
  return (
    <ProgramPage
      title="Receiver"
      text="Stands for a program that takes notes and clock in, such as notation software: it reads a virtual cable and shows what arrived on which channel."
    >
      <div className="flex flex-wrap items-center gap-5 rounded-md border border-rule bg-sheet px-4 py-3">
        <CableChoice cables={names} cable={cable} onChange={setCable} />
        <span data-testid="receiver-clock">
          {isPlaying
            ? `clock runs at ${clock.tempoBpm.toFixed(1)}, beat ${Math.floor(clock.ticks / TICKS_PER_QUARTER) + 1}`
            : clock.tempoBpm === null
              ? 'no clock yet'
              : `clock stopped at beat ${Math.floor(clock.ticks / TICKS_PER_QUARTER) + 1}`}
        </span>
        <span className="text-soft">{clocks.current} clocks</span>
        <Button
          look="quiet"
          className="ml-auto"
          onClick={() => {
            channels.current = emptyChannels()
            clocks.current = 0
          }}
        >
          Begin anew
        </Button>
      </div>
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
                  {keys.size > 0 ? (
                    <span className="font-semibold">{[...keys].map(keyName).join(' ')}</span>
                  ) : (
                    <span className="text-soft">{lastKey >= 0 ? `last ${keyName(lastKey)}` : '–'}</span>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </ProgramPage>
  )
}
