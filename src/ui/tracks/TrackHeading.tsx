import { ChevronDown } from 'lucide-react'
import { Select } from 'radix-ui'
import { memo } from 'react'
import { programNames } from '@/core/midi/generalMidi'
import { changeTrack } from '@/core/project/commands'
import type { Instrument, Track } from '@/core/project/schema'
import { EditableName } from '../controls/EditableName'
import { Slider } from '../controls/Slider'
import { useSession } from '../workspace/sessionContext'
import { selectTrack } from '../workspace/viewStore'

/** A track's name, instrument, level and place, mute and solo. */
export const TrackHeading = memo(function TrackHeading({ track }: { track: Track }) {
  const session = useSession()
  const apply = session.store.getState().apply
  const change = (label: string, fields: Partial<Track>, group?: string) =>
    apply(label, (project) => changeTrack(project, track.id, (old) => ({ ...old, ...fields })), group)
  return (
    <div className="flex h-full flex-col justify-center gap-0.5 px-2">
      <div className="flex items-center gap-1">
        <div className="min-w-0 flex-1">
          <EditableName
            name={track.name}
            label="Track"
            className="font-serif text-[14px] font-semibold"
            onRename={(name) => change(`rename to “${name}”`, { name })}
          />
        </div>
        <ToggleLetter
          isOn={track.isMuted}
          text="mute"
          label={`Mute ${track.name}`}
          onToggle={() => change(track.isMuted ? 'unmute' : 'mute', { isMuted: !track.isMuted })}
        />
        <ToggleLetter
          isOn={track.isSolo}
          text="solo"
          label={`Solo ${track.name}`}
          onToggle={() => change(track.isSolo ? 'end solo' : 'solo', { isSolo: !track.isSolo })}
        />
      </div>
      <div className="flex items-center gap-2">
        <InstrumentChoice
          track={track}
          onChange={(instrument) => change('change the instrument', { instrument })}
        />
        <Slider
          label={`Volume of ${track.name}`}
          className="w-14"
          value={track.volume}
          min={0}
          max={1}
          step={0.01}
          valueText={`${Math.round(track.volume * 100)} %`}
          onChange={(volume) => change('change the volume', { volume }, `volume ${track.id}`)}
        />
        <Slider
          label={`Pan of ${track.name}`}
          className="w-9"
          value={track.pan}
          min={-1}
          max={1}
          step={0.02}
          valueText={
            track.pan === 0
              ? 'middle'
              : `${Math.round(Math.abs(track.pan) * 100)} ${track.pan < 0 ? 'left' : 'right'}`
          }
          onChange={(pan) =>
            change('change the pan', { pan: Math.abs(pan) < 0.05 ? 0 : pan }, `pan ${track.id}`)
          }
        />
      </div>
      <button type="button" className="sr-only" onClick={() => selectTrack(track.id)}>
        Show {track.name} below
      </button>
    </div>
  )
})

function ToggleLetter({
  isOn,
  text,
  label,
  onToggle,
}: {
  isOn: boolean
  text: string
  label: string
  onToggle: () => void
}) {
  return (
    <button
      type="button"
      aria-pressed={isOn}
      aria-label={label}
      onClick={(event) => {
        event.stopPropagation()
        onToggle()
      }}
      className={`rounded px-1.5 text-[11px] leading-4 font-semibold ${isOn ? 'bg-ink text-paper' : 'border border-rule text-soft hover:bg-sheet'}`}
    >
      {text}
    </button>
  )
}

/** The General MIDI instruments. The list exists only while it is open: a hundred entries for each track would be felt. */
function InstrumentChoice({ track, onChange }: { track: Track; onChange: (instrument: Instrument) => void }) {
  const current = track.instrument.kind === 'drums' ? 'drums' : String(track.instrument.program)
  return (
    <Select.Root
      value={current}
      onValueChange={(value) =>
        onChange(value === 'drums' ? { kind: 'drums' } : { kind: 'program', program: Number(value) })
      }
    >
      <Select.Trigger
        aria-label={`Instrument of ${track.name}`}
        className="flex min-w-0 flex-1 items-center justify-between gap-1 rounded border border-transparent px-1 text-[12px] text-soft hover:border-rule"
      >
        <span className="truncate">{instrumentName(track.instrument)}</span>
        <ChevronDown size={12} className="shrink-0" aria-hidden />
      </Select.Trigger>
      <Select.Portal>
        <Select.Content
          position="popper"
          sideOffset={3}
          className="z-50 max-h-[60vh] overflow-y-auto rounded-md border border-[#b9ad93] bg-sheet py-1 text-[13px] shadow-lg"
        >
          <Select.Viewport>
            {[...programNames.keys(), 'drums' as const].map((program) => (
              <Select.Item
                key={program}
                value={String(program)}
                className="px-3 py-0.5 outline-none data-[highlighted]:bg-desk data-[state=checked]:font-bold"
              >
                <Select.ItemText>{program === 'drums' ? drumKitName : programNames[program]}</Select.ItemText>
              </Select.Item>
            ))}
          </Select.Viewport>
        </Select.Content>
      </Select.Portal>
    </Select.Root>
  )
}

const drumKitName = 'Standard drum kit'

function instrumentName(instrument: Instrument): string {
  return instrument.kind === 'drums' ? drumKitName : programNames[instrument.program]!
}
