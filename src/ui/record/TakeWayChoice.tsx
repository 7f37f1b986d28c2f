import type { TakeInfo } from '@/core/capture/takeInfo'
import { type TakeWay, takeWays } from '@/core/project/schema'
import { layTake, liesAmongOthers, wayOfTake } from '@/core/project/takeWays'
import { Choice } from '../controls/Choice'
import { useProject, useSession } from '../workspace/sessionContext'

/** Where a take lies that is recorded onto music, before it is recorded and afterwards. */
export const takeWayWords: Readonly<Record<TakeWay, string>> = {
  fresh: 'another take',
  layered: 'laid over it',
  voice: 'a new voice',
  staff: 'a new staff',
}

export const takeWayOptions = takeWays.map((value) => ({ value, text: takeWayWords[value] }))

/** How a take lies among what was there when it was recorded; nothing where it is on no track, or alone. */
export function TakeWayChoice({ take }: { take: TakeInfo }) {
  const session = useSession()
  const project = useProject()
  const way = wayOfTake(project, take.serial)
  if (way === null || !liesAmongOthers(project, take.serial)) return null
  return (
    <Choice
      label={`${take.name} lies as`}
      isLabelHidden
      className="text-[12px]"
      value={way}
      options={takeWayOptions}
      onChange={(wanted) =>
        session.store
          .getState()
          .apply(`${take.name}: ${takeWayWords[wanted]}`, (before) => layTake(before, take.serial, wanted))
      }
    />
  )
}
