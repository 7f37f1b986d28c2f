'use client'

import { useEffect, useState } from 'react'
import { useStore } from 'zustand'
import { keepProgram, keptProgram, takeNewVersion } from '@/state/keptProgram'
import { everythingStored } from '@/state/leaving'
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
  if (!isNewer || isLater) return null
  const take = async () => {
    // What is being recorded ends in a kept take, and everything is stored before anything changes.
    await everythingStored()
    await takeNewVersion()
    location.reload()
  }
  return (
    <div
      role="status"
      className="fixed right-4 bottom-20 z-40 flex max-w-[360px] flex-wrap items-center gap-2 rounded-lg border border-[#b9ad93] bg-sheet px-4 py-3 text-[13px] shadow-lg"
    >
      <span>A newer version of Unbroken Voice is here. Taking it stores everything first.</span>
      <Button look="main" onClick={() => void take()}>
        Take it now
      </Button>
      <Button look="quiet" onClick={() => setLater(true)}>
        Later
      </Button>
    </div>
  )
}
