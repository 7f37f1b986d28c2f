import { useStore } from 'zustand'
import { cableName } from '@/core/routing/ports'
import { safeFileName } from '@/core/separation/splitFile'
import { Button } from '../controls/Button'
import { saveAside } from '../controls/saveAside'
import { rescue } from './rescue'
import { useHistory, useLive, useProject, useSession } from './sessionContext'

const conflictWords = {
  deleted: 'This piece was taken off the shelf in another tab. What you change here is not stored.',
  changed:
    'This piece was changed in another tab. What you change here is not stored, so that nothing there is lost.',
  taken:
    'Another tab took this piece over and has gone on with it. What was recorded here since then is offered there; what else was changed here is not stored.',
}

/** What has to be said, in sentences with the remedy beside them. */
export function Notices() {
  const session = useSession()
  const notice = useLive((state) => state.notice)
  const interrupted = useLive((state) => state.interruptedTakes)
  const aside = useLive((state) => state.asideParts)
  const isReadOnly = useHistory((state) => state.isReadOnly)
  const audio = useLive((state) => state.audio)
  const shutPortId = useLive((state) => state.shutPortId)
  const project = useProject()
  const portName = (portId: string) =>
    cableName(portId) ??
    project.sources.find((source) => source.address.portId === portId)?.portName ??
    'a port'
  const save = useStore(session.saveStatus)
  const journalBehind = useLive((state) => state.journalBehind)
  const isRecording = useLive((state) => state.transport.state === 'recording')
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
            still here; keep this tab open and free some space, or save the piece to a file.
          </span>
          <span className="flex gap-2">
            <Button onClick={() => void rescue(session)}>Save it to a file</Button>
            <Button onClick={() => void session.flushSave()}>Try again</Button>
          </span>
        </Sentence>
      )}
      {journalBehind !== null && (
        <Sentence isProblem>
          <span>{journalBehind}</span>
          <Button onClick={() => void rescue(session)}>
            {isRecording ? 'End the recording and save it to a file' : 'Save it to a file'}
          </Button>
        </Sentence>
      )}
      {save.state === 'conflict' && (
        <Sentence isProblem>
          <span>{conflictWords[save.conflict]}</span>
          <span className="flex gap-2">
            {save.conflict !== 'deleted' && <Button onClick={() => location.reload()}>Read it afresh</Button>}
            {save.conflict === 'taken' ? (
              <Button onClick={() => void rescue(session)}>Save what is here to a file</Button>
            ) : (
              <Button onClick={() => void session.writeOver()}>
                {save.conflict === 'deleted' ? 'Put it back on the shelf' : 'Keep mine instead'}
              </Button>
            )}
          </span>
        </Sentence>
      )}
      {aside.length > 0 && (
        <Sentence isProblem>
          <span>
            {aside.length === 1 ? 'A part of this piece was' : `${aside.length} parts of this piece were`}{' '}
            damaged ({aside[0]!.path}: {aside[0]!.reason}) and left out; everything else is here. What was
            left out is kept aside in this browser, and can be saved under Deliver.
          </span>
          <span className="flex gap-2">
            <Button onClick={() => saveAside(safeFileName(project.name), aside)}>Save it to a file</Button>
            <Button look="quiet" onClick={() => session.live.setState({ asideParts: [] })}>
              Close
            </Button>
          </span>
        </Sentence>
      )}
      {audio === 'paused' && (
        <Sentence isProblem>
          <span>The browser has paused the sound, as after sleep. Recording goes on; nothing is lost.</span>
          <Button onClick={() => void session.startAudio()}>Start the sound again</Button>
        </Sentence>
      )}
      {shutPortId !== null && (
        <Sentence isProblem>
          <span>
            More notes came from {portName(shutPortId)} than anybody plays: somewhere outside, a program sends
            back what it hears. The port is shut, and everything that sounded from it has ended.
          </span>
          <Button onClick={() => session.openPort(shutPortId)}>Open it again</Button>
        </Sentence>
      )}
      {interrupted.map((serial) => (
        <Sentence key={serial}>
          <span>A recording was cut off before the piece had it. What was played up to then is kept.</span>
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
