import { keyName } from '@/core/event/note'
import { floorSentence, heavyFloors } from '@/core/ledger/ledger'
import { areTorn } from '@/core/notation/hands'
import type { ScoreSettings } from '@/core/notation/scoreSettings'
import { handPairs, joinHands } from '@/core/project/handPairs'
import type { Project } from '@/core/project/schema'
import { setReading } from '@/core/project/settings'
import type { ScoreOutline } from '@/engine/engraver/engraver'
import { Button } from '../controls/Button'
import { useSession } from '../workspace/sessionContext'

interface Remark {
  readonly id: string
  readonly text: string
  /** What sets it right, and what that is called in the history. */
  readonly action: string
  readonly label: string
  readonly change: (project: Project) => Project
}

/** What is wrong with how the piece is read, said above the music, each with the way to set it right. */
export function ReadingRemarks({ outline, project }: { outline: ScoreOutline; project: Project }) {
  const session = useSession()
  const { minVelocity, minLengthMs } = project.scoreSettings
  const read = (settings: Partial<ScoreSettings>) => (before: Project) => setReading(before, settings)
  const remarks = outline.parts.flatMap(({ trackId, name, ledger, tornLines, splitKey }): Remark[] => [
    ...heavyFloors(ledger).map((floor) => ({
      id: `${trackId} ${floor.reason}`,
      text: floorSentence(name, ledger.captured, floor, minVelocity, minLengthMs),
      action: 'Write them too',
      label: 'write what a floor left out',
      change: read(floor.reason === 'too short' ? { minLengthMs: 0 } : { minVelocity: 0 }),
    })),
    ...(splitKey !== null && areTorn(tornLines)
      ? [
          {
            id: `${trackId} torn`,
            text: `${name}: the split at ${keyName(splitKey)} tears ${tornLines.torn} of ${tornLines.steps} steps of its lines`,
            action: 'Follow the hands',
            label: 'follow the hands',
            change: read({ followsHands: true }),
          },
        ]
      : []),
  ])
  for (const pair of handPairs(project))
    remarks.push({
      id: `${pair.right.id} hands`,
      text: `${pair.right.name} and ${pair.left.name} are the hands of one player`,
      action: 'Write one part',
      label: `${pair.name || 'two hands'} as one part`,
      change: (before) => joinHands(before, pair),
    })
  return (
    <ul aria-label="Remarks on the reading" className="space-y-1">
      {remarks.map(({ id, text, action, label, change }) => (
        <li
          key={id}
          className="flex items-center justify-between gap-3 border-l-4 border-weld bg-sheet px-3 py-1 text-[13px]"
        >
          <span>{text}.</span>
          <Button
            className="shrink-0 px-2 py-0.5 text-[12px]"
            onClick={() => session.store.getState().apply(label, change)}
          >
            {action}
          </Button>
        </li>
      ))}
    </ul>
  )
}
