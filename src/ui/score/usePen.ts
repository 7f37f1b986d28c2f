import { useMemo } from 'react'
import { moveNotes } from '@/core/editing/notes'
import type { ChosenOnPage, Stroke } from '@/core/notation/amendments/stroke'
import { amend, takeBack } from '@/core/project/amend'
import { drawNote } from '@/core/project/commands'
import { changeChosen } from '@/core/project/editNotes'
import { findNote } from '@/core/project/findNote'
import type { Project } from '@/core/project/schema'
import { TICKS_PER_QUARTER } from '@/core/time/units'
import type { WrittenPlace } from '@/engine/engraver/choosing'
import { useSession } from '../workspace/sessionContext'
import { tell, viewStore } from '../workspace/viewStore'
import { chosenOnPage } from './chosenOnPage'
import { levels } from './penStrokes'

/** Writing on the page: each stroke is one step of history; what cannot be written is said. */
export function usePen() {
  const session = useSession()
  return useMemo(() => {
    const { getState } = session.store
    const change = (label: string, edit: (before: Project) => Project, group?: string) =>
      getState().apply(label, edit, group)
    const say = (text: string) => tell(text, getState().project)
    const gridTicks = () => (TICKS_PER_QUARTER * 4) / getState().project.scoreSettings.smallestValue

    const writeNow = async (name: string, stroke: Stroke): Promise<void> => {
      const chosen = chosenOnPage(viewStore.getState())
      if (!chosen) return say('Choose a note or a rest first.')
      const drawn = await session.engraving.draw(chosen, stroke)
      if (!drawn.isDrawn) return say(drawn.why)
      const { amendments, takenBack } = drawn
      if (amendments.length === 0 && takenBack.length === 0) return say('It is so already.')
      change(`${name} by hand`, (before) => amend(takeBack(before, new Set(takenBack)), amendments))
    }
    /** What needs to know how what is chosen is written now. */
    const atPlace = (work: (place: WrittenPlace) => Promise<void> | void) =>
      session.inTurn(async () => {
        const chosen = chosenOnPage(viewStore.getState())
        const place = chosen && (await session.engraving.locateNow(chosen))
        if (place) await work(place)
      })

    const movePlayed = (byTicks: number, byKeys: number) =>
      atPlace(({ noteIds: ids, noteId, trackId }) => {
        const noteIds = new Set(ids)
        if (noteId === null) return
        change(
          byKeys === 0 ? 'move' : 'transpose',
          (before) =>
            changeChosen(before, { trackId, noteIds }, (old, together) =>
              moveNotes(old, noteIds, byTicks, byKeys, together),
            ),
          'page keys',
        )
        const found = findNote(getState().project, noteId)
        if (found && byKeys !== 0) session.audition(found.trackId, found.note.key, found.note.velocity)
      })

    return {
      write: (name: string, stroke: Stroke): void => session.inTurn(() => writeNow(name, stroke)),

      /** Earlier or later as it is written, by the smallest value. */
      place: (sign: 1 | -1): void =>
        session.inTurn(() =>
          writeNow(sign > 0 ? 'later' : 'earlier', { to: 'place', byTicks: sign * gridTicks() }),
        ),

      nextLine: (): void =>
        atPlace(({ line }) => writeNow('another voice', { to: 'line', line: line >= 4 ? 1 : line + 1 })),

      level: (sign: 1 | -1): void =>
        atPlace(({ level }) => {
          const usual = levels.slice(0, levels.indexOf('fff') + 1)
          const at = level === null ? usual.indexOf('mf') : usual.indexOf(level) + sign
          const mark = usual[Math.max(0, Math.min(usual.length - 1, at))]!
          return mark === level ? undefined : writeNow(mark, { to: 'level', mark })
        }),

      /** What was played: another key. */
      transpose: (bySemitones: number): void => movePlayed(0, bySemitones),

      /** What was played: earlier or later by the smallest value. */
      move: (sign: 1 | -1): void => movePlayed(sign * gridTicks(), 0),

      /** Takes notes out of what was played; a rest is only not printed. */
      remove: (): void =>
        atPlace(async (place) => {
          if (place.noteId === null) return writeNow('hidden rest', { to: 'rest' })
          const noteIds = new Set(place.noteIds)
          const here: ChosenOnPage = { kind: 'notes', noteIds: [place.noteId] }
          const { walk } = session.engraving
          const beside = (await walk(here, 'previous')) ?? (await walk(here, 'next'))
          change(`delete ${noteIds.size === 1 ? 'note' : `${noteIds.size} notes`}`, (before) =>
            changeChosen(before, { trackId: place.trackId, noteIds }, (old) =>
              old.filter(({ id }) => !noteIds.has(id)),
            ),
          )
          // Whoever writes by keys goes on from where they are.
          viewStore.setState({
            noteIds: new Set(beside?.kind === 'notes' ? beside.noteIds : []),
            rest: beside?.kind === 'rest' ? beside : null,
          })
        }),

      /** A new note in a rest, or a third above what is chosen, as long as it is written. */
      add: (): void =>
        atPlace((place) => {
          const near = place.noteId === null ? undefined : findNote(getState().project, place.noteId)?.note
          const key = near ? Math.min(127, near.key + 4) : place.staff > 1 ? 48 : 67
          let noteId = 0
          change('new note', (before) => {
            const drawn = drawNote(before, place.trackId, {
              onsetTicks: near?.onsetTicks ?? place.onsetTicks,
              durationTicks: near?.durationTicks ?? Math.round(place.durationTicks * 0.9),
              key,
              velocity: near?.velocity ?? 84,
            })
            noteId = drawn.noteId
            return drawn.project
          })
          viewStore.setState({ noteIds: new Set([noteId]), rest: null })
          session.audition(place.trackId, key)
        }),
    }
  }, [session])
}

export type Pen = ReturnType<typeof usePen>
