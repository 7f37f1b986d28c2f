import { proxy } from 'comlink'
import { createStore } from 'zustand/vanilla'
import { contextOf } from '@/core/project/context'
import { programsIn, projectEndTicks, soundingNotes } from '@/core/project/create'
import { playingEndTicks } from '@/core/project/printing'
import type { Project } from '@/core/project/schema'
import type { SampleBits, SampleRate } from '@/core/sound/wav'
import type { ToEngine } from '@/engine/protocol'
import type { RenderedSound, SoundOrder } from '@/engine/soundFiles/soundFiles'
import type { SoundFilesApi } from '@/engine/soundFiles/soundFiles.worker'
import { createWorkThread } from './computing'
import { createEnginePicture } from './enginePicture'
import { channelSoundOf, clickSynthChannel } from './sound'

/** What is to be rendered. */
export interface SoundWish {
  readonly sampleRate: SampleRate
  readonly bits: SampleBits
  /** A file for each track too. */
  readonly withStems: boolean
}

export interface SoundFilesState {
  /** How much of it is rendered, 0 to 1; null while nothing is. */
  readonly share: number | null
  readonly rendered: (RenderedSound & { readonly project: Project; readonly tookMs: number }) | null
  /** Why the last files were not rendered. */
  readonly problem: string | null
}

/** Rendering hours of sound takes longer than any other work. */
const longestMs = 3_600_000

/** A piece, as it is heard, as an order to render it: what has no instrument here is not in it. */
export function soundOrderOf(heard: Project, { sampleRate, bits, withStems }: SoundWish): SoundOrder {
  // Nothing from outside plays along, nothing goes out, and nobody counts in.
  const project: Project = {
    ...heard,
    click: { ...heard.click, isOn: false },
    clock: { sendTo: [], follow: null },
    cables: [],
    recording: { ...heard.recording, isThrownEachTurn: false },
    tracks: heard.tracks.map((track) => ({ ...track, sendTo: null })),
  }
  const channelOf = (trackId: string) =>
    clickSynthChannel + 1 + project.tracks.findIndex(({ id }) => id === trackId)
  const messages: ToEngine[] = []
  createEnginePicture((message) => messages.push(message), channelOf).tell(project)
  const endTicks = playingEndTicks(project) ?? projectEndTicks(project)
  const hasSolo = project.tracks.some(({ isSolo }) => isSolo)
  const sounding = project.tracks.filter(
    (track) => track.instrument.kind !== 'none' && !track.isMuted && (!hasSolo || track.isSolo),
  )
  return {
    messages,
    lastsMs: contextOf(project).tempoMap.msAt(endTicks),
    channels: sounding.flatMap((track) => {
      const sound = channelSoundOf(track)
      return sound ? [{ ...sound, synthChannel: channelOf(track.id), programs: programsIn(track) }] : []
    }),
    stems: withStems
      ? sounding
          .filter((track) => soundingNotes(track).length > 0 || project.generators.length > 0)
          .map(({ id, name }) => ({ name, synthChannel: channelOf(id) }))
      : [],
    name: project.name,
    sampleRate,
    bits,
  }
}

/** Renders sound files in a thread of their own. */
export function createSoundFiles(heard: (project: Project) => Project) {
  const thread = createWorkThread<SoundFilesApi>(
    () =>
      new Worker(new URL('../engine/soundFiles/soundFiles.worker.ts', import.meta.url), { type: 'module' }),
    'renders sound',
  )
  const state = createStore<SoundFilesState>(() => ({ share: null, rendered: null, problem: null }))
  return {
    state,

    /** Renders a piece; while that is under way it is not begun again. What comes of it is in the state. */
    async render(project: Project, wish: SoundWish): Promise<void> {
      if (state.getState().share !== null) return
      state.setState({ share: 0, problem: null })
      const startedMs = performance.now()
      try {
        const order = soundOrderOf(heard(project), wish)
        const wholeSeconds = (order.lastsMs / 1000) * (1 + order.stems.length)
        const onSeconds = proxy((done: number) =>
          state.setState({ share: Math.min(1, done / Math.max(1, wholeSeconds)) }),
        )
        const rendered = await thread.run((api) => api.render(order, onSeconds), longestMs)
        state.setState({ rendered: { ...rendered, project, tookMs: performance.now() - startedMs } })
      } catch (error) {
        state.setState({ problem: error instanceof Error ? error.message : String(error) })
      } finally {
        state.setState({ share: null })
      }
    },

    stop: thread.stop,
  }
}
