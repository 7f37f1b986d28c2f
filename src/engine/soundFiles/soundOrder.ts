import { contextOf } from '@/core/project/context'
import { programsIn, projectEndTicks, soundingNotes } from '@/core/project/create'
import { playingEndTicks } from '@/core/project/printing'
import type { Project } from '@/core/project/schema'
import type { SampleBits, SampleRate, SoundForm } from '@/core/sound/wav'
import { createEnginePicture } from '../enginePicture'
import type { ToEngine } from '../protocol'
import { channelSoundOf, clickSynthChannel } from '../synth/channelSound'
import type { SoundOrder } from './soundFiles'

/** What is to be rendered. */
export interface SoundWish {
  readonly sampleRate: SampleRate
  readonly form: SoundForm
  readonly bits: SampleBits
  /** A file for each track too. */
  readonly withStems: boolean
}

/** A piece, as it is heard, as an order to render it: what has no instrument here is not in it. */
export function soundOrderOf(heard: Project, { sampleRate, form, bits, withStems }: SoundWish): SoundOrder {
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
    form,
    bits,
  }
}
