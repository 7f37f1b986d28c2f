import { Mic } from 'lucide-react'
import { useState } from 'react'
import { standInAt } from '@/core/demo/soundingPlayers'
import type { ListenerPreset } from '@/core/pitch/listenerSettings'
import { mostInputChannels } from '@/core/pitch/soundInput'
import { Button } from '../controls/Button'
import { Choice } from '../controls/Choice'
import { NumberField } from '../controls/NumberField'
import { Section } from '../controls/Section'
import { useHistory, useLive, useProject, useSession } from '../workspace/sessionContext'
import { inputChoices, inputWords, usualInput } from './inputChoices'
import { presetOptions } from './presetWords'

/** Seats somebody who is heard through an input: an instrument, a voice, or a stand-in who sounds. */
export function JoinBySound() {
  const session = useSession()
  const inputs = useLive((state) => state.inputDevices)
  const isReadOnly = useHistory((state) => state.isReadOnly)
  const seated = useProject().sources.flatMap(({ soundInput }) => (soundInput ? [soundInput] : []))
  const devices = inputChoices(inputs)
  const [deviceId, setDeviceId] = useState<string | null>(null)
  const [preset, setPreset] = useState<ListenerPreset | null>(null)
  const [inputChannel, setInputChannel] = useState(1)
  const device = devices.find(({ id }) => id === deviceId) ?? usualInput
  const player = standInAt(device.id)
  const channel = player ? 1 : inputChannel
  const isSeated = seated.some((each) => each.deviceId === device.id && each.inputChannel === channel)
  const chosenPreset = preset ?? player?.preset ?? 'any'
  return (
    <Section
      title="Sound in"
      state={
        seated.length === 0
          ? 'a guitar, a voice'
          : seated.length === 1
            ? 'one is heard'
            : `${seated.length} are heard`
      }
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
        disabled={isReadOnly || isSeated}
        onClick={() => session.soundInputs.seat(device, chosenPreset, channel)}
      >
        <Mic size={15} aria-hidden /> Listen
      </Button>
      {isSeated && (
        <p className="text-[12px] text-soft">
          {player ? `${player.name} has a seat already.` : 'This channel of the input has a seat already.'}
        </p>
      )}
      {!player && inputs.length === 0 && (
        <p className="text-[12px] text-soft">
          The browser asks first, and names the other inputs then. The three stand-ins play without a
          microphone.
        </p>
      )}
    </Section>
  )
}
