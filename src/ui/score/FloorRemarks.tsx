import { floorSentence, heavyFloors } from '@/core/ledger/ledger'
import type { ScoreSettings } from '@/core/notation/scoreSettings'
import { setReading } from '@/core/project/settings'
import type { ScoreOutline } from '@/engine/engraver/engraver'
import { Button } from '../controls/Button'
import { useSession } from '../workspace/sessionContext'

/** Where a floor leaves out more than slips, that is said above the music, with the way to have them written. */
export function FloorRemarks({ outline, settings }: { outline: ScoreOutline; settings: ScoreSettings }) {
  const session = useSession()
  const { minVelocity, minLengthMs } = settings
  const remarks = outline.parts.flatMap(({ trackId, name, ledger }) =>
    heavyFloors(ledger).map((floor) => ({
      id: `${trackId} ${floor.reason}`,
      reason: floor.reason,
      text: floorSentence(name, ledger.captured, floor, minVelocity, minLengthMs),
    })),
  )
  return (
    <ul aria-label="What the floors leave out" className="space-y-1">
      {remarks.map(({ id, reason, text }) => (
        <li
          key={id}
          className="flex items-center justify-between gap-3 border-l-4 border-weld bg-sheet px-3 py-1 text-[13px]"
        >
          <span>{text}.</span>
          <Button
            className="shrink-0 px-2 py-0.5 text-[12px]"
            onClick={() =>
              session.store
                .getState()
                .apply('write what a floor left out', (before) =>
                  setReading(before, reason === 'too short' ? { minLengthMs: 0 } : { minVelocity: 0 }),
                )
            }
          >
            Write them too
          </Button>
        </li>
      ))}
    </ul>
  )
}
