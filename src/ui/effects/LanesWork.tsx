import { Plus, Trash2 } from 'lucide-react'
import { useState } from 'react'
import { useStore } from 'zustand'
import { type NoteValue, noteValueNames } from '@/core/effects/settings'
import { keyName } from '@/core/event/note'
import type { GeneratorWork } from '@/core/generators/generator'
import {
  directions,
  type Lane,
  type LaneStep,
  type MovableSetting,
  movableRanges,
  movableSettings,
  stepsOf,
} from '@/core/generators/lane'
import { stepLane } from '@/core/project/generatorCommands'
import { Button } from '../controls/Button'
import { Choice } from '../controls/Choice'
import { NumberFields, type NumberSetting } from '../controls/NumberFields'
import { Tick } from '../controls/Tick'
import { useSession } from '../workspace/sessionContext'
import { MovementRow } from './Movements'

type LanesWorkOf = Extract<GeneratorWork, { kind: 'lanes' }>

const laneAddress: readonly NumberSetting<'channel'>[] = [
  { name: 'channel', label: 'channel', min: 1, max: 16, className: 'w-10' },
]

const laneSettings: readonly NumberSetting<'gate' | 'transpose' | 'force' | 'chance' | 'swing'>[] = [
  { name: 'gate', label: 'gate', min: 5, max: 100, unit: '%' },
  { name: 'transpose', label: 'transpose', min: -48, max: 48 },
  { name: 'force', label: 'force', min: 10, max: 200, unit: '%' },
  { name: 'chance', label: 'chance', min: 0, max: 100, unit: '%' },
  { name: 'swing', label: 'swing', min: 50, max: 75, unit: '%' },
]

const keySetting = (key: number): NumberSetting<'key'> => ({
  name: 'key',
  label: `key (${keyName(key)})`,
  min: 0,
  max: 127,
})

const velocitySetting: NumberSetting<'velocity'> = { name: 'velocity', label: 'force', min: 1, max: 127 }

const stepSettings = (key: number): readonly NumberSetting<'key' | 'velocity' | 'chance'>[] => [
  keySetting(key),
  velocitySetting,
  { name: 'chance', label: 'chance', min: 0, max: 100, unit: '%' },
]

const pulseSettings = ({
  key,
  steps,
}: {
  key: number
  steps: number
}): readonly NumberSetting<'pulses' | 'steps' | 'rotation' | 'key' | 'velocity' | 'accent'>[] => [
  { name: 'pulses', label: 'pulses', min: 0, max: steps, className: 'w-10' },
  { name: 'steps', label: 'in steps', min: 1, max: 64, className: 'w-10' },
  { name: 'rotation', label: 'turned by', min: -64, max: 64, className: 'w-10' },
  keySetting(key),
  velocitySetting,
  { name: 'accent', label: 'first louder by', min: 0, max: 60, className: 'w-10' },
]

/** Lanes that turn round and round, each with its pattern, channel and pace. */
export function LanesWork({
  work,
  onChange,
}: {
  work: LanesWorkOf
  onChange: (label: string, work: GeneratorWork, group?: string) => void
}) {
  const setLane = (lane: Lane, label: string, group?: string) =>
    onChange(label, { ...work, lanes: work.lanes.map((old) => (old.id === lane.id ? lane : old)) }, group)
  const add = (isEuclid: boolean) => {
    const number = Math.max(0, ...work.lanes.map((lane) => Number(lane.id.split('-')[1]) || 0)) + 1
    const used = new Set(work.lanes.map((lane) => lane.channel))
    const channel =
      Array.from({ length: 16 }, (_, index) => index + 1).find((each) => !used.has(each) && each !== 10) ?? 1
    const lane = stepLane(
      `lane-${number}`,
      `Lane ${number}`,
      isEuclid
        ? {
            channel,
            rate: '1/16',
            pattern: { kind: 'euclid', pulses: 3, steps: 8, rotation: 0, key: 60, velocity: 88, accent: 12 },
          }
        : { channel },
    )
    onChange('add a lane', { ...work, lanes: [...work.lanes, lane] })
  }
  return (
    <div>
      <ol className="space-y-2">
        {work.lanes.map((lane) => (
          <LaneCard
            key={lane.id}
            lane={lane}
            onChange={setLane}
            onRemove={() =>
              onChange(`take out ${lane.name}`, {
                ...work,
                lanes: work.lanes.filter((old) => old.id !== lane.id),
              })
            }
          />
        ))}
      </ol>
      <div className="mt-2 flex gap-2">
        <Button onClick={() => add(false)}>
          <Plus size={15} aria-hidden /> A lane of steps
        </Button>
        <Button onClick={() => add(true)}>
          <Plus size={15} aria-hidden /> A lane of even pulses
        </Button>
      </div>
    </div>
  )
}

