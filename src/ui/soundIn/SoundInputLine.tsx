import { standInAt } from '@/core/demo/soundingPlayers'
import type { Source } from '@/core/project/schema'
import { Button } from '../controls/Button'
import { useLive, useSession } from '../workspace/sessionContext'
import { LevelMeter } from './LevelMeter'

/** In the card of somebody who is heard: the level, or what keeps it from being heard and what to do. */
export function SoundInputLine({ source }: { source: Source }) {
  const session = useSession()
  const state = useLive((live) => live.soundInputs[source.id])
  const isHearing = useLive((live) => live.isHearing)
  if (!source.soundInput)
    return (
      <p className="text-[12px]" role="status">
        Which input this player has could not be read. Take them off the list and seat them again.
      </p>
    )
  if (!state || state.state === 'opening') return <p className="text-[12px] text-soft">Opening the input…</p>
  if (state.state === 'listening')
    return (
      <>
        <LevelMeter
          sourceId={source.id}
          name={source.name}
          isStandIn={standInAt(source.soundInput.deviceId) !== undefined}
        />
        {!isHearing && (
          <p className="text-[12px]" role="status">
            The browser lets sound in after a key or click.
          </p>
        )}
        {state.remarks.length > 0 && (
          <p className="rounded border-l-4 border-l-weld bg-sheet px-2 py-1 text-[12px]" role="status">
            The browser {state.remarks.join(', ')} and does not let that be switched off: notes may be lost.
          </p>
        )}
        {source.soundInput.inputChannel > state.channelCount && (
          <p className="rounded border-l-4 border-l-weld bg-sheet px-2 py-1 text-[12px]" role="status">
            The input has {state.channelCount === 1 ? 'one channel' : `${state.channelCount} channels`}:
            channel {source.soundInput.inputChannel} is silent.
          </p>
        )}
      </>
    )
  return (
    <div className="mt-1 space-y-1.5 text-[12px]" role="status">
      <p className={state.state === 'absent' ? 'text-live' : ''}>{state.reason}.</p>
      <Button className="px-2 py-0.5 text-[12px]" onClick={() => session.soundInputs.listen(source.id)}>
        Listen
      </Button>
    </div>
  )
}
