import { Magnet } from 'lucide-react'
import { Popover } from 'radix-ui'
import type { Snapping } from '@/core/capture/snapping'
import { defaultSnapping } from '@/core/capture/snapping'
import type { Track } from '@/core/project/schema'
import { setTrack } from '@/core/project/settings'
import { Button } from '../controls/Button'
import { Choice } from '../controls/Choice'
import { SliderRow } from '../controls/Slider'
import { Tick } from '../controls/Tick'
import { useSession } from '../workspace/sessionContext'

const gridNames: Readonly<Record<Snapping['gridValue'], string>> = {
  4: 'quarters',
  8: 'eighths',
  16: 'sixteenths',
  32: 'thirty-seconds',
}

/** How the played notes of a track are seen, heard and written: as they were played, or on a grid. A view, not a change. */
export function SnappingChoice({ track }: { track: Track }) {
  const session = useSession()
  const { snapping } = track
  const set = (label: string, next: Snapping | null, group?: string) =>
    session.store.getState().apply(label, (before) => setTrack(before, track.id, { snapping: next }), group)
  const change = (fields: Partial<Snapping>) =>
    set('change the snapping', { ...(snapping ?? defaultSnapping), ...fields }, `snapping ${track.id}`)
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <Button
          look={snapping ? 'main' : 'plain'}
          title="How played notes are shown: nothing played is changed"
        >
          <Magnet size={14} aria-hidden />
          {snapping ? `On ${gridNames[snapping.gridValue]}` : 'As played'}
        </Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          sideOffset={5}
          className="z-50 w-[270px] space-y-2.5 rounded-md border border-[#b9ad93] bg-sheet p-3 text-[13px] shadow-lg"
          aria-label={`Snapping of ${track.name}`}
        >
          <Tick
            isOn={snapping !== null}
            onChange={(isOn) =>
              set(isOn ? 'snap what was played' : 'show as played', isOn ? defaultSnapping : null)
            }
          >
            show what was played on a grid
          </Tick>
          <Choice
            label="grid"
            value={snapping?.gridValue ?? 16}
            isDisabled={!snapping}
            options={([4, 8, 16, 32] as const).map((value) => ({ value, text: gridNames[value] }))}
            onChange={(gridValue) => change({ gridValue })}
          />
          <SliderRow
            name="strength"
            value={snapping?.strength ?? 1}
            min={0}
            max={1}
            step={0.05}
            valueText={`${Math.round((snapping?.strength ?? 1) * 100)} %`}
            onChange={(strength) => change({ strength })}
          />
          <SliderRow
            name="swing"
            value={snapping?.swing ?? 0.5}
            min={0.5}
            max={0.75}
            step={0.01}
            valueText={`${Math.round((snapping?.swing ?? 0.5) * 100)} %`}
            onChange={(swing) => change({ swing })}
          />
          <Tick
            isOn={snapping?.tuplets ?? false}
            isDisabled={!snapping}
            onChange={(tuplets) => change({ tuplets })}
          >
            triplets where they fit better
          </Tick>
          <p className="text-[12px] text-soft">
            What was played stays as it is: turn this off and every note is back where it was.
          </p>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}