type SetLane = (lane: Lane, label: string, group?: string) => void

function LaneCard({ lane, onChange, onRemove }: { lane: Lane; onChange: SetLane; onRemove: () => void }) {
  const { names: cables } = useStore(useSession().cables.store)
  const set = (label: string, fields: Partial<Lane>, group?: string) =>
    onChange({ ...lane, ...fields }, `${label} of ${lane.name}`, group && `${lane.id} ${group}`)
  const setNumber = (name: keyof Lane, value: number, { label }: { label: string }) =>
    set(label, { [name]: value })
  const still = movableSettings(lane).filter(
    (setting) => !lane.movements.some((movement) => movement.setting === setting),
  )
  return (
    <li className="rounded-lg border border-[#b9ad93] bg-sheet px-3 py-2" data-lane-of-generator={lane.id}>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1.5 text-[13px]">
        <input
          aria-label="Name of the lane"
          className="w-32 rounded border border-transparent bg-transparent px-1 font-serif text-[15px] font-semibold hover:border-rule"
          value={lane.name}
          maxLength={200}
          onChange={(event) => event.target.value && set('name', { name: event.target.value }, 'name')}
        />
        <Tick isOn={lane.isOn} onChange={(isOn) => set(isOn ? 'switch on' : 'switch off', { isOn })}>
          on
        </Tick>
        <NumberFields settings={laneAddress} values={lane} onChange={setNumber} />
        <Choice
          label="cable"
          className="text-[12px]"
          value={lane.cable ?? ''}
          options={[{ value: '', text: 'none' }, ...cables.map((name) => ({ value: name, text: name }))]}
          onChange={(name) => set('cable', { cable: name || null })}
        />
        <Choice
          label="rate"
          className="text-[12px]"
          value={lane.rate}
          options={noteValueNames.map((value) => ({ value, text: value }))}
          onChange={(rate: NoteValue) => set('rate', { rate })}
        />
        <Choice
          label="direction"
          className="text-[12px]"
          value={lane.direction}
          options={directions.map((value) => ({ value, text: value }))}
          onChange={(direction) => set('direction', { direction })}
        />
        <Button
          look="quiet"
          className="ml-auto px-1.5"
          aria-label={`Take out ${lane.name}`}
          onClick={onRemove}
        >
          <Trash2 size={14} aria-hidden />
        </Button>
      </div>
      <div className="mt-1.5 flex flex-wrap items-center gap-x-4 gap-y-1.5 text-[13px]">
        <NumberFields settings={laneSettings} values={lane} onChange={setNumber} />
        {still.length > 0 && (
          <select
            aria-label={`Let a setting of ${lane.name} move`}
            className="rounded border border-rule bg-sheet px-1.5 py-0.5 text-[12px] text-soft"
            value=""
            onChange={(event) => {
              const setting = still.find((each) => each === event.target.value)
              if (!setting) return
              const [from, to] = rangeToBegin(lane, setting)
              set('movement', {
                movements: [
                  ...lane.movements,
                  { setting, shape: 'sine', periodQuarters: 16, from, to, points: [0, 50, 100, 50] },
                ],
              })
            }}
          >
            <option value="">let a setting move…</option>
            {still.map((setting) => (
              <option key={setting}>{setting}</option>
            ))}
          </select>
        )}
      </div>
      {lane.movements.map((movement) => (
        <div key={movement.setting} className="mt-1.5">
          <MovementRow
            movement={movement}
            title={movement.setting}
            range={movableRanges[movement.setting]}
            onChange={(next) =>
              set(
                'movement',
                {
                  movements: lane.movements.map((each) => (each.setting === movement.setting ? next : each)),
                },
                movement.setting,
              )
            }
            onRemove={() =>
              set('movement', {
                movements: lane.movements.filter((each) => each.setting !== movement.setting),
              })
            }
          />
        </div>
      ))}
      {lane.pattern.kind === 'steps' ? <Steps lane={lane} set={set} /> : <Pulses lane={lane} set={set} />}
    </li>
  )
}

/** Between which values a movement begins: those that make sense in the pattern there is. */
function rangeToBegin({ pattern }: Lane, setting: MovableSetting): readonly [number, number] {
  if (pattern.kind === 'euclid') {
    if (setting === 'pulses') return [1, pattern.steps]
    if (setting === 'rotation') return [0, pattern.steps]
    if (setting === 'steps') return [Math.max(1, pattern.pulses), pattern.steps]
  }
  return movableRanges[setting]
}

type SetFields = (label: string, fields: Partial<Lane>, group?: string) => void

