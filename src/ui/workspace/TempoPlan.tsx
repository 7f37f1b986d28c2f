import { ListMusic } from 'lucide-react'
import { Popover } from 'radix-ui'
import { useState } from 'react'
import { contextOf } from '@/core/project/context'
import type { Project } from '@/core/project/schema'
import { removeMeterAt, removeTempoAt, setMeterAt, setTempoAt } from '@/core/project/tempoEdits'
import { Button } from '../controls/Button'
import { ChangeAtBar } from '../controls/ChangeAtBar'
import { Choice } from '../controls/Choice'
import { NumberField } from '../controls/NumberField'
import { meterFrom, meterOptions } from './meterOptions'
import { useProject, useSession, useView } from './sessionContext'
import { viewStore } from './viewStore'

/** Tempo and meter along the piece: every change, and what recorded notes keep when one is made. */
export function TempoPlan() {
  const session = useSession()
  const project = useProject()
  const keep = useView((state) => state.keptPosition)
  const [bar, setBar] = useState(5)
  const apply = session.store.getState().apply
  const meterMap = contextOf(project).meterMap
  const barOf = (tick: number) => meterMap.measureAt(tick).index + 1
  const isPlain = project.tempos.length === 1 && project.meters.length === 1
  const meterText = (meter: Project['meters'][number]) => `${meter.numerator}/${meter.denominator}`
  const startOf = (number: number) => meterMap.measure(number - 1).startTicks
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <Button
          look="quiet"
          className="px-1.5 py-1"
          aria-label="Tempo and meter along the piece"
          title="Tempo and meter along the piece"
        >
          <ListMusic size={15} aria-hidden />
          {!isPlain && (
            <span className="text-[11px]">{project.tempos.length + project.meters.length - 2}</span>
          )}
        </Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          side="top"
          sideOffset={6}
          className="z-50 w-[330px] space-y-2 rounded-md border border-[#b9ad93] bg-sheet p-3 text-[13px] shadow-lg"
          aria-label="Tempo and meter along the piece"
        >
          <Choice
            label="when the tempo changes, notes keep"
            value={keep}
            options={[
              { value: 'bar' as const, text: 'bar and beat' },
              { value: 'clock' as const, text: 'clock time' },
            ]}
            onChange={(keptPosition) => viewStore.setState({ keptPosition })}
          />
          <ul className="max-h-[220px] space-y-1 overflow-y-auto" aria-label="Tempo changes">
            {project.tempos.map((tempo) => (
              <ChangeAtBar
                key={tempo.tick}
                bar={barOf(tempo.tick)}
                of="tempo"
                onRemove={
                  tempo.tick > 0
                    ? () => apply('take a tempo out', (before) => removeTempoAt(before, tempo.tick, keep))
                    : undefined
                }
              >
                <NumberField
                  label="♩ ="
                  value={tempo.tempoBpm}
                  min={10}
                  max={400}
                  isDecimal
                  onChange={(tempoBpm) =>
                    apply('change the tempo', (before) => setTempoAt(before, tempo.tick, tempoBpm, keep))
                  }
                />
              </ChangeAtBar>
            ))}
          </ul>
          <ul className="space-y-1" aria-label="Meter changes">
            {project.meters.map((meter) => (
              <ChangeAtBar
                key={meter.tick}
                bar={barOf(meter.tick)}
                of="meter"
                onRemove={
                  meter.tick > 0
                    ? () => apply('take a meter out', (before) => removeMeterAt(before, meter.tick))
                    : undefined
                }
              >
                <Choice
                  label="meter"
                  isLabelHidden
                  value={meterText(meter)}
                  options={meterOptions(meterText(meter)).map((text) => ({ value: text, text }))}
                  onChange={(text) =>
                    apply(`meter ${text}`, (before) => setMeterAt(before, meter.tick, meterFrom(text)))
                  }
                />
              </ChangeAtBar>
            ))}
          </ul>
          <div className="flex items-center gap-2 border-t border-rule pt-2">
            <NumberField label="at bar" value={bar} min={2} max={9999} className="w-12" onChange={setBar} />
            <Button
              className="px-2 py-0.5 text-[12px]"
              onClick={() =>
                apply('add a tempo', (before) =>
                  setTempoAt(before, startOf(bar), tempoBefore(before, startOf(bar)), keep),
                )
              }
            >
              Add a tempo
            </Button>
            <Button
              className="px-2 py-0.5 text-[12px]"
              onClick={() =>
                apply('add a meter', (before) =>
                  setMeterAt(before, startOf(bar), { numerator: 3, denominator: 4 }),
                )
              }
            >
              Add a meter
            </Button>
          </div>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}

function tempoBefore(project: Project, tick: number): number {
  return project.tempos.findLast((tempo) => tempo.tick <= tick)!.tempoBpm
}
