import type { NoteId } from '@/core/event/note'
import { columnBuffers, packNotes } from '@/core/event/noteColumns'
import { compensationsOf } from '@/core/project/compensations'
import { soundingControllers, soundingNotes } from '@/core/project/create'
import { chainOf } from '@/core/project/printing'
import type { Project } from '@/core/project/schema'
import { cableName } from '@/core/routing/ports'
import type { EngineSetup, ToEngine } from './protocol'
import { clickSynthChannel } from './synth/channelSound'

/** Of some tracks these notes, and nothing else of the piece. */
export type HeardAlone = ReadonlyMap<string, { has(id: NoteId): boolean }>

/** What of a project the engine is told, without the notes. */
export function engineSetupOf(
  project: Project,
  synthChannelOf: (trackId: string) => number,
  alone: HeardAlone | null = null,
): EngineSetup {
  const hasSolo = project.tracks.some((track) => track.isSolo)
  return {
    tracks: project.tracks.map((track) => ({
      id: track.id,
      synthChannel: synthChannelOf(track.id),
      routes: track.routes,
      monitor: track.monitor,
      sendTo: track.sendTo,
      channel: track.channel,
      offsetMs: track.offsetMs,
      hasSound: track.instrument.kind !== 'none',
      base: {
        program: track.instrument.kind === 'program' ? track.instrument.program : null,
        volume: track.volume,
        pan: track.pan,
      },
      isArmed: track.isArmed,
      isAudible: alone ? alone.has(track.id) : !track.isMuted && (!hasSolo || track.isSolo),
      ...chainOf(track),
    })),
    tempos: project.tempos,
    meters: project.meters,
    countInBars: project.countIn === 'firstNote' ? 0 : project.countIn,
    click: project.click,
    clickSynthChannel,
    takeMode: project.recording.takeMode === 'fresh' ? 'fresh' : 'layered',
    isThrownEachTurn: project.recording.isThrownEachTurn,
    isListening: project.isListening,
    compensations: compensationsOf(project),
    sourceChains: project.sources
      .filter((source) => source.effects.length > 0)
      .map(({ address, effects }) => ({ ...address, slots: effects })),
    clockTo: project.clock.sendTo,
    clockFrom: project.clock.follow,
    cables: cablesRead(project),
  }
}

/** Cables that are read: those chosen, and those that sources are on, that tracks hear, and whose clock is followed. */
function cablesRead(project: Project): string[] {
  const portIds = [
    ...project.sources.map((source) => source.address.portId),
    ...project.tracks.flatMap((track) => track.routes.map((route) => route.portId)),
    ...(project.clock.follow ? [project.clock.follow] : []),
  ]
  return [...new Set([...project.cables, ...portIds.map(cableName).filter((name) => name !== null)])]
}

const noGenerators: Project['generators'] = []

/** Keeps the engine's picture of a project the same as the project, sending only what changed of its notes. */
export function createEnginePicture(
  tellEngine: (message: ToEngine, transfer?: ArrayBuffer[]) => void,
  synthChannelOf: (trackId: string) => number,
) {
  let toldGenerators: Project['generators'] | null = null
  let alone: HeardAlone | null = null
  const toldContent = new Map<string, readonly unknown[]>()
  return {
    /** Until it is told otherwise, the engine has these notes only. */
    hearAlone(notes: HeardAlone | null): void {
      alone = notes
    },

    tell(project: Project): void {
      tellEngine({ type: 'setup', setup: engineSetupOf(project, synthChannelOf, alone) })
      const generators = alone ? noGenerators : project.generators
      if (toldGenerators !== generators) {
        toldGenerators = generators
        tellEngine({ type: 'generators', generators })
      }
      for (const track of project.tracks) {
        const heard = alone?.get(track.id) ?? null
        const all = soundingNotes(track)
        const known = toldContent.get(track.id)
        if (
          known?.[0] === all &&
          known[2] === heard &&
          (known[1] === track.clips || (all.length === 0 && heard === null))
        )
          continue
        toldContent.set(track.id, [all, track.clips, heard])
        const notes = heard ? all.filter(({ id }) => heard.has(id)) : all
        const columns = packNotes(notes)
        const controllers = soundingControllers(track)
        tellEngine(
          { type: 'trackContent', trackId: track.id, notes: columns, controllers },
          columnBuffers(columns),
        )
      }
    },
  }
}
