import type { ChainChange } from '@/core/effects/chain'
import { withChange } from '@/core/effects/chainChanges'
import { generatorPortId } from '@/core/generators/generator'
import type { Project } from '@/core/project/schema'
import type { Ticks } from '@/core/time/units'
import { tracksOf } from '@/core/wiring/reaching'
import type { ProjectStore } from './projectStore'

/** What a recording changes in the project besides its take, in the same step. */
export type Afterwards = (project: Project) => Project

/** What was at work when recording began, and what of it was changed meanwhile. */
interface Log {
  readonly takeSerial: number
  readonly begun: Project
  /** Of the effects of tracks, by track. */
  readonly changes: Map<string, ChainChange[]>
}

/** Follows changes of the effects of tracks while recording, so that they are part of the performance. (Those of sources belong to the take.) */
export function createChainLog(store: ProjectStore, position: () => Ticks) {
  /** Of the recording that runs, and of one that has ended and is still being handed over. */
  let logs: readonly Log[] = []

  const unsubscribe = store.subscribe(({ project }, { project: before }) => {
    const log = logs.at(-1)
    if (!log || project === before) return
    for (const track of project.tracks) {
      const old = before.tracks.find((each) => each.id === track.id)
      if (old && old.effects !== track.effects)
        log.changes.set(track.id, withChange(log.changes.get(track.id) ?? [], position(), track.effects))
    }
  })

  return {
    begin(takeSerial: number) {
      const log = { takeSerial, begun: store.getState().project, changes: new Map() }
      logs = [...logs, log].slice(-2)
    },

    /** What becomes of the project with a take; nothing, if it was not recorded just now. */
    finish(takeSerial: number): Afterwards {
      const recorded = logs.find((log) => log.takeSerial === takeSerial)
      if (!recorded) return (project) => project
      logs = logs.filter((log) => log !== recorded)
      const { begun, changes } = recorded
      return (project) => ({
        ...project,
        // A pattern that was changed while it played: from the beginning as it was, then as it was changed.
        tracks: project.tracks.map((track) => {
          const changed = changes.get(track.id)
          const old = begun.tracks.find((each) => each.id === track.id)
          if (!changed || !old) return track
          const earlier = track.effectChanges.filter((change) => change.tick < changed[0]!.tick)
          return { ...track, effects: old.effects, effectChanges: [...earlier, ...changed] }
        }),
        // What a generator played is on tracks now: it rests, so that nothing sounds twice.
        generators: project.generators.map((generator) =>
          generator.isPlaying && isRecorded(begun, generator.id)
            ? { ...generator, isPlaying: false }
            : generator,
        ),
      })
    },

    close: unsubscribe,
  }
}

function isRecorded(project: Project, generatorId: string): boolean {
  const portId = generatorPortId(generatorId)
  return project.sources
    .filter((source) => source.address.portId === portId)
    .some((source) => tracksOf(project, source).some((track) => track.isArmed))
}
