import { boundedName } from '@/core/text/bounded'
import type { SoundDevice } from './soundDevice'

/** An input of sound that the machine has. */
export interface KnownSoundInput {
  readonly id: string
  readonly name: string
}

/** What the browser does to speech, and would do to music. */
const treatments = [
  ['echoCancellation', 'cancels echoes'],
  ['noiseSuppression', 'takes noise away'],
  ['autoGainControl', 'changes the level by itself'],
] as const

/** Names that some browsers give to an input they list by its own name too. */
const aliases = ['default', 'communications']

/** The inputs there are. Before permission is given, browsers name none of them. */
export async function soundInputsOfMachine(): Promise<KnownSoundInput[]> {
  const devices = (await navigator.mediaDevices?.enumerateDevices()) ?? []
  const inputs = devices.filter(
    ({ kind, deviceId, label }) =>
      kind === 'audioinput' && deviceId !== '' && label !== '' && !aliases.includes(deviceId),
  )
  return inputs.map(({ deviceId, label }) => ({ id: deviceId, name: boundedName(label) }))
}

/** @returns ends it */
export function followSoundInputs(onChange: () => void): () => void {
  navigator.mediaDevices?.addEventListener('devicechange', onChange)
  return () => navigator.mediaDevices?.removeEventListener('devicechange', onChange)
}

/** Whether the microphone may be used without a question; false where the browser does not tell. */
export async function isListeningAllowed(): Promise<boolean> {
  try {
    const status = await navigator.permissions.query({ name: 'microphone' as PermissionName })
    return status.state === 'granted'
  } catch {
    // Some browsers do not know this permission by name: then they are asked by opening the input.
    return false
  }
}

/** @param id as the browser calls it; '' for the one that the system uses */
export function microphone(id: string, name: string): SoundDevice {
  return {
    id,
    name,
    async open(context, onLost) {
      if (!navigator.mediaDevices?.getUserMedia)
        throw new Error(
          'This browser gives no sound to this page: it needs a secure address (https, or this machine)',
        )
      const stream = await openStream(id)
      const track = stream.getAudioTracks()[0]!
      let isClosed = false
      const lost = () => {
        if (isClosed) return
        isClosed = true
        onLost()
      }
      track.addEventListener('ended', lost)
      const settings = track.getSettings() as MediaTrackSettings & { latency?: number }
      const remarks = treatments.flatMap(([setting, words]) => (settings[setting] === true ? [words] : []))
      const node = context.createMediaStreamSource(stream)
      return {
        node,
        channelCount: settings.channelCount ?? 1,
        latencyMs: Math.max(0, Math.min(500, (settings.latency ?? 0) * 1000)),
        remarks,
        close() {
          isClosed = true
          node.disconnect()
          for (const each of stream.getTracks()) each.stop()
        },
      }
    },
  }
}

async function openStream(id: string): Promise<MediaStream> {
  try {
    return await navigator.mediaDevices.getUserMedia({
      audio: {
        ...(id !== '' && { deviceId: { exact: id } }),
        // All of the channels there are.
        channelCount: { ideal: 32 },
        echoCancellation: false,
        noiseSuppression: false,
        autoGainControl: false,
      },
    })
  } catch (error) {
    throw new Error(refusalOf(error), { cause: error })
  }
}

/** The names are those of the W3C's Media Capture and Streams, `getUserMedia`. */
function refusalOf(error: unknown): string {
  const { name, message } = error instanceof Error ? error : new Error(String(error))
  switch (name) {
    case 'NotAllowedError':
    case 'SecurityError':
      return 'The browser does not let this page listen. Allow the microphone beside the address, then press Listen again'
    case 'NotFoundError':
    case 'OverconstrainedError':
      return 'This input is not there. Plug it in, or choose another one'
    case 'NotReadableError':
    case 'AbortError':
      return 'The input cannot be opened: another program may have it to itself'
    default:
      return `The input cannot be opened (${message})`
  }
}
