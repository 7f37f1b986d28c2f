import { ChevronDown } from 'lucide-react'
import type { MonitorMode, Project, Track } from '@/core/project/schema'
import { setTrack, type TrackSettings } from '@/core/project/settings'
import type { Route } from '@/core/routing/route'
import { plainRoute } from '@/core/routing/route'
import { tracksOf } from '@/core/wiring/reaching'
import type { WiringRemark } from '@/core/wiring/wiringRemark'
import { Button } from '../controls/Button'
import { Choice } from '../controls/Choice'
import { EditableName } from '../controls/EditableName'
import { InstrumentChoice } from '../controls/InstrumentChoice'
import { NumberField } from '../controls/NumberField'
import { Tick } from '../controls/Tick'
import { threadOf } from '../theme/threads'
import { useLive, useSession } from '../workspace/sessionContext'
import { usePortsToSend } from './portsToSend'
import { CardRemarks } from './Remark'
import { RouteEditor } from './RouteEditor'

const monitorOptions: readonly { value: MonitorMode; text: string }[] = [
  { value: 'always', text: 'always' },
  { value: 'armed', text: 'when armed' },
  { value: 'off', text: 'never' },
]

/** A track that hears somebody: whom, through which instrument, and below it the ways in and out. */
export function TrackCard({
  track,
  project,
  isOpen,
  onToggle,
  remarks,
}: {
  track: Track
  project: Project
  isOpen: boolean
  onToggle: () => void
  remarks: readonly WiringRemark[]
}) {
  const session = useSession()
  const apply = session.store.getState().apply
  const thread = threadOf(track.thread)
  const isHeard = project.sources.some((source) =>
    tracksOf(project, source).some((listener) => listener.id === track.id),
  )
  const change = (label: string, settings: TrackSettings) =>
    apply(label, (before) => setTrack(before, track.id, settings))
  const setRoutes = (label: string, routes: readonly Route[]) => change(label, { routes: [...routes] })
  const { portId, channel } = track.routes[0]!
  const current = project.sources.find(
    (source) => source.address.portId === portId && source.address.channel === channel,
  )
  const options = [
    ...(current ? [] : [{ value: 'other', text: channel === null ? 'any channel' : `channel ${channel}` }]),
    { value: '', text: 'nobody' },
    ...project.sources.map((source) => ({ value: source.id, text: source.name })),
  ]
  return (
    <li
      data-track={track.id}
      className={`min-h-16 rounded-lg border-2 bg-sheet px-2.5 py-1.5 ${isHeard ? '' : 'border-dashed'}`}
      style={{ borderColor: isHeard ? thread.colour : '#b9ad93' }}
    >
      <div className="flex items-center gap-1.5">
        <h3 className="min-w-0 flex-1">
          <EditableName
            name={track.name}
            label="Track"
            className="font-serif text-[15px] leading-5 font-semibold"
            onRename={(name) => change(`rename to “${name}”`, { name })}
          />
        </h3>
        <Tick arms isOn={track.isArmed} onChange={(isArmed) => session.setArmed(track.id, isArmed)}>
          armed
        </Tick>
        <button
          type="button"
          aria-expanded={isOpen}
          aria-label={`Ways of ${track.name}`}
          className="rounded p-0.5 text-soft hover:bg-desk"
          onClick={onToggle}
        >
          <ChevronDown size={15} className={isOpen ? 'rotate-180' : ''} aria-hidden />
        </button>
      </div>
      <div className="flex items-center gap-2">
        <Choice
          label="hears"
          className="min-w-0 flex-1 text-[12px]"
          value={current?.id ?? 'other'}
          options={options}
          onChange={(id) => {
            const source = project.sources.find((candidate) => candidate.id === id)
            if (id !== 'other')
              setRoutes('change who a track hears', [
                ...(source ? [plainRoute(source.address)] : []),
                ...(source ? track.routes.slice(1) : []),
              ])
          }}
        />
        <AssignButton track={track} />
      </div>
      <CardRemarks remarks={remarks} isOpen={isOpen} />
      {isOpen && (
        <div className="mt-2 space-y-2 border-t border-rule pt-2">
          {track.routes.map((route, index) => (
            <RouteEditor
              key={index}
              number={track.routes.length > 1 ? index + 1 : null}
              route={route}
              project={project}
              onChange={(label, next) =>
                setRoutes(
                  label,
                  track.routes.map((old, place) => (place === index ? next : old)),
                )
              }
              onRemove={() =>
                setRoutes(
                  'close a way in',
                  track.routes.filter((_, place) => place !== index),
                )
              }
            />
          ))}
          <Button
            className="px-2 py-0.5 text-[12px]"
            onClick={() => setRoutes('open another way in', [...track.routes, track.routes[0]!])}
          >
            Another way in
          </Button>
          <div className="flex items-center gap-2 text-[12px] text-soft">
            <span>sounds as</span>
            <InstrumentChoice
              label={`Instrument of ${track.name}`}
              instrument={track.instrument}
              onChange={(instrument) => change('change the instrument', { instrument })}
            />
          </div>
          <Choice
            label="is heard"
            className="text-[12px]"
            value={track.monitor}
            options={monitorOptions}
            onChange={(monitor) => change('change the monitoring', { monitor })}
          />
          <SendTo track={track} />
          <NumberField
            label="plays later by"
            value={track.offsetMs}
            min={-100}
            max={500}
            unit="ms"
            onChange={(offsetMs) => change('change the playing offset', { offsetMs })}
          />
        </div>
      )}
    </li>
  )
}

