import { cableName } from '@/core/routing/ports'
import { clockName } from '@/engine/clock'
import type { Activity, FromEngine, ToEngine, TransportState } from '@/engine/protocol'
import type { PortMessage } from '@/engine/transport/portSender'
import type { LiveStore } from './liveState'
import type { FinishedRecording } from './takes'

type Measured = Extract<FromEngine, { type: 'measured' }>

/** Who is told what the engine says. */
interface EngineListeners {
  readonly live: LiveStore
  transport(transport: TransportState): void
  activity(events: readonly Activity[]): void
  /** A take has ended; resolves when everything that was played in it has been handed to the engine. */
  settle(): Promise<void>
  takeFinished(recording: FinishedRecording): void
  send(messages: readonly PortMessage[]): void
  /** Somebody else sends notes over a cable that this piece sends over. */
  cableShared(name: string): void
  notify(text: string, isProblem?: boolean): void
}

export type EngineLink = ReturnType<typeof createEngineLink>

/** The engine's thread, seen from the window. */
export function createEngineLink(listeners: EngineListeners) {
  const { live, notify } = listeners
  const worker = new Worker(new URL('../engine/transport/engine.worker.ts', import.meta.url), {
    type: 'module',
    name: clockName,
  })
  const measureWaiters: ((measured: Measured) => void)[] = []
  const leaveWaiters: (() => void)[] = []

  const tell = (message: ToEngine, transfer: Transferable[] = []) => worker.postMessage(message, transfer)

  worker.onerror = (event) => {
    event.preventDefault()
    notify(
      `The part of the program that plays and records has stopped (${event.message || 'it could not be loaded'}). Everything played up to now is stored. Reload this page to go on.`,
      true,
    )
  }

  worker.onmessage = ({ data: message }: MessageEvent<FromEngine>) => {
    switch (message.type) {
      case 'transport':
        listeners.transport(message.transport)
        return
      case 'activity':
        live.setState({
          listenedNotes: message.listenedNotes,
          streams: message.streams,
          ...(message.flows && { flows: message.flows }),
        })
        listeners.activity(message.events)
        return
      case 'settle': {
        const { takeSerial } = message
        void listeners.settle().then(() => tell({ type: 'settled', takeSerial }))
        return
      }
      case 'takeFinished':
        listeners.takeFinished(message)
        return
      case 'left':
        for (const resolve of leaveWaiters.splice(0)) resolve()
        return
      case 'measured':
        for (const resolve of measureWaiters.splice(0)) resolve(message)
        return
      case 'send':
        listeners.send(message.messages)
        return
      case 'journalFailed':
        live.setState({
          journalBehind: message.isFull
            ? 'The browser’s storage is full, so what is being played is only in memory. Keep this tab open and free some space: it is stored as soon as there is room.'
            : `What is being played could not be stored safely (${message.reason}). It is still in memory, and is tried again every second.`,
        })
        return
      case 'journalCaughtUp':
        live.setState({ journalBehind: null })
        notify('There is room again: everything that was played is stored.')
        return
      case 'portShut':
        live.setState({ shutPortId: message.portId })
        return
      case 'cableReaders':
        live.setState({
          cableReaders: { ...live.getState().cableReaders, [message.name]: message.programs },
        })
        return
      case 'cableShared':
        listeners.cableShared(message.name)
        return
      case 'followedClock':
        live.setState({ followedClock: { isRunning: message.isRunning, tempoBpm: message.tempoBpm } })
        return
      default: {
        const said = inWords(message)
        notify(said.text, said.isProblem)
      }
    }
  }

  return {
    tell,
    /** Begins or ends measuring in the engine, and gives what was measured since it began. */
    measure(isOn: boolean): Promise<Measured> {
      return new Promise((resolve) => {
        measureWaiters.push(resolve)
        tell({ type: 'measure', isOn })
      })
    },
    /** Ends what runs; resolves when its take has been handed over and the journal has all of it. */
    leave(): Promise<void> {
      return new Promise((resolve) => {
        leaveWaiters.push(resolve)
        tell({ type: 'leave' })
      })
    },
    end: () => worker.terminate(),
  }
}

type Said = Extract<FromEngine, { type: 'slept' | 'refused' | 'tempoWaits' | 'failed' }>

function inWords(message: Said): { readonly text: string; readonly isProblem: boolean } {
  switch (message.type) {
    case 'slept':
      return {
        text: `This machine slept for ${Math.round(message.sleptMs / 1000)} s. ${message.wasRecording ? 'The recording was ended where it fell asleep; everything played up to then is in the take.' : 'Nothing was being recorded.'}`,
        isProblem: false,
      }
    case 'refused':
      return {
        text: `Something that is no MIDI message came over the cable ${cableName(message.portId) ?? ''} and was left out: ${message.reason}. Everything else from there is kept.`,
        isProblem: true,
      }
    case 'tempoWaits':
      return {
        text: 'What is being recorded goes on at the tempo and in the meter it began with; the new ones are in force when the take has ended.',
        isProblem: false,
      }
    case 'failed':
      return {
        text: `Something went wrong while playing (${message.reason}). What is played is still recorded; if it goes on, press Silence or reload.`,
        isProblem: true,
      }
  }
}
