import { mostLines, type NoteId } from '@/core/event/note'
import { contextOf } from '@/core/project/context'
import { soundingNotes } from '@/core/project/create'
import type { Track } from '@/core/project/schema'
import { applyCarriedOn, carryOn, putInVoice } from '@/core/project/voiceEdits'
import { useSession, useView } from '../workspace/sessionContext'
import { viewStore } from '../workspace/viewStore'
import { countOfNotes } from './roll/rollGesture'

/** Correcting by hand which voice notes belong to. */
export function useVoiceEdits(track: Track) {
  const session = useSession()
  const corrected = useView((state) => state.corrected)
  const apply = session.store.getState().apply

  return {
    canCarryOn: corrected?.trackId === track.id && corrected.before.size > 0,

    /** Puts the selected notes into a voice; null takes them out of any. */
    putSelected(noteIds: ReadonlySet<NoteId>, voice: number | null): void {
      if (voice !== null && (voice < 1 || voice > mostLines)) return
      const before = new Map<NoteId, number>()
      for (const note of soundingNotes(track))
        if (noteIds.has(note.id) && note.voice !== undefined && note.voice !== voice)
          before.set(note.id, note.voice)
      const label =
        voice === null ? `${countOfNotes(noteIds)} in no voice` : `${countOfNotes(noteIds)} in voice ${voice}`
      if (!apply(label, (project) => putInVoice(project, track.id, noteIds, voice))) return
      viewStore.setState({
        corrected: voice === null ? null : { trackId: track.id, before },
        doubtful: viewStore.getState().doubtful.filter((id) => !noteIds.has(id)),
      })
    },

    /** Carries the last correction on through the notes that follow. */
    carryOnFrom(): void {
      if (corrected?.trackId !== track.id) return
      const carried = carryOn(track, corrected.before)
      if (carried.untilTicks === null) {
        session.notify('Nothing follows that the correction could be carried on to.')
        return
      }
      const { voiceOf, untilTicks } = carried
      const { bar } = contextOf(session.store.getState().project).meterMap.position(untilTicks)
      const isDone = apply(`carry a correction on to ${voiceOf.size} notes`, (project) =>
        applyCarriedOn(project, track.id, carried),
      )
      if (!isDone) return
      viewStore.setState({ corrected: null })
      session.notify(
        `${voiceOf.size} ${voiceOf.size === 1 ? 'note that follows' : 'notes that follow'} changed voice, up to bar ${bar}.`,
      )
    },
  }
}
