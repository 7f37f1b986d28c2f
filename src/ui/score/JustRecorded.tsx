import { useState } from 'react'
import { liesAmongOthers } from '@/core/project/takeWays'
import { Button } from '../controls/Button'
import { TakeWayChoice } from '../record/TakeWayChoice'
import { useLive, useProject } from '../workspace/sessionContext'

/** What was just recorded onto music: where it is to lie, asked on the page it is written on. */
export function JustRecorded() {
  const project = useProject()
  const lastTake = useLive((state) => state.lastTake)
  const isRecording = useLive((state) => state.transport.state === 'recording')
  const [dismissed, setDismissed] = useState<number | null>(null)
  const take = project.takes.find(({ serial }) => serial === lastTake?.lastSerial)
  if (
    !lastTake ||
    isRecording ||
    !take ||
    take.serial === dismissed ||
    !liesAmongOthers(project, take.serial)
  )
    return null
  return (
    // It lies over the title: nothing of the page moves when it comes.
    <div className="sticky top-0 left-0 z-20 h-0">
      <div
        role="status"
        className="mx-auto flex max-w-[1000px] flex-wrap items-center gap-3 border-l-4 border-verdigris bg-sheet px-4 py-2 text-[13px] shadow-[0_1px_4px_rgba(80,60,20,0.25)]"
      >
        <span>
          <strong>{take.name}</strong> was recorded onto music. It is
        </span>
        <TakeWayChoice take={take} />
        <span className="text-soft">nothing was overwritten</span>
        <Button look="quiet" className="ml-auto" onClick={() => setDismissed(take.serial)}>
          Good
        </Button>
      </div>
    </div>
  )
}
