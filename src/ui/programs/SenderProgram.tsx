'use client'

import { Play, Square } from 'lucide-react'
import { useEffect, useRef, useState } from 'react'
import { TICKS_PER_QUARTER } from '@/core/time/units'
import { clockName } from '@/engine/clock'
import type { SenderReport, ToSender } from '@/engine/standIns/sender.worker'
import { Button } from '../controls/Button'
import { NumberField } from '../controls/NumberField'
import { Tick } from '../controls/Tick'
import { CableChoice, ProgramPage } from './ProgramPage'
import { useCables } from './useCables'

/** A program that makes notes of its own and sends them over a cable, on up to 16 channels. */
export function SenderProgram() {
  const { names, cable, setCable } = useCables()
  const [channels, setChannels] = useState(4)
  const [tempoBpm, setTempoBpm] = useState(96)
  const [follows, setFollows] = useState(false)
  const [isOn, setIsOn] = useState(false)
  const [report, setReport] = useState<SenderReport | null>(null)
  const worker = useRef<Worker | null>(null)

  useEffect(() => {
    const sender = new Worker(new URL('../../engine/standIns/sender.worker.ts', import.meta.url), {
      type: 'module',
      name: clockName,
    })
    sender.onmessage = ({ data }: MessageEvent<SenderReport>) => setReport(data)
    worker.current = sender
    // A page that goes lets go of its notes first.
    const onHide = () => sender.postMessage({ type: 'stop' } satisfies ToSender)
    window.addEventListener('pagehide', onHide)
    return () => {
      window.removeEventListener('pagehide', onHide)
      onHide()
      setTimeout(() => sender.terminate(), 300)
    }
  }, [])

  const tell = (message: ToSender) => worker.current?.postMessage(message)
  const start = () => {
    setIsOn(true)
    tell({ type: 'start', cable, channels, tempoBpm, follows })
  }
  const stop = () => {
    setIsOn(false)
    tell({ type: 'stop' })
  }
  const beats = report ? Math.floor(report.ticks / TICKS_PER_QUARTER) : 0
  return (
    <ProgramPage
      title="Sender"
      text="Stands for a program that makes notes by itself: patterns on up to 16 channels, drums on channel 10, sent over a virtual cable. Other tabs that read the cable hear them."
    >
      <div className="flex flex-wrap items-center gap-5 rounded-md border border-rule bg-sheet px-4 py-3">
        <CableChoice cables={names} cable={cable} onChange={setCable} isDisabled={isOn} />
        <NumberField
          label="channels"
          value={channels}
          min={1}
          max={16}
          className="w-11"
          onChange={(value) => {
            setChannels(value)
            if (isOn) tell({ type: 'start', cable, channels: value, tempoBpm, follows })
          }}
        />
        <NumberField
          label="tempo"
          value={tempoBpm}
          min={20}
          max={300}
          className="w-12"
          onChange={(value) => {
            setTempoBpm(value)
            if (isOn && !follows) tell({ type: 'start', cable, channels, tempoBpm: value, follows })
          }}
        />
        <Tick isOn={follows} isDisabled={isOn} onChange={setFollows}>
          follow the clock on the cable
        </Tick>
        {isOn ? (
          <Button onClick={stop}>
            <Square size={14} aria-hidden /> Stop sending
          </Button>
        ) : (
          <Button look="main" onClick={start}>
            <Play size={14} aria-hidden /> Send
          </Button>
        )}
      </div>
      <p className="mt-4 text-[15px]" role="status" data-testid="sender-state">
        {report?.state ?? 'stopped'}
        {report?.state === 'playing' &&
          ` at ${report.tempoBpm.toFixed(1)}, beat ${beats + 1}, ${report.sentNotes} notes sent`}
      </p>
    </ProgramPage>
  )
}
