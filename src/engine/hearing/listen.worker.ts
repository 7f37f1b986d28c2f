import { expose, transfer } from 'comlink'
import { barsOfMidi } from '@/core/formats/barsOfMidi'
import { ImportError } from '@/core/formats/midiToProject'
import type { MidiFile } from '@/core/midi/standardMidiFile/model'
import { writeMidiFile } from '@/core/midi/standardMidiFile/write'
import { heardMidi } from '@/core/pitch/heardMidi'
import { type ListenerPreset, listenerSettingsOf, programOf } from '@/core/pitch/listenerSettings'
import type { HeardNote } from '@/core/pitch/readLine'
import { type ReadSound, readSound } from '@/core/pitch/readSound'
import type { Sound } from '@/core/sound/readWav'
import { type ChordModel, loadChordModel } from './chordModel'

/** The thread that reads recordings. */

/** How a recording is to be read. */
export interface ReadingWish {
  readonly preset: ListenerPreset
  readonly concertHz: number
  /** Several notes at once; else a line of single ones. */
  readonly hasChords: boolean
}

let model: Promise<ChordModel> | undefined

async function fetched(url: URL): Promise<Response> {
  const answer = await fetch(url)
  if (!answer.ok) throw new Error(`the reader of chords could not be fetched (${answer.status})`)
  return answer
}

function chordModel(): Promise<ChordModel> {
  model ??= (async () => {
    const [topology, weights] = await Promise.all([
      fetched(new URL('@spotify/basic-pitch/model/model.json', import.meta.url)).then((each) => each.text()),
      fetched(new URL('@spotify/basic-pitch/model/group1-shard1of1.bin', import.meta.url)).then((each) =>
        each.arrayBuffer(),
      ),
    ])
    return loadChordModel({
      topology,
      weights,
      wasm: {
        'tfjs-backend-wasm.wasm': String(
          new URL('@tensorflow/tfjs-backend-wasm/dist/tfjs-backend-wasm.wasm', import.meta.url),
        ),
        'tfjs-backend-wasm-simd.wasm': String(
          new URL('@tensorflow/tfjs-backend-wasm/dist/tfjs-backend-wasm-simd.wasm', import.meta.url),
        ),
        'tfjs-backend-wasm-threaded-simd.wasm': String(
          new URL('@tensorflow/tfjs-backend-wasm/dist/tfjs-backend-wasm-threaded-simd.wasm', import.meta.url),
        ),
      },
    })
  })()
  // Another time it may be there.
  model.catch(() => {
    model = undefined
  })
  return model
}

const api = {
  /** @param onShare is told the part that is done, from 0 to 1 */
  async read(sound: Sound, wish: ReadingWish, onShare: (share: number) => void): Promise<ReadSound> {
    const { hear } = wish.hasChords ? await chordModel() : { hear: null }
    const settings = { ...listenerSettingsOf[wish.preset], concertHz: wish.concertHz }
    const reading = readSound(sound, settings, hear)
    let step = reading.next()
    while (!step.done) {
      onShare(step.value)
      step = reading.next()
    }
    return step.value
  },

  /**
   * The notes that were taken, as a file.
   *
   * @param tempoBpm of the piece they come into; null: their own bars are found
   */
  midi(
    name: string,
    notes: readonly HeardNote[],
    preset: ListenerPreset,
    tempoBpm: number | null,
  ): Uint8Array {
    const file = heardMidi(name, notes, programOf[preset], tempoBpm ?? undefined)
    const bytes = writeMidiFile(tempoBpm === null ? withBars({ ...file, warnings: [] }) : file)
    return transfer(bytes, [bytes.buffer])
  },
}

/** Too few notes have no bars to be found in: then they stand where they were heard. */
function withBars(file: MidiFile): Omit<MidiFile, 'warnings'> {
  try {
    return barsOfMidi(file).file
  } catch (error) {
    if (error instanceof ImportError) return file
    throw error
  }
}

export type ListenApi = typeof api
expose(api)
