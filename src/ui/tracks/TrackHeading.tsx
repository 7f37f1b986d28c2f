import { memo } from 'react'
import type { Track } from '@/core/project/schema'
import { setTrack, type TrackSettings } from '@/core/project/settings'
import { EditableName } from '../controls/EditableName'
import { InstrumentChoice } from '../controls/InstrumentChoice'
import { Slider } from '../controls/Slider'
import { useSession } from '../workspace/sessionContext'
import { selectTrack } from '../workspace/viewStore'

/** A track's name, instrument, level and place, mute and solo. */
export const TrackHeading = memo(function TrackHeading({ track }: { track: Track }) {
  const session = useSession()
  const apply = session.store.getState().apply
  const change = (label: string, settings: TrackSettings, group?: string) =>
    apply(label, (before) => setTrack(before, track.id, settings), group)
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
          label={`Instrument of ${track.name}`}
          instrument={track.instrument}
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
