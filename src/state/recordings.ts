import { proxy } from 'comlink'
import { createStore } from 'zustand/vanilla'
import { type ListenerPreset, listeningRate } from '@/core/pitch/listenerSettings'
import type { HeardNote } from '@/core/pitch/readLine'
import type { ReadSound } from '@/core/pitch/readSound'
import { holdsSound, tellingBytes } from '@/core/sound/holdsSound'
import type { Sound } from '@/core/sound/readWav'
import type { ListenApi, ReadingWish } from '@/engine/hearing/listen.worker'
import { createWorkThread } from './computing'

/** Whether a file is a recording, by what is in it. */
export async function isRecording(file: File): Promise<boolean> {
  return holdsSound(new Uint8Array(await file.slice(0, tellingBytes).arrayBuffer()), file.name)
}

export interface ReadingState {
  /** How much is read, 0 to 1; null while nothing is. */
  readonly share: number | null
  /** What was read last, and how. */
  readonly read: (ReadSound & { readonly wish: ReadingWish }) | null
  /** Why it was not read. */
  readonly problem: string | null
}

/** Whoever reads hours of chords waits for hours. */
const longestMs = 4 * 3_600_000
/** What a browser keeps of a sound while it takes it apart is many times its file. */
const mostBytes = 600e6

/** Reads a recording in a thread of its own: as often as wished, with other settings. */
export function createRecordings() {
  const thread = createWorkThread<ListenApi>(
    () => new Worker(new URL('../engine/hearing/listen.worker.ts', import.meta.url), { type: 'module' }),
    'reads recordings',
  )
  const state = createStore<ReadingState>(() => ({ share: null, read: null, problem: null }))
  let reading = 0

  return {
    state,

    /** @throws Error with a sentence when there is no sound in it that the browser can take out */
    async decode(file: File): Promise<Sound> {
      if (file.size > mostBytes)
        throw new Error(
          `it has ${Math.round(file.size / 1e6).toLocaleString('en')} megabytes, and ${mostBytes / 1e6} can be read. Cut it into pieces first`,
        )
      const bytes = await file.arrayBuffer()
      const decoded = await new OfflineAudioContext(1, 1, listeningRate).decodeAudioData(bytes).catch(() => {
        throw new Error('there is no sound in it that this browser can read')
      })
      return {
        sampleRate: decoded.sampleRate,
        channels: Array.from({ length: decoded.numberOfChannels }, (_, index) =>
          decoded.getChannelData(index),
        ),
      }
    },

    /** Reads a sound; what comes of it is in the state. While one is read, another press does nothing. */
    async read(sound: Sound, wish: ReadingWish): Promise<void> {
      if (state.getState().share !== null) return
      const own = ++reading
      state.setState({ share: 0, problem: null })
      const onShare = proxy((share: number) => own === reading && state.setState({ share }))
      try {
        const read = await thread.run((api) => api.read(sound, wish, onShare), longestMs)
        if (own === reading) state.setState({ read: { ...read, wish } })
      } catch (error) {
        if (own === reading)
          state.setState({ problem: error instanceof Error ? error.message : String(error) })
      } finally {
        if (own === reading) state.setState({ share: null })
      }
    },

    /** What was taken, as a MIDI file that can be opened or brought in. */
    async midiFile(
      name: string,
      notes: readonly HeardNote[],
      preset: ListenerPreset,
      tempoBpm: number | null,
    ): Promise<File> {
      const bytes = await thread.run((api) => api.midi(name, notes, preset, tempoBpm))
      return new File([bytes as BlobPart], `${name}.mid`, { type: 'audio/midi' })
    },

    /** Ends what is being read; what was read before stays. */
    stop(): void {
      reading++
      thread.stop()
      state.setState({ share: null })
    },
  }
}
export type Recordings = ReturnType<typeof createRecordings>
