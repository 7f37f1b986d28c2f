import { type Remote, wrap } from 'comlink'
import { useEffect, useRef, useState } from 'react'
import {
  defaultReceiver,
  type ReceiverSettings,
  receiverSettingsSchema,
} from '@/core/programs/receiver/receiverSettings'
import { clockName } from '@/engine/clock'
import type { ReceiverApi, ReceiverPicture } from '@/engine/standIns/receiver.worker'

const keptAs = 'unbroken receiver'
const lookMs = 150

/** How the receiver was set up when it was here last. */
function keptSettings(): ReceiverSettings {
  try {
    const kept = receiverSettingsSchema.safeParse(JSON.parse(localStorage.getItem(keptAs) ?? ''))
    return kept.success ? kept.data : defaultReceiver
  } catch {
    // Nothing is kept, or it is no JSON: it begins as at first.
    return defaultReceiver
  }
}

/** The receiver's thread on a cable, and what it shows. */
export function useReceiver(cable: string) {
  const [picture, setPicture] = useState<ReceiverPicture | null>(null)
  const [settings, setSettings] = useState<ReceiverSettings>(defaultReceiver)
  const [problem, setProblem] = useState<string | null>(null)
  const receiver = useRef<Remote<ReceiverApi> | null>(null)

  useEffect(() => {
    const worker = new Worker(new URL('../../engine/standIns/receiver.worker.ts', import.meta.url), {
      type: 'module',
      name: clockName,
    })
    const api = wrap<ReceiverApi>(worker)
    receiver.current = api
    const say = (error: unknown) => setProblem(error instanceof Error ? error.message : String(error))
    worker.onerror = (event) => setProblem(event.message)
    const kept = keptSettings()
    setSettings(kept)
    void api
      .setUp(kept)
      .then(() => api.connect(cable))
      .catch(say)
    let isLooking = false
    const timer = setInterval(() => {
      if (isLooking) return
      isLooking = true
      void api
        .picture()
        .then(setPicture, say)
        .finally(() => {
          isLooking = false
        })
    }, lookMs)
    return () => {
      clearInterval(timer)
      worker.terminate()
      receiver.current = null
    }
  }, [cable])

  const change = (fields: Partial<ReceiverSettings>) => {
    const next = { ...settings, ...fields }
    setSettings(next)
    void receiver.current?.setUp(next)
    try {
      localStorage.setItem(keptAs, JSON.stringify(next))
    } catch (error) {
      setProblem(`How it is set up could not be kept: ${error instanceof Error ? error.message : error}`)
    }
  }
  return { picture, settings, change, problem, receiver }
}
