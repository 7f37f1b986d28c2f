import { useState } from 'react'
import { standInAt } from '@/core/demo/soundingPlayers'
import { keyName } from '@/core/event/note'
import { mostInputChannels, type SoundInput, withPreset } from '@/core/pitch/soundInput'
import type { Source } from '@/core/project/schema'
import { Button } from '../controls/Button'
import { Choice } from '../controls/Choice'
import { NumberField } from '../controls/NumberField'
import { SliderRow } from '../controls/Slider'
import { Tick } from '../controls/Tick'
import { useLive, useSession } from '../workspace/sessionContext'
import { inputChoices, inputWords } from './inputChoices'
import { PitchTrace } from './PitchTrace'
import { presetOptions, presetWords } from './presetWords'
import { TunerPanel } from './TunerPanel'

/** How an input is listened to: its trace, a tuner, and what can be set. */
export function SoundInputSettings({
  source,
  input,
  colour,
}: {
  source: Source
  input: SoundInput
  colour: string
}) {
  const session = useSession()
  const devices = useLive((live) => live.inputDevices)
  const state = useLive((live) => live.soundInputs[source.id])
  const [isTuning, setIsTuning] = useState(false)
  const change = (label: string, settings: Partial<SoundInput>) =>
    session.soundInputs.change(source.id, label, settings)
  const known = inputChoices(devices)
  const isThere = known.some(({ id }) => id === input.deviceId)
  const absent = { id: input.deviceId, name: input.deviceName }
  const inputs = isThere ? known : [absent, ...known]
  return (
    <div className="space-y-2">
      <PitchTrace sourceId={source.id} name={source.name} colour={colour} />
      <Button
        className="px-2 py-0.5 text-[12px]"
        aria-pressed={isTuning}
        onClick={() => setIsTuning(!isTuning)}
      >
        Tuner
      </Button>
      {isTuning && (
        <TunerPanel
          sourceId={source.id}
          concertHz={input.concertHz}
          onConcert={(concertHz) => change(`A4 is ${concertHz} Hz`, { concertHz })}
        />
      )}
      <Choice
        label="input"
        value={input.deviceId}
        options={inputs.map((each) => ({
          value: each.id,
          text: each === absent ? `${each.name} (not there)` : inputWords(each),
        }))}
        onChange={(deviceId) =>
          change('choose another input', {
            deviceId,
            deviceName: inputs.find(({ id }) => id === deviceId)?.name ?? '',
          })
        }
      />
      {!standInAt(input.deviceId) && (
        <NumberField
          label="channel of the input"
          value={input.inputChannel}
          min={1}
          max={mostInputChannels}
          className="w-10"
          onChange={(inputChannel) => change(`listen to channel ${inputChannel}`, { inputChannel })}
        />
      )}
      <Choice
        label="it is"
        value={input.preset}
        options={presetOptions}
        onChange={(preset) => change(`listen to ${presetWords[preset]}`, withPreset(input, preset))}
      />
      <div className="flex flex-wrap gap-x-3 gap-y-1">
        <NumberField
          label={`from ${keyName(input.lowKey)}, key`}
          value={input.lowKey}
          min={12}
          max={input.highKey - 1}
          className="w-10"
          onChange={(lowKey) => change('change the lowest key', { lowKey })}
        />
        <NumberField
          label={`to ${keyName(input.highKey)}, key`}
          value={input.highKey}
          min={input.lowKey + 1}
          max={108}
          className="w-10"
          onChange={(highKey) => change('change the highest key', { highKey })}
        />
      </div>
      <div className="text-[12px]">
        <SliderRow
          name="silence below"
          value={input.gateDb}
          min={-90}
          max={-10}
          step={1}
          valueText={`${input.gateDb} dB`}
          className="w-24"
          onChange={(gateDb) => change('change the gate', { gateDb })}
        />
        <SliderRow
          name="hears attacks"
          value={input.sensitivity}
          min={0}
          max={1}
          step={0.05}
          valueText={`${Math.round(input.sensitivity * 100)} %`}
          className="w-24"
          onChange={(sensitivity) => change('change the sensitivity', { sensitivity })}
        />
      </div>
      <NumberField
        label="no note is shorter than"
        value={input.shortestMs}
        min={20}
        max={400}
        unit="ms"
        onChange={(shortestMs) => change('change the shortest note', { shortestMs })}
      />
      <Tick
        isOn={input.doesBend}
        onChange={(doesBend) => change(doesBend ? 'send bends' : 'round to keys', { doesBend })}
      >
        send what lies between the keys as bends
      </Tick>
      {state?.state === 'listening' && (
        <p className="text-[12px] text-soft">
          {state.latencyMs > 0
            ? `The input says it is ${Math.round(state.latencyMs)} ms late; that is taken off. `
            : 'The input does not say how late it is. '}
          Notes are kept where they began in the sound. What the way from string to computer adds can be
          measured below.
        </p>
      )}
    </div>
  )
}