/** A port or cable that gets what the track plays. */
function SendTo({ track }: { track: Track }) {
  const session = useSession()
  const ports = usePortsToSend(track.sendTo?.portId ?? null)
  return (
    <div className="flex flex-wrap items-center gap-2">
      <Choice
        label="also sends to"
        className="text-[12px]"
        value={track.sendTo?.portId ?? ''}
        options={[{ value: '', text: 'nobody' }, ...ports]}
        onChange={(portId) =>
          session.setSend(track.id, portId ? { portId, channel: track.sendTo?.channel ?? null } : null)
        }
      />
      {track.sendTo && (
        <Choice
          label="on channel"
          className="text-[12px]"
          value={track.sendTo.channel ?? 0}
          options={[
            { value: 0, text: `its own (${track.channel})` },
            ...Array.from({ length: 16 }, (_, index) => ({ value: index + 1, text: String(index + 1) })),
          ]}
          onChange={(channel) =>
            session.setSend(track.id, { portId: track.sendTo!.portId, channel: channel || null })
          }
        />
      )}
    </div>
  )
}

function AssignButton({ track }: { track: Track }) {
  const session = useSession()
  const isAssigning = useLive((state) => state.assigningTrackId === track.id)
  return (
    <Button
      look={isAssigning ? 'live' : 'plain'}
      className="px-2 py-0 text-[12px]"
      aria-pressed={isAssigning}
      aria-label={isAssigning ? `${track.name} waits for whoever plays` : `Assign ${track.name} by playing`}
      title="Press, then play one note on any device"
      onClick={() => session.assignByPlaying(isAssigning ? null : track.id)}
    >
      {isAssigning ? 'play now' : 'assign'}
    </Button>
  )
}

/** A track nobody plays on: in one line, ready to be assigned. */
export function UnheardTrack({ track }: { track: Track }) {
  return (
    <li className="flex items-center gap-2 rounded-md border border-rule px-2 py-0.5">
      <span
        className="h-2.5 w-2.5 shrink-0 rounded-full"
        style={{ background: threadOf(track.thread).colour }}
        aria-hidden
      />
      <span className="min-w-0 flex-1 truncate text-[13px]">{track.name}</span>
      <AssignButton track={track} />
    </li>
  )
}
