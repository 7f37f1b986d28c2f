'use client'

import { Redo2, Undo2 } from 'lucide-react'
import { memo, useDeferredValue, useEffect } from 'react'
import { useStore } from 'zustand'
import { setPiece } from '@/core/project/settings'
import { Button } from '../controls/Button'
import { EditableName } from '../controls/EditableName'
import { DeliverView } from '../deliver/DeliverView'
import { EffectsView } from '../effects/EffectsView'
import { HelpDialog } from '../help/HelpDialog'
import { PlayersView } from '../players/PlayersView'
import { RecordView } from '../record/RecordView'
import { ScoreView } from '../score/ScoreView'
import { TracksView } from '../tracks/TracksView'
import { FirstSteps } from './FirstSteps'
import { Notices } from './Notices'
import { ShelfLink } from './ShelfLink'
import { StepPath } from './StepPath'
import { useHistory, useProject, useSession, useView } from './sessionContext'
import { TransportBar } from './TransportBar'
import { useShortcuts } from './useShortcuts'
import type { Step } from './viewStore'

/** The open project: the path of steps above, the transport below, the chosen step between. */
export function Workspace() {
  const session = useSession()
  const project = useProject()
  // The path answers at once; the view behind it is prepared in slices, so that the page never stands still.
  const step = useDeferredValue(useView((state) => state.step))
  useShortcuts()

  useEffect(() => {
    document.title = `${project.name} · Unbroken Voice`
  }, [project.name])

  // Sound may only start from a press: the first one anywhere will do.
  useEffect(() => {
    const start = () => void session.startAudio()
    window.addEventListener('pointerdown', start, { once: true })
    return () => window.removeEventListener('pointerdown', start)
  }, [session])

  // What fails where nobody waits for it is said as well: storage above all.
  useEffect(() => {
    const tell = ({ reason }: PromiseRejectionEvent) =>
      session.notify(`That could not be done: ${reason instanceof Error ? reason.message : reason}`, true)
    window.addEventListener('unhandledrejection', tell)
    return () => window.removeEventListener('unhandledrejection', tell)
  }, [session])

  return (
    <div className="flex min-h-dvh flex-col lg:h-dvh lg:min-h-[560px]">
      <header className="flex shrink-0 flex-wrap items-center gap-x-4 gap-y-1 border-b border-rule px-3 py-1.5 md:h-[68px] md:flex-nowrap md:px-5 md:py-0">
        <div className="w-[210px] min-w-0 flex-1 md:flex-none">
          <h1 className="min-w-0">
            <EditableName
              name={project.name}
              label="Piece"
              className="font-serif text-base font-semibold"
              onRename={(name) =>
                session.store.getState().apply(`rename to “${name}”`, (before) => setPiece(before, { name }))
              }
            />
          </h1>
          <p className="truncate text-xs text-soft">
            <ShelfLink />
            <SaveWord />
          </p>
        </div>
        <StepPath />
        <HistoryButtons />
      </header>
      <Notices />
      <FirstSteps />
      <main className="flex min-h-[380px] flex-1 flex-col lg:block lg:min-h-0">
        <StepView step={step} />
      </main>
      <TransportBar />
    </div>
  )
}

/** Rendered again only when the step changes: a press on the path does not render the view that is left. */
const StepView = memo(function StepView({ step }: { step: Step }) {
  switch (step) {
    case 'players':
      return <PlayersView />
    case 'record':
      return <RecordView />
    case 'effects':
      return <EffectsView />
    case 'tracks':
      return <TracksView />
    case 'score':
      return <ScoreView />
    case 'deliver':
      return <DeliverView />
  }
})

function SaveWord() {
  const status = useStore(useSession().saveStatus)
  const isReadOnly = useHistory((state) => state.isReadOnly)
  const word = isReadOnly
    ? 'reading only'
    : status.state === 'saved'
      ? 'saved'
      : status.state === 'waiting'
        ? 'saving…'
        : 'not saved'
  return <span data-testid="save-state"> · {word}</span>
}

function HistoryButtons() {
  const session = useSession()
  const undoLabel = useHistory((state) => state.past.at(-1)?.label)
  const redoLabel = useHistory((state) => state.future.at(-1)?.label)
  const forgotten = useHistory((state) => state.forgottenSteps)
  const undoText = undoLabel
    ? `Undo: ${undoLabel} (Ctrl+Z)`
    : forgotten > 0
      ? `Nothing further to undo: the ${forgotten.toLocaleString('en')} steps before are no longer kept`
      : 'Nothing to undo'
  const redoText = redoLabel ? `Redo: ${redoLabel} (Ctrl+Shift+Z)` : 'Nothing to redo'
  return (
    <div className="flex gap-1.5 md:order-last">
      <Button
        title={undoText}
        aria-label={undoText}
        disabled={!undoLabel}
        onClick={session.undo}
        className="px-2.5"
      >
        <Undo2 size={16} aria-hidden />
      </Button>
      <Button
        title={redoText}
        aria-label={redoText}
        disabled={!redoLabel}
        onClick={session.redo}
        className="px-2.5"
      >
        <Redo2 size={16} aria-hidden />
      </Button>
      <HelpDialog />
    </div>
  )
}
