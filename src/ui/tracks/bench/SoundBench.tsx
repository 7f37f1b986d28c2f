import { Volume2 } from 'lucide-react'
import { soundingNotes } from '@/core/project/create'
import { kitKeyName, kitRows, nameKey } from '@/core/project/kit'
import type { Track } from '@/core/project/schema'
import { setTrack, type TrackSettings } from '@/core/project/settings'
import { keptKits } from '@/state/rig'
import { Button } from '../../controls/Button'
import { Choice } from '../../controls/Choice'
import { EditableName } from '../../controls/EditableName'
import { KeepForm } from '../../controls/KeepForm'
import { NumberField } from '../../controls/NumberField'
import { Tick } from '../../controls/Tick'
import { useKept } from '../../controls/useKept'
import { useSession, useView } from '../../workspace/sessionContext'
import { viewStore } from '../../workspace/viewStore'

/** How a track sounds: tuning, level, place; of drums what their keys are called. */
export function SoundBench({ track }: { track: Track }) {
  const session = useSession()
  const change = (label: string, settings: TrackSettings, group?: string) =>
    session.store.getState().apply(label, (before) => setTrack(before, track.id, settings), group)
  return (
    <section aria-label="Sound" className="space-y-2.5">
      <NumberField
        label="Fine tuning"
        unit="cents"
        value={track.tuningCents}
        min={-100}
        max={100}
        className="w-14"
        onChange={(tuningCents) => change('tune the track', { tuningCents }, `tuning ${track.id}`)}
      />
      <NumberField
        label="Volume"
        unit="%"
        value={Math.round(track.volume * 100)}
        min={0}
        max={100}
        onChange={(percent) => change('change the volume', { volume: percent / 100 })}
      />
      <NumberField
        label="Pan, left is below zero"
        unit="%"
        value={Math.round(track.pan * 100)}
        min={-100}
        max={100}
        onChange={(percent) => change('change the pan', { pan: percent / 100 })}
      />
      <p className="text-[12px] text-soft">
        Volume (7) and pan (10) can also be drawn as curves under the roll; a program inside the track is
        added in the list. Before their first point the values here hold.
      </p>
      {track.instrument.kind === 'drums' && <KitNames track={track} />}
    </section>
  )
}

function KitNames({ track }: { track: Track }) {
  const session = useSession()
  const apply = session.store.getState().apply
  const isKitWhole = useView((state) => state.isKitWhole)
  const { kept, keep, forget } = useKept(keptKits, 'kit')
  const keys = kitRows(track, soundingNotes(track), isKitWhole)
  return (
    <div className="space-y-1.5 border-t border-rule pt-2">
      <div className="flex items-center justify-between gap-2">
        <h3 className="font-semibold">Names of the kit</h3>
        <Tick isOn={isKitWhole} onChange={(isOn) => viewStore.setState({ isKitWhole: isOn })}>
          all keys
        </Tick>
      </div>
      {kept.length > 0 && (
        <Choice
          label="Kit"
          value=""
          options={[
            { value: '', text: 'choose one that is kept' },
            ...kept.map(({ name }) => ({ value: name, text: name })),
          ]}
          onChange={(name) => {
            const kit = kept.find((each) => each.name === name)
            if (kit)
              apply(`names of ${name}`, (before) => setTrack(before, track.id, { keyNames: kit.keyNames }))
          }}
        />
      )}
      <ul aria-label="Keys of the kit" className="max-h-56 space-y-0.5 overflow-y-auto">
        {keys.map((key) => (
          <li key={key} className="flex items-center gap-2">
            <span className="w-6 text-right text-[12px] text-soft">{key}</span>
            <span className="min-w-0 flex-1">
              <EditableName
                name={kitKeyName(track, key)}
                label={`Key ${key}`}
                className="font-semibold"
                onRename={(name) =>
                  apply(`name key ${key}`, (before) => nameKey(before, track.id, key, name))
                }
              />
            </span>
            <Button
              look="quiet"
              className="px-1 py-0"
              aria-label={`Hear ${kitKeyName(track, key)}`}
              onClick={() => session.audition(track.id, key)}
            >
              <Volume2 size={13} aria-hidden />
            </Button>
          </li>
        ))}
      </ul>
      <KeepForm
        label="Name of the kit"
        names={kept.map(({ name }) => name)}
        onKeep={(name) => keep({ name, keyNames: track.keyNames })}
        onForget={(name) => void forget(name)}
      />
    </div>
  )
}
