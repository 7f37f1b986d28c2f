import { transfer } from 'comlink'
import { stretchOf, type TakeInfo } from '@/core/capture/takeInfo'
import type { Project } from '@/core/project/schema'
import { type KeptOutline, type KeptStretch, SoundAssembly } from '@/core/sound/keptSound'
import { epochNowMs } from '@/engine/clock'
import { journal } from '@/engine/journal/journal'
import type { FromKeeper, ToKeeper } from '@/engine/keptSound/keeperProtocol'
import { keptSounds } from '@/engine/keptSound/keptSounds'
import type { Computing } from './computing'

/** As long as what is played outside recording can still become a take, and a little longer. */
const keptOutsideMs = 31 * 60_000
const pruneEveryMs = 60_000
/** Pieces taken out of storage and read at a time. */
const piecesAtATime = 32

/** The sound of one player in a take. */
export interface TakeSound {
  readonly portId: string
  readonly name: string
  readonly outlines: readonly KeptOutline[]
  readonly byteLength: number
}

export type SoundKeeping = ReturnType<typeof createSoundKeeping>

/** The sound that is kept with takes: stored as it comes, told, read and let go. */
export function createSoundKeeping(
  projectId: string,
  project: () => Project,
  computing: Computing,
  problem: (text: string) => void,
) {
  let worker: Worker | null = null
  /** Some sound is only held in memory. */
  let isUnstored = false
  const lostSeconds = new Map<string, number>()

  /** Said at the first second, and each time it is twice as much. */
  function tellLost({ portId, seconds, reason }: Extract<FromKeeper, { type: 'lost' }>): void {
    const before = lostSeconds.get(portId) ?? 0
    const sum = before + seconds
    lostSeconds.set(portId, sum)
    if (before > 0 && Math.floor(Math.log2(sum)) === Math.floor(Math.log2(before))) return
    problem(
      `Of the sound of ${nameOf(portId)}, ${Math.ceil(sum)} s are lost (${reason}). The notes are kept all the same.`,
    )
  }
  const nameOf = (portId: string) =>
    project().sources.find(({ address }) => address.portId === portId)?.name ?? 'A player'

  function thread(): Worker {
    if (worker) return worker
    worker = new Worker('/worklets/keeper.js')
    worker.onmessage = ({ data }: MessageEvent<FromKeeper>) => {
      if (data.type === 'lost') {
        tellLost(data)
        return
      }
      isUnstored = data.type === 'full'
      problem(
        data.type === 'full'
          ? `The sound of what is played cannot be stored (${data.reason}). Its notes are kept all the same; the sound is held here, half an hour of two players and more, and is stored as soon as there is room. Keep this tab open.`
          : 'There is room again: the sound of what is played is stored.',
      )
    }
    worker.onerror = (event) => {
      event.preventDefault()
      problem(`The sound of what is played is not kept: ${event.message}. Its notes are.`)
    }
    return worker
  }

  async function prune(): Promise<void> {
    const inJournal = await journal.takesOf(projectId)
    const stretches = [
      // A take without an end is being recorded, or was cut off and may still be wanted.
      ...inJournal
        .filter(({ endMs, isFiled }) => endMs !== null || !isFiled)
        .map(({ anchorMs, earlyMs, endMs }) => ({
          fromMs: anchorMs - earlyMs,
          toMs: endMs ?? Number.POSITIVE_INFINITY,
        })),
      ...project().takes.map(stretchOf),
    ]
    await keptSounds.prune(projectId, epochNowMs() - keptOutsideMs, stretches)
  }
  let isSaid = false
  const pruned = () =>
    prune().catch((error) => {
      if (!isSaid) problem(`Sound that nobody asks for could not be let go: ${error}`)
      isSaid = true
    })
  const timer = setInterval(() => void pruned(), pruneEveryMs)
  void pruned()

  /**
   * A stretch of a sound, one channel.
   *
   * @throws Error with a sentence when what is stored cannot be read
   */
  async function sound({ outlines }: TakeSound, stretch: KeptStretch): Promise<SoundAssembly> {
    const first = outlines[0]
    if (!first) throw new Error('Of this take no sound is kept')
    const reader = new OfflineAudioContext(1, 1, first.sampleRate)
    const read = async (outline: KeptOutline) => {
      const flac = await keptSounds.flac(projectId, outline)
      return flac && (await reader.decodeAudioData(Uint8Array.from(flac).buffer)).getChannelData(0)
    }
    const assembly = new SoundAssembly(stretch, first.sampleRate)
    for (let from = 0; from < outlines.length; from += piecesAtATime) {
      const batch = outlines.slice(from, from + piecesAtATime)
      for (const [index, samples] of (await Promise.all(batch.map(read))).entries())
        if (samples) assembly.add(batch[index]!, samples)
    }
    return assembly
  }

  return {
    /** A way for the sound of an input to storage. */
    port(): MessagePort {
      const { port1, port2 } = new MessageChannel()
      const message: ToKeeper = { projectId, port: port2 }
      thread().postMessage(message, [port2])
      return port1
    },

    /** The sounds of a take, one for each player who was heard. */
    async soundsOf(take: TakeInfo): Promise<TakeSound[]> {
      const outlines = await keptSounds.outlines(projectId, stretchOf(take))
      const byPort = new Map<string, KeptOutline[]>()
      for (const outline of outlines)
        byPort.set(outline.portId, [...(byPort.get(outline.portId) ?? []), outline])
      return [...byPort].map(([portId, ofPort]) => ({
        portId,
        name: nameOf(portId),
        outlines: ofPort,
        byteLength: ofPort.reduce((sum, { byteLength }) => sum + byteLength, 0),
      }))
    },

    sound,

    /** Whether some sound is only held in memory, since storage refuses it. */
    isUnstored: () => isUnstored,

    /** A sound as a file that any program reads. @throws as `sound` */
    async wav(of: TakeSound, stretch: KeptStretch): Promise<Blob> {
      const { samples, sampleRate } = await sound(of, stretch)
      return computing.run((compute) => compute.keptWav(transfer(samples, [samples.buffer]), sampleRate))
    },

    /** All sound of the takes of the piece, for a file of it. */
    ofTakes: () => keptSounds.soundsIn(projectId, project().takes.map(stretchOf)),

    /** How much that is, in bytes. */
    sizeOfTakes: () => keptSounds.sizeOf(projectId, project().takes.map(stretchOf)),

    forget: (portId: string, take: TakeInfo) => keptSounds.forget(projectId, portId, stretchOf(take)),

    close(): void {
      clearInterval(timer)
      // What is on its way is stored first: the thread ends with the page at the latest.
      const ending = worker
      worker = null
      setTimeout(() => ending?.terminate(), 3000)
    },
  }
}
