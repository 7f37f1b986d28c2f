import { alongTheClick, performedPasses } from '@/core/capture/performedPasses'
import { performSounding, type TimedTone } from '@/core/demo/soundingPlayers'
import { atItsSpeed } from '@/core/project/atItsSpeed'
import { contextOf } from '@/core/project/context'
import type { Stretch } from '@/core/time/timeSchemas'
import type { Milliseconds, Ticks } from '@/core/time/units'
import type { EarPort } from '@/engine/soundInput/earPort'
import type { SoundingStandIn } from '@/engine/soundInput/soundingStandIn'
import type { ProjectStore } from './projectStore'

/** A stand-in who plays into an input that is listened to. */
export interface HeardStandIn {
  readonly standIn: SoundingStandIn
  readonly port: EarPort
}

/** Has the stand-ins at inputs of sound play when the others do. */
export function createHeardStandIns(
  store: ProjectStore,
  seated: () => readonly HeardStandIn[],
  problem: (text: string) => void,
) {
  function play({ standIn, port }: HeardStandIn, startMs: Milliseconds, tones: readonly TimedTone[]): void {
    standIn
      .perform(startMs, tones, port.contextSecondsAt)
      .catch((error) => problem(`${port.name} cannot play: ${error.message ?? error}`))
  }

  return {
    /** From a position on. @param startMs its moment, on the epoch clock */
    perform(startMs: Milliseconds, fromTicks: Ticks, loop: Stretch | null = null): void {
      const { project } = store.getState()
      const { tempoMap } = contextOf(atItsSpeed(project))
      for (const each of seated()) {
        const { player } = each.standIn
        const tones = performedPasses(player.part, tempoMap, fromTicks, loop, (part, from, pass) =>
          performSounding({ ...player, part }, tempoMap, from, project.takes.length + pass),
        )
        play(each, startMs, tones)
      }
    },

    /** Along with strokes of the click, as late or early as they always are; nobody where none sits at that port. */
    strikeAlong(portId: string, timesMs: readonly Milliseconds[]): void {
      const each = seated().find(({ port }) => port.id === portId)
      const along = each && alongTheClick(timesMs, each.standIn.player.part[0]!.key)
      if (!each || !along) return
      const tones = performSounding({ ...each.standIn.player, part: along.part }, along.tempoMap, 0)
      play(each, timesMs[0]!, tones)
    },

    stopPerforming(): void {
      for (const { standIn } of seated()) standIn.stop()
    },
  }
}
