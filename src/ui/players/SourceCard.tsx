import { ChevronDown } from 'lucide-react'
import { useEffect, useState } from 'react'
import { keyName } from '@/core/event/note'
import { removeSource } from '@/core/project/commands'
import type { Project, Source } from '@/core/project/schema'
import { type SourceSettings, setSource } from '@/core/project/settings'
import { longestName } from '@/core/text/bounded'
import { tracksOf } from '@/core/wiring/reaching'
import type { WiringRemark } from '@/core/wiring/wiringRemark'
import { Button } from '../controls/Button'
import { EditableName } from '../controls/EditableName'
import { NumberField } from '../controls/NumberField'
import { presetWords } from '../soundIn/presetWords'
import { SoundInputLine } from '../soundIn/SoundInputLine'
import { SoundInputSettings } from '../soundIn/SoundInputSettings'
import { threadOf } from '../theme/threads'
import { useLive, useSession } from '../workspace/sessionContext'
import { LatencyMeasure } from './LatencyMeasure'
import { CardRemarks } from './Remark'

/** Somebody who plays: the name, what was played last, and below it what can be set. */
export function SourceCard({
  source,
  project,
  isOpen,
  onToggle,
  remarks,
}: {
  source: Source
  project: Project
  isOpen: boolean
  onToggle: () => void
  remarks: readonly WiringRemark[]
}) {
  const session = useSession()
  const thread = threadOf(tracksOf(project, source)[0]?.thread ?? 7)
  const lastNote = useLastNote(source)
  const change = (label: string, settings: SourceSettings) =>
    session.store.getState().apply(label, (before) => setSource(before, source.id, settings))
  return (
    <li
      data-source={source.id}
      className="relative min-h-16 rounded-r-lg bg-desk py-2 pr-2 pl-3"
      style={{ borderLeft: `5px solid ${thread.colour}` }}
    >
      <div className="flex items-start gap-1">
        <h3 className="min-w-0 flex-1">
          <EditableName
            name={source.name}
            label="Player"
            className="font-serif text-[15px] leading-5 font-semibold"
            onRename={(name) => change(`rename to “${name}”`, { name })}
          />
        </h3>
        <span
          className="h-5 min-w-8 text-right font-semibold"
          style={{ color: thread.colour }}
          aria-live="off"
        >
          {lastNote}
        </span>
        <button
          type="button"
          aria-expanded={isOpen}
          aria-label={`Settings of ${source.name}`}
          className="rounded p-0.5 text-soft hover:bg-rule"
          onClick={onToggle}
        >
          <ChevronDown size={15} className={isOpen ? 'rotate-180' : ''} aria-hidden />
        </button>
      </div>
      {source.kind !== 'computerKeyboard' && (
        <p className="truncate text-[12px] text-soft">{source.description}</p>
      )}
      <p className="truncate text-[12px] text-soft">
        {source.soundInput
          ? `${source.portName === source.name ? 'sound in' : source.portName} · ${presetWords[source.soundInput.preset]}`
          : `${source.portName || 'MIDI port'} · channel ${source.address.channel ?? 'any'}`}
        {source.compensationMs !== 0 && ` · ${source.compensationMs} ms taken off`}
      </p>
      {source.kind === 'computerKeyboard' && <KeyboardWords />}
      {source.kind === 'soundInput' && <SoundInputLine source={source} />}
      <CardRemarks remarks={remarks} isOpen={isOpen} />
      {isOpen && (
        <div className="mt-2 space-y-2 border-t border-rule pt-2">
          {source.soundInput && (
            <SoundInputSettings source={source} input={source.soundInput} colour={thread.colour} />
          )}
          <label className="flex items-center gap-1.5 text-[12px]">
            <span className="text-soft">group</span>
            <input
              className="min-w-0 flex-1 rounded border border-rule bg-sheet px-1 py-0.5"
              defaultValue={source.group}
              maxLength={longestName}
              placeholder="none"
              onBlur={(event) => {
                const group = event.target.value.trim()
                if (group !== source.group) change(group ? `put into ${group}` : 'leave the group', { group })
              }}
              onKeyDown={(event) => {
                if (event.key === 'Enter') event.currentTarget.blur()
              }}
            />
          </label>
          <NumberField
            label="arrives late by"
            value={source.compensationMs}
            min={-500}
            max={500}
            unit="ms"
            isDecimal
            onChange={(compensationMs) => change('change the compensation', { compensationMs })}
          />
          <LatencyMeasure
            source={source}
            onApply={(compensationMs) => change('take the measured delay off', { compensationMs })}
          />
          <Button
            look="quiet"
            className="px-1.5 py-0.5 text-[12px]"
            onClick={() =>
              session.store
                .getState()
                .apply(`send ${source.name} home`, (before) => removeSource(before, source.id))
            }
          >
            Take off the list
          </Button>
        </div>
      )}
    </li>
  )
}

function KeyboardWords() {
  const keyboard = useLive((state) => state.keyboard)
  return (
    <p className="text-[12px] text-soft">
      A to ; from {keyName(keyboard.lowestKey)} · Z X octave · C V loudness {keyboard.velocity}
    </p>
  )
}

/** Name of the note a source played last, for a moment. */
function useLastNote(source: Source): string {
  const session = useSession()
  const [name, setName] = useState('')
  const { portId, channel } = source.address
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout>
    const stop = session.onActivity((events) => {
      const last = events.findLast(
        (event) => event.isOn && event.portId === portId && (channel === null || event.channel === channel),
      )
      if (!last) return
      setName(keyName(last.key))
      clearTimeout(timer)
      timer = setTimeout(() => setName(''), 900)
    })
    return () => {
      stop()
      clearTimeout(timer)
    }
  }, [session, portId, channel])
  return name
}
