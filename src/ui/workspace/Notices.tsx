import { useStore } from 'zustand'
import { Button } from '../controls/Button'
import { useHistory, useLive, useSession } from './sessionContext'

/** What has to be said, in sentences with the remedy beside them. */
export function Notices() {
  const session = useSession()
  const notice = useLive((state) => state.notice)
  const interrupted = useLive((state) => state.interruptedTakes)
  const isReadOnly = useHistory((state) => state.isReadOnly)
  const save = useStore(session.saveStatus)
  return (
    <div className="shrink-0">
      {isReadOnly && (
        <Sentence isProblem>
          <span>This project is open in another tab. Here it can be read and played, but not changed.</span>
          <Button onClick={session.takeOver}>Take it over here</Button>
        </Sentence>
      )}
      {save.state === 'failed' && (
        <Sentence isProblem>
          <span>
            {save.reason}: nothing since {new Date(save.sinceMs).toLocaleTimeString()} is stored. It is all
            still here; keep this tab open, free some space, or save the project to a file under Deliver.
          </span>
          <Button onClick={() => void session.flushSave()}>Try again</Button>
        </Sentence>
      )}
      {interrupted.map((serial) => (
        <Sentence key={serial}>
          <span>A recording was cut off when this page closed. What was played up to then is kept.</span>
          <span className="flex gap-2">
            <Button onClick={() => void session.recoverTake(serial)}>Bring it back as a take</Button>
            <Button look="quiet" onClick={() => void session.dismissTake(serial)}>
              Leave it
            </Button>
          </span>
        </Sentence>
      ))}
      {notice && (
        <Sentence isProblem={notice.isProblem}>
          <span>{notice.text}</span>
          <Button look="quiet" onClick={session.dismissNotice}>
            Close
          </Button>
        </Sentence>
      )}
    </div>
  )
}

function Sentence({ children, isProblem = false }: { children: React.ReactNode; isProblem?: boolean }) {
  return (
    <div
      role={isProblem ? 'alert' : 'status'}
      className={`flex items-center justify-between gap-4 border-b border-rule border-l-4 bg-sheet px-5 py-1.5 text-[13px] ${isProblem ? 'border-l-live' : 'border-l-verdigris'}`}
    >
      {children}
    </div>
  )
}
