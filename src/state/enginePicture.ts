import { columnBuffers, packNotes } from '@/core/event/noteColumns'
import { soundingControllers, soundingNotes } from '@/core/project/create'
import { chainOf } from '@/core/project/printing'
import type { Project } from '@/core/project/schema'
import { cableName } from '@/core/routing/ports'
import type { EngineSetup, ToEngine } from '@/engine/protocol'
import { clickSynthChannel } from './sound'
import { compensationsOf } from './takes'

/** What of a project the engine is told, without the notes. */
export function engineSetupOf(project: Project, synthChannelOf: (trackId: string) => number): EngineSetup {
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
      isArmed: track.isArmed,
      isAudible: !track.isMuted && (!hasSolo || track.isSolo),
      ...chainOf(track),
    })),
    tempos: project.tempos,
    meters: project.meters,
    countInBars: project.countIn === 'firstNote' ? 0 : project.countIn,
    click: project.click,
    clickSynthChannel,
    takeMode: project.recording.takeMode,
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

/** Keeps the engine's picture of a project the same as the project, sending only what changed of its notes. */
export function createEnginePicture(
  tellEngine: (message: ToEngine, transfer?: Transferable[]) => void,
  synthChannelOf: (trackId: string) => number,
) {
  let toldGenerators: Project['generators'] | null = null
  const toldContent = new Map<string, readonly unknown[]>()
  return {
    tell(project: Project): void {
      tellEngine({ type: 'setup', setup: engineSetupOf(project, synthChannelOf) })
      if (toldGenerators !== project.generators) {
        toldGenerators = project.generators
        tellEngine({ type: 'generators', generators: project.generators })
      }
      for (const track of project.tracks) {
        const notes = soundingNotes(track)
        const known = toldContent.get(track.id)
        if (known?.[0] === notes && (known[1] === track.clips || notes.length === 0)) continue
        toldContent.set(track.id, [notes, track.clips])
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
