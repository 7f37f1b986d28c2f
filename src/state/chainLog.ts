import type { SourceChain } from '@/core/capture/takePlacement'
import type { EffectSlot } from '@/core/effects/catalogue'
import type { ChainChange } from '@/core/effects/chain'
import { generatorPortId } from '@/core/generators/generator'
import type { Project } from '@/core/project/schema'
import type { Ticks } from '@/core/time/units'
import { tracksOf } from '@/core/wiring/reaching'
import type { ProjectStore } from './projectStore'

/** Changes of effects less far apart than this are one: a slider that is being dragged. */
const sameGestureTicks: Ticks = 2520

/** The effects that a take was played through. */
export interface PerformedChains {
  readonly chains: readonly SourceChain[]
  /** What else the recording changes in the project, in the same step. */
  readonly afterwards: (project: Project) => Project
}

/** What was at work when recording began, and what of it was changed meanwhile. */
interface Log {
  readonly takeSerial: number
  readonly begun: Project
  readonly changes: Map<string, ChainChange[]>
}

const trackKey = (id: string) => `track ${id}`
const sourceKey = (id: string) => `source ${id}`

/** Follows changes of effects while recording, so that they are part of the performance. */
export function createChainLog(store: ProjectStore, position: () => Ticks) {
  /** Of the recording that runs, and of one that has ended and is still being handed over. */
  let logs: readonly Log[] = []

  function note(log: Log, key: string, slots: readonly EffectSlot[]): void {
    const tick = Math.max(0, Math.round(position()))
    const known = log.changes.get(key) ?? []
    const last = known.at(-1)
    const isSameGesture = last !== undefined && tick - last.tick < sameGestureTicks && tick >= last.tick
    log.changes.set(key, [
      ...(isSameGesture ? known.slice(0, -1) : known),
      { tick: isSameGesture ? last.tick : tick, slots },
    ])
  }

  const unsubscribe = store.subscribe(({ project }, { project: before }) => {
    const log = logs.at(-1)
    if (!log || project === before) return
    for (const track of project.tracks) {
      const old = before.tracks.find((each) => each.id === track.id)
      if (old && old.effects !== track.effects) note(log, trackKey(track.id), track.effects)
    }
    for (const source of project.sources) {
      const old = before.sources.find((each) => each.id === source.id)
      if (old && old.effects !== source.effects) note(log, sourceKey(source.id), source.effects)
    }
  })

  return {
    begin(takeSerial: number) {
      const log = { takeSerial, begun: store.getState().project, changes: new Map() }
      logs = [...logs, log].slice(-2)
    },

    /** What a take needs to know, and what becomes of the project with it. One that was not recorded now has the effects of now. */
    finish(takeSerial: number): PerformedChains {
      const recorded = logs.find((log) => log.takeSerial === takeSerial) ?? null
      logs = logs.filter((log) => log !== recorded)
      const begun = recorded?.begun ?? store.getState().project
      const changes = recorded?.changes ?? new Map<string, ChainChange[]>()
      const chains = begun.sources.flatMap((source): SourceChain[] => {
        const changed = changes.get(sourceKey(source.id)) ?? []
        return source.effects.length > 0 || changed.length > 0
          ? [{ ...source.address, slots: source.effects, changes: changed }]
          : []
      })
      return {
        chains,
        afterwards: (project) => ({
          ...project,
          // A pattern that was changed while it played: from the beginning as it was, then as it was changed.
          tracks: project.tracks.map((track) => {
            const changed = changes.get(trackKey(track.id))
            const old = begun.tracks.find((each) => each.id === track.id)
            if (!changed || !old) return track
            const earlier = track.effectChanges.filter((change) => change.tick < changed[0]!.tick)
            return { ...track, effects: old.effects, effectChanges: [...earlier, ...changed] }
          }),
          // What a generator played is on tracks now: it rests, so that nothing sounds twice.
          generators: project.generators.map((generator) =>
            recorded && generator.isPlaying && isRecorded(begun, generator.id)
              ? { ...generator, isPlaying: false }
              : generator,
          ),
        }),
      }
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