const restStep: LaneStep = { key: null, velocity: 88, isTied: false, chance: 100 }

/** The steps as a row; the chosen one is set below. */
function Steps({ lane, set }: { lane: Lane; set: SetFields }) {
  const [chosen, setChosen] = useState(0)
  if (lane.pattern.kind !== 'steps') return null
  const { steps } = lane.pattern
  const at = Math.min(chosen, steps.length - 1)
  const step = steps[at]!
  const setSteps = (label: string, next: readonly LaneStep[], group?: string) =>
    set(label, { pattern: { kind: 'steps', steps: [...next] } }, group)
  const change = (label: string, fields: Partial<LaneStep>, group?: string) =>
    setSteps(
      label,
      steps.map((old, index) => (index === at ? { ...old, ...fields } : old)),
      group,
    )
  return (
    <div className="mt-2">
      <fieldset className="flex flex-wrap gap-1" aria-label={`Steps of ${lane.name}`}>
        {steps.map((each, index) => (
          <button
            key={index}
            type="button"
            aria-pressed={index === at}
            aria-label={`Step ${index + 1}: ${each.isTied ? 'tied' : each.key === null ? 'rest' : keyName(each.key)}`}
            className={`h-9 w-11 rounded border text-[12px] font-semibold ${index === at ? 'border-2 border-ink' : 'border-rule'} ${each.key === null || each.isTied ? 'bg-desk text-soft' : 'text-ink'}`}
            style={
              each.key !== null && !each.isTied
                ? { background: `rgba(47, 76, 140, ${0.12 + (each.velocity / 127) * 0.35})` }
                : undefined
            }
            onClick={() => setChosen(index)}
            onDoubleClick={() => change('a rest', { key: each.key === null ? 60 : null })}
            onKeyDown={(event) => {
              const by = { ArrowUp: 1, ArrowDown: -1 }[event.key]
              if (event.key === 'ArrowRight') setChosen(Math.min(steps.length - 1, at + 1))
              if (event.key === 'ArrowLeft') setChosen(Math.max(0, at - 1))
              if (event.key === 'Delete') change('a rest', { key: null })
              if (by) {
                event.preventDefault()
                change('key', { key: Math.max(0, Math.min(127, (step.key ?? 60) + by)) }, 'key')
              }
            }}
          >
            {each.isTied ? '—' : each.key === null ? '·' : keyName(each.key)}
          </button>
        ))}
        <Button
          look="quiet"
          className="px-2"
          aria-label="One more step"
          disabled={steps.length >= 64}
          onClick={() => setSteps('longer', [...steps, restStep])}
        >
          +
        </Button>
        <Button
          look="quiet"
          className="px-2"
          aria-label="One step less"
          disabled={steps.length <= 1}
          onClick={() => setSteps('shorter', steps.slice(0, -1))}
        >
          −
        </Button>
      </fieldset>
      <div className="mt-1.5 flex flex-wrap items-center gap-4 text-[12px] text-soft">
        <span>step {at + 1}</span>
        <Tick
          isOn={step.key === null}
          onChange={(isRest) => change('a rest', { key: isRest ? null : 60, isTied: false })}
        >
          rest
        </Tick>
        <Tick isOn={step.isTied} onChange={(isTied) => change('a tie', { isTied })}>
          tied to the one before
        </Tick>
        {step.key !== null && (
          <NumberFields
            settings={stepSettings(step.key)}
            values={{ ...step, key: step.key }}
            onChange={(name, value) => change(name === 'velocity' ? 'force' : name, { [name]: value })}
          />
        )}
        <span>arrows: choose and change the key; double press: rest</span>
      </div>
    </div>
  )
}

/** Pulses spread evenly over steps, seen as a row. */
function Pulses({ lane, set }: { lane: Lane; set: SetFields }) {
  if (lane.pattern.kind !== 'euclid') return null
  const { pattern } = lane
  return (
    <div className="mt-2 flex flex-wrap items-center gap-4 text-[13px]">
      <NumberFields
        settings={pulseSettings(pattern)}
        values={pattern}
        onChange={(name, value) =>
          set(name === 'velocity' ? 'force' : name, {
            pattern: {
              ...pattern,
              [name]: value,
              ...(name === 'steps' && { pulses: Math.min(pattern.pulses, value) }),
            },
          })
        }
      />
      <span
        className="font-mono tracking-widest"
        role="img"
        aria-label={`${pattern.pulses} pulses in ${pattern.steps} steps`}
      >
        {stepsOf(pattern)
          .map((step) => (step.key === null ? '·' : '●'))
          .join('')}
      </span>
    </div>
  )
}
