import type { Project } from '@/core/project/schema'
import { boundedName } from '@/core/text/bounded'
import type { TempoMap } from '@/core/time/tempoMap'
import type { Milliseconds } from '@/core/time/units'
import { epochNowMs } from '@/engine/clock'
import type { TransportState } from '@/engine/protocol'
import { getAsset, putAsset } from './assets'
import type { ProjectStore } from './projectStore'

/** Larger files are refused: the browser holds them decoded, ten times as large. */
export const largestBackingBytes = 200 * 1024 * 1024

interface BackingWorld {
  readonly store: ProjectStore
  context(): AudioContext | undefined
  /** Audio time of a moment, as heard. */
  audioSecondsAt(epochMs: Milliseconds): number | null
  problem(text: string): void
}

/** Sound that plays along with the piece. */
export interface Alongside {
  readonly buffer: AudioBuffer
  /** Where in the piece it begins. */
  readonly offsetMs: Milliseconds
  readonly level: number
}

/** How far ahead passes of a loop are scheduled. */
const aheadMs = 1500

export type Backing = ReturnType<typeof createBacking>

/**
 * Sound that plays along with the piece, from its place, as long as the transport runs: the backing track, an audio file; and the sound of a
 * take that is heard against its notes.
 */
export function createBacking(world: BackingWorld) {
  let loaded: { readonly assetId: string; readonly buffer: AudioBuffer } | null = null
  let loading: string | null = null
  let takeSound: Alongside | null = null
  let playing: { readonly source: AudioBufferSourceNode; readonly gain: GainNode }[] = []
  let timer: ReturnType<typeof setInterval> | undefined

  async function decode(bytes: Uint8Array): Promise<AudioBuffer> {
    // An offline context decodes before any sound was allowed.
    const context = new OfflineAudioContext(2, 1, 48_000)
    return context.decodeAudioData(bytes.slice().buffer as ArrayBuffer)
  }

  /** Decodes the file of the project, once. */
  async function load(project: Project): Promise<void> {
    const assetId = project.backing?.assetId
    if (!assetId || loaded?.assetId === assetId || loading === assetId) return
    loading = assetId
    try {
      const bytes = await getAsset(project.id, assetId)
      if (!bytes) throw new Error('its file is not in this browser')
      loaded = { assetId, buffer: await decode(bytes) }
    } catch (error) {
      world.problem(
        `The backing track cannot be played: ${error instanceof Error ? error.message : error}. Everything else works.`,
      )
    } finally {
      loading = null
    }
  }

  function silence(): void {
    clearInterval(timer)
    for (const { source } of playing) source.stop()
    playing = []
  }

  function alongside(): Alongside[] {
    const { backing } = world.store.getState().project
    const track =
      backing?.isOn && loaded?.assetId === backing.assetId
        ? [{ buffer: loaded.buffer, offsetMs: backing.offsetMs, level: backing.level }]
        : []
    return takeSound ? [...track, takeSound] : track
  }

  /** Plays from a moment of the piece on, beginning at a moment of the clock. */
  function playFrom(pieceMs: Milliseconds, atMs: Milliseconds, forMs: Milliseconds | null): void {
    for (const each of alongside()) playOne(each, pieceMs, atMs, forMs)
  }

  function playOne(
    { buffer, offsetMs, level }: Alongside,
    pieceMs: Milliseconds,
    atMs: Milliseconds,
    forMs: Milliseconds | null,
  ): void {
    const context = world.context()
    if (!context) return
    let atSeconds = world.audioSecondsAt(atMs)
    if (atSeconds === null) return
    let offsetSeconds = (pieceMs - offsetMs) / 1000
    let lengthSeconds = forMs === null ? Infinity : forMs / 1000
    if (offsetSeconds < 0) {
      atSeconds -= offsetSeconds
      lengthSeconds += offsetSeconds
      offsetSeconds = 0
    }
    // A page that was busy begins late, in the right place.
    const late = Math.max(0, context.currentTime - atSeconds)
    const duration = Math.min(lengthSeconds - late, buffer.duration - offsetSeconds - late)
    if (duration <= 0) return
    const gain = new GainNode(context, { gain: level })
    const source = new AudioBufferSourceNode(context, { buffer })
    source.connect(gain).connect(context.destination)
    source.start(atSeconds + late, offsetSeconds + late, duration)
    playing.push({ source, gain })
    source.onended = () => {
      playing = playing.filter((each) => each.source !== source)
    }
  }

  return {
    load,
    loadedSeconds: () => loaded?.buffer.duration ?? null,

    /** The sound of a take that is heard along from the next start on; null for none. */
    hearAlong(sound: Alongside | null): void {
      takeSound = sound
    },

    /** Follows the transport, with the tempi of the piece. */
    onTransport(transport: TransportState, tempoMap: TempoMap, nowMs: Milliseconds): void {
      silence()
      if (transport.state !== 'playing' && transport.state !== 'recording') return
      const { fromTicks, startedAtMs, loop } = transport
      const fromMs = tempoMap.msAt(fromTicks)
      if (!loop || fromTicks >= loop.endTicks) {
        playFrom(fromMs, startedAtMs, null)
        return
      }
      const loopStartMs = tempoMap.msAt(loop.startTicks)
      const loopEndMs = tempoMap.msAt(loop.endTicks)
      playFrom(fromMs, startedAtMs, loopEndMs - fromMs)
      let nextAtMs = startedAtMs + loopEndMs - fromMs
      const schedule = (timeMs: Milliseconds) => {
        while (nextAtMs < timeMs + aheadMs) {
          playFrom(loopStartMs, nextAtMs, loopEndMs - loopStartMs)
          nextAtMs += loopEndMs - loopStartMs
        }
      }
      schedule(nowMs)
      timer = setInterval(() => schedule(epochNowMs()), 300)
    },

    setLevel(level: number): void {
      for (const { gain } of playing) gain.gain.value = level
    },

    /**
     * Stores an audio file with the project and takes it as its backing track.
     *
     * @throws Error with the reason when it is too large or cannot be decoded; nothing is changed then
     */
    async bringIn(file: File): Promise<void> {
      if (file.size > largestBackingBytes)
        throw new Error(
          `it has ${Math.round(file.size / 1048576)} MB; up to 200 MB can be kept with a project`,
        )
      const bytes = new Uint8Array(await file.arrayBuffer())
      let buffer: AudioBuffer
      try {
        buffer = await decode(bytes)
      } catch {
        throw new Error('this browser cannot read it as audio')
      }
      const assetId = `asset-${crypto.randomUUID()}`
      const { project } = world.store.getState()
      await putAsset(project.id, assetId, bytes)
      loaded = { assetId, buffer }
      const asset = {
        id: assetId,
        name: boundedName(file.name),
        mediaType: file.type || 'audio/wav',
        byteLength: bytes.byteLength,
      }
      world.store.getState().apply(`bring in the backing track “${asset.name}”`, (before) => ({
        ...before,
        assets: [...before.assets, asset],
        backing: { assetId, name: asset.name, offsetMs: 0, level: 0.7, isOn: true },
      }))
    },

    close: silence,
  }
}
