import { Mic } from 'lucide-react'
import { useState } from 'react'
import type { ListenerPreset } from '@/core/pitch/listenerSettings'
import { mostInputChannels } from '@/core/pitch/soundInput'
import { Button } from '../controls/Button'
import { Choice } from '../controls/Choice'
import { NumberField } from '../controls/NumberField'
import { Section } from '../controls/Section'
import { useLive, useProject, useSession } from '../workspace/sessionContext'
import { inputChoices, inputWords, standInAt, usualInput } from './inputChoices'
import { presetOptions } from './presetWords'

/** Seats somebody who is heard through an input: an instrument, a voice, or a stand-in who sounds. */
export function JoinBySound() {
  const session = useSession()
  const inputs = useLive((state) => state.inputDevices)
  const isReadOnly = session.store.getState().isReadOnly
  const heard = useProject().sources.filter((source) => source.kind === 'soundInput').length
  const devices = inputChoices(inputs)
  const [deviceId, setDeviceId] = useState<string | null>(null)
  const [preset, setPreset] = useState<ListenerPreset | null>(null)
  const [inputChannel, setInputChannel] = useState(1)
  const device = devices.find(({ id }) => id === deviceId) ?? usualInput
  const player = standInAt(device.id)
  const chosenPreset = preset ?? player?.preset ?? 'any'
  return (
    <Section
      title="Sound in"
      state={heard === 0 ? 'a guitar, a voice' : heard === 1 ? 'one is heard' : `${heard} are heard`}
    >
      <p className="text-soft">
        What is played or sung becomes notes as it is heard, one at a time, and goes wherever notes go. Its
        sound is kept with the take. A microphone hears loudspeakers too: wear headphones.
      </p>
      <Choice
        label="input"
        value={device.id}
        options={devices.map((each) => ({ value: each.id, text: inputWords(each) }))}
        onChange={(id) => {
          setDeviceId(id)
          setPreset(null)
        }}
      />
      <div className="flex flex-wrap items-center gap-x-3 gap-y-2">
        <Choice label="it is" value={chosenPreset} options={presetOptions} onChange={setPreset} />
        {!player && (
          <NumberField
            label="channel"
            value={inputChannel}
            min={1}
            max={mostInputChannels}
            className="w-10"
            onChange={setInputChannel}
          />
        )}
      </div>
      <Button
        disabled={isReadOnly}
        onClick={() => session.soundInputs.seat(device, chosenPreset, player ? 1 : inputChannel)}
      >
        <Mic size={15} aria-hidden /> Listen
      </Button>
      {!player && inputs.length === 0 && (
        <p className="text-[12px] text-soft">
          The browser asks first, and names the other inputs then. The three stand-ins play without a
          microphone.
        </p>
      )}
    </Section>
  )
}
