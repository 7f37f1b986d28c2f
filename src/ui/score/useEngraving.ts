import { transfer } from 'comlink'
import { useEffect, useRef, useState } from 'react'
import { columnBuffers, packNotes } from '@/core/event/noteColumns'
import { headOf } from '@/core/project/content'
import { soundingNotes } from '@/core/project/create'
import type { Project } from '@/core/project/schema'
import type { ScoreOutline } from '@/engine/engraver/engraver'
import type { Session } from '@/state/session'

/** Which sounding notes each session's engraver already has. */
const pushed = new WeakMap<Session, Map<string, readonly unknown[]>>()

/**
 * Keeps the engraver's score in step with the project: changed tracks are handed over, and the outline of the new
 * score comes back. While one update runs, only the latest project waits.
 */
export function useEngraving(
  session: Session,
  project: Project,
  widthPx: number,
): { outline: ScoreOutline | null; problem: string | null } {
  const [outline, setOutline] = useState<ScoreOutline | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const waiting = useRef<{ project: Project; widthPx: number } | null>(null)
  const isRunning = useRef(false)

  useEffect(() => {
    if (widthPx <= 0) return
    let isGone = false
    waiting.current = { project, widthPx }
    const run = async () => {
      if (isRunning.current) return
      isRunning.current = true
      try {
        while (waiting.current) {
          const wanted = waiting.current
          waiting.current = null
          const next = await handOver(session, wanted.project, wanted.widthPx)
          if (!isGone) {
            setOutline(next)
            setProblem(null)
          }
        }
      } catch (error) {
        if (!isGone) setProblem(error instanceof Error ? error.message : String(error))
      } finally {
        isRunning.current = false
      }
    }
    void run()
    return () => {
      isGone = true
    }
  }, [session, project, widthPx])
  return { outline, problem }
}

function handOver(session: Session, project: Project, widthPx: number): Promise<ScoreOutline> {
  let known = pushed.get(session)
  if (!known) {
    known = new Map()
    pushed.set(session, known)
  }
  const changed: { trackId: string; notes: ReturnType<typeof packNotes> }[] = []
  for (const track of project.tracks) {
    const notes = soundingNotes(track)
    if (known.get(track.id) === notes) continue
    known.set(track.id, notes)
    changed.push({ trackId: track.id, notes: packNotes(notes) })
  }
  const buffers = changed.flatMap((change) => columnBuffers(change.notes))
  return session.engraver.update(headOf(project), transfer(changed, buffers), widthPx)
}
