import type { FoundBars } from '../beats/findBars'
import type { TimedNote } from '../beats/strokes'
import { timeOfBars } from '../beats/timeOfBars'
import { noteEndTicks } from '../event/note'
import { TempoMap } from '../time/tempoMap'
import type { Ticks } from '../time/units'
import { contextOf } from './context'
import { soundingNotes } from './create'
import type { Project } from './schema'
import { setTempos } from './tempoEdits'

/** What sounds in a piece, in time, in order of onset: what its bars are found in. */
export function timedNotesOf(project: Project): TimedNote[] {
  const { tempoMap } = contextOf(project)
  return project.tracks
    .flatMap((track) => {
      const isUnpitched = track.instrument.kind === 'drums'
      return soundingNotes(track).map(
        (note): TimedNote => ({
          onsetMs: tempoMap.msAt(note.onsetTicks),
          endMs: tempoMap.msAt(noteEndTicks(note)),
          key: note.key,
          velocity: note.velocity,
          isUnpitched,
        }),
      )
    })
    .sort((a, b) => a.onsetMs - b.onsetMs || a.key - b.key)
}

/**
 * Puts the bar lines of a piece where its music has them: tempi and meters are new, and everything stays at its moment, sections,
 * keys and words too.
 */
export function layBars(project: Project, found: FoundBars): Project {
  const { tempos, meters } = timeOfBars(found)
  const laid = setTempos({ ...project, meters: meters as Project['meters'] }, tempos, 'clock')
  const [from, to] = [contextOf(project).tempoMap, new TempoMap(laid.tempos)]
  const move = (tick: Ticks): Ticks => Math.max(0, Math.round(to.ticksAt(from.msAt(tick))))
  const moved = <Element extends { readonly tick: Ticks }>(element: Element): Element => ({
    ...element,
    tick: move(element.tick),
  })
  return {
    ...laid,
    sections: project.sections.map(moved),
    keys: project.keys.map((key, index) => (index === 0 ? key : moved(key))),
    words: laid.words.map((words) => (words.trackId === null ? moved(words) : words)),
    // The bars that were marked are other bars now.
    recording: { ...laid.recording, stretch: null, isLooping: false },
  }
}
