'use client'

import { useEffect, useRef, useState } from 'react'
import { useStore } from 'zustand'
import { joinTabs, type Tabs } from '@/state/allTabs'
import { keepProgram, keptProgram, onTaken, takeNewVersion } from '@/state/keptProgram'
import { everythingStored, isAnythingRecorded } from '@/state/leaving'
import { Button } from '../controls/Button'

/**
 * Has the program kept for work without a network, and tells when a newer version is there.
 *
 * @param isFinished false while the program is being developed: then nothing is kept
 */
export function ProgramKeeper({ isFinished }: { isFinished: boolean }) {
  const isNewer = useStore(keptProgram, (state) => state.isNewer)
  const [isLater, setLater] = useState(false)
  useEffect(() => {
    if (!isFinished) return
    keepProgram().catch((error) => console.warn('The program is not kept for work without a network:', error))
  }, [isFinished])
  const tabs = useRef<Tabs | null>(null)
  useEffect(() => {
    const joined = joinTabs({ isRecording: isAnythingRecorded, storeEverything: everythingStored })
    tabs.current = joined
    return joined.leave
  }, [])
  useEffect(() => onTaken(() => location.reload()), [])
  /** Tabs that record and are waited for; null: nothing was asked. */
  const [recording, setRecording] = useState<number | null>(null)
  if (!isNewer || isLater) return null
  const take = async () => {
    setRecording(0)
    // Other tabs go on with what they record; here it ends in a kept take. Everything is stored before anything changes.
    await tabs.current?.ask(setRecording)
    await everythingStored()
    await takeNewVersion()
  }
  return (
    <div
      role="status"
      className="fixed right-4 bottom-20 z-40 flex max-w-[360px] flex-wrap items-center gap-2 rounded-lg border border-[#b9ad93] bg-sheet px-4 py-3 text-[13px] shadow-lg"
    >
      <span>
        {recording === null
          ? 'A newer version of Unbroken Voice is here. Taking it stores everything first, in every tab.'
          : recording === 0
            ? 'Everything is being stored…'
            : 'Another tab records: the newer version is taken when that has ended.'}
      </span>
      <Button look="main" disabled={recording !== null} onClick={() => void take()}>
        Take it now
      </Button>
      <Button look="quiet" onClick={() => setLater(true)}>
        Later
      </Button>
    </div>
  )
}
