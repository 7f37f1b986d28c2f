import { useMemo } from 'react'
import { ClipboardError, readCopied } from '@/core/editing/clipboard'
import { type OperationName, operations } from '@/core/editing/operations'
import type { Fields, SettingsOf } from '@/core/effects/settings'
import { contextOf } from '@/core/project/context'
import {
  chosenByTrack,
  type EditResult,
  editedWords,
  editNotes,
  rangeOf,
  startSettings,
} from '@/core/project/editNotes'
import { copyChosen, paste } from '@/core/project/moveMaterial'
import type { Project, Track } from '@/core/project/schema'
import type { Session } from '@/state/session'
import { useSession } from '../workspace/sessionContext'
import { selectNotes, tell, viewStore } from '../workspace/viewStore'

/** The settings each operation was last used with, while the page is open. */
const lastSettings = new Map<OperationName, SettingsOf<Fields>>()

export function settingsFor(name: OperationName): SettingsOf<Fields> {
  return lastSettings.get(name) ?? startSettings(name)
}

export function keepSettings(name: OperationName, settings: SettingsOf<Fields>): void {
  lastSettings.set(name, settings)
}

/** What was tried last: doing just that has not to work it out again. */
let tried: { readonly of: readonly unknown[]; readonly result: EditResult } | null = null

/** What would come of an operation, without doing it. */
export function tryOperation(
  session: Session,
  project: Project,
  track: Track,
  name: OperationName,
  settings: SettingsOf<Fields>,
): EditResult {
  const { noteIds, timingTrackId } = viewStore.getState()
  const positionTicks = session.positionTicks()
  const of = [project, track.id, name, settings, noteIds, timingTrackId, positionTicks]
  if (tried && of.every((each, index) => each === tried!.of[index])) return tried.result
  const result = editNotes(
    project,
    operations[name],
    settings,
    { trackId: track.id, noteIds },
    { positionTicks, seed: project.nextSerial, timingTrackId },
  )
  tried = { of, result }
  return result
}

/** What was tried and not done is let go. */
export function forgetTried(): void {
  tried = null
}

/**
 * Does an operation to what is selected; to all of the track where nothing is. It is one step of history, and it is told.
 *
 * @returns false when nothing can be changed here
 */
export function doOperation(
  session: Session,
  track: Track,
  name: OperationName,
  settings: SettingsOf<Fields> = settingsFor(name),
): boolean {
  const result = tryOperation(session, session.store.getState().project, track, name, settings)
  forgetTried()
  const { before } = result
  const label = `${operations[name].title.toLowerCase()} ${before.toLocaleString('en')} ${before === 1 ? 'note' : 'notes'}`
  const isDone = session.store.getState().apply(label, () => result.project)
  if (isDone) tell(editedWords(name, result), session.store.getState().project)
  if (name === 'removeNotes' && isDone) selectNotes([])
  return isDone
}

/** Copying, cutting, pasting, doubling and hearing what is selected. */
export function useNoteEdits(track: Track) {
  const session = useSession()
  return useMemo(() => {
    const project = () => session.store.getState().project
    const chosen = () => ({ trackId: track.id, noteIds: viewStore.getState().noteIds })
    const many = (count: number) => `${count.toLocaleString('en')} ${count === 1 ? 'note' : 'notes'}`

    const edits = {
      /** The text to be put on the clipboard; null where nothing is selected. */
      copy(): string | null {
        const copied = copyChosen(project(), chosen())
        if (!copied) {
          tell('Nothing is selected: there is nothing to copy', project())
          return null
        }
        tell(`${many(copied.count)} copied`, project())
        return copied.text
      },

      cut(): string | null {
        const text = edits.copy()
        if (text !== null) doOperation(session, track, 'removeNotes')
        return text
      },

      /** Text that is no music is said to be none. */
      paste(text: string, atTicks = session.positionTicks()): void {
        try {
          const copied = readCopied(text)
          let noteIds: ReadonlySet<number> = new Set()
          let names: readonly string[] = []
          const isDone = session.store.getState().apply('paste', (before) => {
            const result = paste(before, track.id, atTicks, copied)
            noteIds = result.noteIds
            names = result.trackNames
            return result.project
          })
          if (!isDone) return
          selectNotes(noteIds)
          const { bar } = contextOf(project()).meterMap.position(Math.round(atTicks))
          tell(`${many(noteIds.size)} pasted at bar ${bar}, on ${names.join(', ')}`, project())
        } catch (error) {
          if (!(error instanceof ClipboardError)) throw error
          session.notify(`${error.message}. Nothing was changed.`, true)
        }
      },

      /** Puts a copy of what is selected right behind it, in time, and selects the copy. */
      double(): void {
        const range = rangeOf(chosenByTrack(project(), chosen()))
        if (viewStore.getState().noteIds.size === 0 || !range) {
          tell('Nothing is selected: there is nothing to double', project())
          return
        }
        const before = viewStore.getState().noteIds
        const firstNew = project().nextSerial
        if (!doOperation(session, track, 'repeat', { times: 2 })) return
        const copies = project().tracks.flatMap((each) =>
          each.clips.flatMap((clip) =>
            clip.isSounding ? clip.notes.filter(({ id }) => id >= firstNew).map(({ id }) => id) : [],
          ),
        )
        const { told } = viewStore.getState()
        selectNotes(copies.length > 0 ? copies : before)
        viewStore.setState({ told })
      },

      /** Hears what is selected and nothing else; stops when it is heard. */
      hear(isLooping = false): void {
        if (session.live.getState().alone) {
          session.stop()
          return
        }
        const byTrack = chosenByTrack(project(), chosen())
        const range = rangeOf(byTrack)
        if (!range) return
        const { noteIds } = viewStore.getState()
        const name = noteIds.size > 0 ? `${many(noteIds.size)} that are selected` : track.name
        void session.hearAlone(
          name,
          new Map([...byTrack].map(([each, ids]) => [each.id, ids])),
          range,
          isLooping,
        )
      },
    }
    return edits
  }, [session, track])
}
