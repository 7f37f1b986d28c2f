import type { ControllerEvent, Note } from '../event/note'
import { type TempoChange, TempoMap } from '../time/tempoMap'
import type { Ticks } from '../time/units'
import { contextOf } from './context'
import type { Project } from './schema'

/** What recorded notes keep when the tempo changes under them: their bar and beat, or the moment they sound at. */
export type KeptPosition = 'bar' | 'clock'

/** Sets the tempi of the piece. The first always holds from the beginning. */
export function setTempos(project: Project, tempos: readonly TempoChange[], keep: KeptPosition): Project {
  const sorted = [...new Map(tempos.map((tempo) => [tempo.tick, tempo])).values()].sort(
    (a, b) => a.tick - b.tick,
  )
  if (sorted.length === 0) return project
  sorted[0] = { ...sorted[0]!, tick: 0 }
  const changed = { ...project, tempos: sorted }
  return keep === 'bar' ? changed : keepClockTimes(project, changed)
}

/** The tempo from a place on, until the next change. */
export function setTempoAt(
  project: Project,
  tick: Ticks,
  tempoBpm: number,
  keep: KeptPosition = 'bar',
): Project {
  const others = project.tempos.filter((tempo) => tempo.tick !== tick)
  return setTempos(project, [...others, { tick, tempoBpm }], keep)
}

/** Takes a tempo change out; the one at the beginning stays. */
export function removeTempoAt(project: Project, tick: Ticks, keep: KeptPosition = 'bar'): Project {
  if (tick === 0) return project
  return setTempos(
    project,
    project.tempos.filter((tempo) => tempo.tick !== tick),
    keep,
  )
}

/** The meter from the bar at a place on. Notes keep their time and place in ticks; only the bar lines move. */
export function setMeterAt(
  project: Project,
  tick: Ticks,
  meter: Pick<Project['meters'][number], 'numerator' | 'denominator'>,
): Project {
  const barStart = contextOf(project).meterMap.measureAt(tick).startTicks
  const others = project.meters.filter((change) => change.tick !== barStart)
  return {
    ...project,
    meters: [...others, { tick: barStart, ...meter }].sort((a, b) => a.tick - b.tick),
  }
}

export function removeMeterAt(project: Project, tick: Ticks): Project {
  if (tick === 0) return project
  return { ...project, meters: project.meters.filter((change) => change.tick !== tick) }
}

function keepClockTimes(before: Project, after: Project): Project {
  const from = new TempoMap(before.tempos)
  const to = new TempoMap(after.tempos)
  const move = (tick: Ticks): Ticks => Math.max(0, Math.round(to.ticksAt(from.msAt(tick))))
  const moveNote = (note: Note): Note => {
    const onsetTicks = move(note.onsetTicks)
    const durationTicks = Math.max(1, move(note.onsetTicks + note.durationTicks) - onsetTicks)
    return { ...note, onsetTicks, durationTicks }
  }
  const moveController = (event: ControllerEvent): ControllerEvent => ({ ...event, tick: move(event.tick) })
  return {
    ...after,
    takes: after.takes.map((take) => ({
      ...take,
      startTicks: move(take.startTicks),
      tempos: after.tempos,
      clockPoints: take.clockPoints.map((point) => ({ ...point, ticks: move(point.ticks) })),
    })),
    // Words of a track are sung with its notes; those of the whole piece stay with their bar, as sections do.
    words: after.words.map((words) =>
      words.trackId === null ? words : { ...words, tick: move(words.tick) },
    ),
    tracks: after.tracks.map((track) => ({
      ...track,
      effectChanges: track.effectChanges.map((change) => ({ ...change, tick: move(change.tick) })),
      clips: track.clips.map((clip) => ({
        ...clip,
        notes: clip.notes.map(moveNote),
        controllers: clip.controllers.map(moveController),
      })),
    })),
  }
}
