import { useStore } from 'zustand'
import { setClock } from '@/core/project/settings'
import { cableName, cablePortId } from '@/core/routing/ports'
import { Choice } from '../controls/Choice'
import { Section } from '../controls/Section'
import { Tick } from '../controls/Tick'
import { useLive, useProject, useSession } from '../workspace/sessionContext'
import { usePortsToSend } from './portsToSend'

/** MIDI clock: to whom it is sent, and whose is followed. */
export function ClockSection() {
  const session = useSession()
  const { clock } = useProject()
  const followed = useLive((state) => state.followedClock)
  const midi = useLive((state) => state.midi)
  const { names } = useStore(session.cables.store)
  const ports = usePortsToSend(null)
  const apply = session.store.getState().apply
  const change = (label: string, fields: Partial<typeof clock>) =>
    apply(label, (before) => setClock(before, fields))
  const followable = [
    { value: '', text: 'nobody, keep time here' },
    ...names.map((name) => ({ value: cablePortId(name), text: `cable ${name}` })),
    ...(midi.state === 'ready' ? midi.ports : []).map((port) => ({ value: port.id, text: port.name })),
  ]
  if (clock.follow && !followable.some((port) => port.value === clock.follow))
    followable.push({
      value: clock.follow,
      text: cableName(clock.follow) ? `cable ${cableName(clock.follow)}` : 'a port that is not here',
    })
  const state = clock.follow
    ? followed.isRunning
      ? `following at ${followed.tempoBpm?.toFixed(1)}`
      : 'waits for a clock'
    : clock.sendTo.length > 0
      ? `sent to ${clock.sendTo.length}`
      : 'kept here'
  return (
    <Section title="Clock" state={state}>
      <Choice
        label="follow"
        value={clock.follow ?? ''}
        options={followable}
        onChange={(portId) =>
          change(portId ? 'follow a clock' : 'keep time here', {
            follow: portId || null,
            sendTo: clock.sendTo.filter((to) => to !== portId),
          })
        }
      />
      {clock.follow && (
        <p className="text-[12px] text-soft" role="status">
          {followed.isRunning
            ? `The clock runs at ${followed.tempoBpm?.toFixed(2)} quarters a minute.`
            : 'Playing and recording start and stop with the clock.'}
        </p>
      )}
      <fieldset className="space-y-1">
        <legend className="mb-1 flex w-full items-baseline justify-between text-soft">
          send clock, start, stop and position to
        </legend>
        <Tick
          isOn={ports.length > 0 && ports.every((port) => clock.sendTo.includes(port.value))}
          onChange={(isOn) =>
            change(isOn ? 'send the clock to all' : 'send the clock to nobody', {
              sendTo: isOn ? ports.map((port) => port.value).filter((portId) => portId !== clock.follow) : [],
            })
          }
        >
          all of them
        </Tick>
        {ports.map((port) => (
          <Tick
            key={port.value}
            isOn={clock.sendTo.includes(port.value)}
            isDisabled={clock.follow === port.value}
            onChange={(isOn) =>
              change(isOn ? `send the clock to ${port.text}` : `send ${port.text} no clock`, {
                sendTo: isOn
                  ? [...clock.sendTo, port.value]
                  : clock.sendTo.filter((portId) => portId !== port.value),
              })
            }
          >
            {port.text}
          </Tick>
        ))}
      </fieldset>
    </Section>
  )
}
