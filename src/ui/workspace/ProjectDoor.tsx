'use client'

import Link from 'next/link'
import { useSearchParams } from 'next/navigation'
import { useEffect, useState } from 'react'
import { keepAside, loadProject } from '@/state/database'
import { whenLeft } from '@/state/leaving'
import { openSession, type Session } from '@/state/session'
import { askToPersist } from '@/state/storageRoom'
import { SessionContext } from './sessionContext'
import { lookAtAnother, steps, viewStore } from './viewStore'
import { Workspace } from './Workspace'

/** Loads a project and keeps its session as long as it is shown. */
export function ProjectDoor() {
  const projectId = useSearchParams().get('id') ?? ''
  const [session, setSession] = useState<Session | null>(null)
  const [problem, setProblem] = useState<string | null>(null)

  useEffect(() => {
    let isGone = false
    let opened: Session | undefined
    const wanted = new URL(location.href).searchParams.get('step')
    lookAtAnother(steps.find((step) => step === wanted) ?? 'players')
    const open = async () => {
      // Left a moment ago, it may still be writing its last take.
      await whenLeft(projectId)
      const loaded = await loadProject(projectId)
      if (isGone) return
      if (!loaded) {
        setProblem(
          'There is no such project on this shelf. It may have been deleted, or belongs to another browser.',
        )
        return
      }
      const { project, aside } = loaded
      // From the first piece on the browser is asked to keep what is stored; it may say no.
      void askToPersist()
      if (aside.length > 0) await keepAside(projectId, aside, Date.now())
      opened = await openSession(loaded)
      // `npm run bench` measures through the same session that the views use.
      if (sessionStorage.getItem('bench')) Object.assign(window, { unbrokenSession: opened })
      if (isGone) {
        void opened.close()
        return
      }
      const notice = sessionStorage.getItem(`notice ${projectId}`)
      if (notice) {
        sessionStorage.removeItem(`notice ${projectId}`)
        opened.notify(notice)
      }
      if (aside.length > 0) opened.live.setState({ asideParts: aside })
      viewStore.setState({ trackId: project.tracks[0]?.id ?? null })
      setSession(opened)
    }
    open().catch((error) => setProblem(error instanceof Error ? error.message : String(error)))
    return () => {
      isGone = true
      void opened?.close()
      setSession(null)
    }
  }, [projectId])

  if (problem)
    return (
      <main className="mx-auto max-w-xl px-8 py-16">
        <h1 className="font-serif text-2xl font-semibold">This project cannot be opened</h1>
        <p className="mt-3" role="alert">
          {problem}
        </p>
        <p className="mt-4">
          <Link className="font-semibold text-indigo underline" href="/">
            Back to the shelf
          </Link>
        </p>
      </main>
    )
  if (!session) return <main className="p-8 text-soft">Opening…</main>
  return (
    <SessionContext.Provider value={session}>
      <Workspace />
    </SessionContext.Provider>
  )
}
