import { X } from 'lucide-react'
import { keyName, parseKeyName } from '@/core/event/note'
import type { Project } from '@/core/project/schema'
import type { Route, VelocityShape } from '@/core/routing/route'
import { Choice } from '../controls/Choice'
import { NumberField } from '../controls/NumberField'
import { Slider } from '../controls/Slider'

const channelOptions = Array.from({ length: 16 }, (_, index) => ({
  value: index + 1,
  text: String(index + 1),
}))

const velocityOptions: readonly { value: VelocityShape['kind']; text: string }[] = [
  { value: 'asPlayed', text: 'as played' },
  { value: 'curve', text: 'by a curve' },
  { value: 'fixed', text: 'fixed' },
]

/** One way into a track: from which port and channel, which keys, and what changes on the way. */
export function RouteEditor({
  number,
  route,
  project,
  onChange,
  onRemove,
}: {
  number: number | null
  route: Route
  project: Project
  onChange: (label: string, route: Route) => void
  onRemove: () => void
}) {
  const ports = new Map(
    project.sources.map((source) => [source.address.portId, source.portName || source.name]),
  )
  if (!ports.has(route.portId)) ports.set(route.portId, 'another port')
  const { velocity } = route
  return (
    <fieldset className="space-y-1.5 rounded-md bg-desk px-2 py-1.5">
      <legend className="sr-only">{number === null ? 'The way in' : `Way in ${number}`}</legend>
      <div className="flex items-center gap-2">
        <Choice
          label="from"
          className="min-w-0 flex-1 text-[12px]"
          value={route.portId}
          options={[...ports].map(([value, text]) => ({ value, text }))}
          onChange={(portId) => onChange('change the port of a way in', { ...route, portId })}
        />
        <button
          type="button"
          className="rounded p-0.5 text-soft hover:bg-rule"
          aria-label="Close this way in"
          onClick={onRemove}
        >
          <X size={13} aria-hidden />
        </button>
      </div>
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1.5">
        <Choice
          label="channel"
          className="text-[12px]"
          value={route.channel ?? 0}
          options={[{ value: 0, text: 'any' }, ...channelOptions]}
          onChange={(channel) =>
            onChange('change the channel of a way in', { ...route, channel: channel || null })
          }
        />
        <Choice
          label="becomes"
          className="text-[12px]"
          value={route.toChannel ?? 0}
          options={[{ value: 0, text: 'as it is' }, ...channelOptions]}
          onChange={(channel) => onChange('re-channel a way in', { ...route, toChannel: channel || null })}
        />
      </div>
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1.5">
        <KeyField
          label="keys"
          value={route.lowKey}
          onChange={(lowKey) =>
            onChange('change a key range', { ...route, lowKey, highKey: Math.max(lowKey, route.highKey) })
          }
        />
        <KeyField
          label="to"
          value={route.highKey}
          onChange={(highKey) =>
            onChange('change a key range', { ...route, highKey, lowKey: Math.min(highKey, route.lowKey) })
          }
        />
        <NumberField
          label="transpose"
          value={route.transposeSemitones}
          min={-60}
          max={60}
          className="w-10"
          onChange={(transposeSemitones) =>
            onChange('transpose on the way in', { ...route, transposeSemitones })
          }
        />
      </div>
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1.5">
        <Choice
          label="velocity"
          className="text-[12px]"
          value={velocity.kind}
          options={velocityOptions}
          onChange={(kind) =>
            onChange('shape the velocity on the way in', {
              ...route,
              velocity:
                kind === 'fixed'
                  ? { kind, velocity: 90 }
                  : kind === 'curve'
                    ? { kind, lift: 0.3 }
                    : { kind: 'asPlayed' },
            })
          }
        />
        {velocity.kind === 'fixed' && (
          <NumberField
            label="at"
            value={velocity.velocity}
            min={1}
            max={127}
            className="w-10"
            onChange={(fixed) =>
              onChange('change the fixed velocity', {
                ...route,
                velocity: { kind: 'fixed', velocity: fixed },
              })
            }
          />
        )}
        {velocity.kind === 'curve' && (
          <Slider
            label="Lift of light touches"
            className="w-20"
            value={velocity.lift}
            min={-1}
            max={1}
            step={0.05}
            valueText={`${Math.round(velocity.lift * 100)} %`}
            onChange={(lift) =>
              onChange('change the velocity curve', { ...route, velocity: { kind: 'curve', lift } })
            }
          />
        )}
      </div>
    </fieldset>
  )
}

/** A key by its name or number; what is neither is put back. */
function KeyField({
  label,
  value,
  onChange,
}: {
  label: string
  value: number
  onChange: (key: number) => void
}) {
  return (
    <label className="flex items-center gap-1.5 text-[12px]">
      <span className="text-soft">{label}</span>
      <input
        key={value}
        className="w-12 rounded border border-rule bg-sheet px-1 py-0.5 font-semibold"
        defaultValue={keyName(value)}
        title="A note name such as C4, or a key number"
        onBlur={(event) => {
          const key = parseKeyName(event.target.value)
          if (key === undefined) event.target.value = keyName(value)
          else if (key !== value) onChange(key)
        }}
        onKeyDown={(event) => {
          if (event.key === 'Enter') event.currentTarget.blur()
        }}
      />
    </label>
  )
}
