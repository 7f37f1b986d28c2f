import { keyName } from '@/core/event/note'
import { contextOf } from '@/core/project/context'
import { chosenByTrack, rangeOf } from '@/core/project/editNotes'
import { findNote } from '@/core/project/findNote'
import type { Project } from '@/core/project/schema'
import type { WrittenPlace } from '@/engine/engraver/choosing'
import type { Session } from '@/state/session'
import { Button } from '../controls/Button'
import { ColumnHeading } from '../controls/Choice'
import { originWords } from '../tracks/originWords'
import { useSession, useView } from '../workspace/sessionContext'
import { goTo, selectNotes, viewStore } from '../workspace/viewStore'
import { pitchWords, placeWords } from './placeWords'

/** Plays the stretch of what is chosen over and over; one note alone has its bar. */
function loopChosen(session: Session, project: Project): void {
  const { trackId, noteIds } = viewStore.getState()
  const range = rangeOf(chosenByTrack(project, { trackId: trackId ?? '', noteIds }))
  if (!range) return
  const { meterMap } = contextOf(project)
  const bar = meterMap.measureAt(range.startTicks)
  const stretch =
    noteIds.size === 1
      ? { startTicks: bar.startTicks, endTicks: bar.startTicks + bar.lengthTicks }
      : { startTicks: Math.max(0, range.startTicks), endTicks: range.endTicks }
  void session.play(stretch.startTicks, null, stretch)
}

/** The chosen note: where it is written, how it was played, where it comes from. */
export function NoteDetails({
  project,
  place,
}: {
  project: Project
  place: WrittenPlace | null | undefined
}) {
  const session = useSession()
  const selectedId = useView((state) => (state.noteIds.size > 0 ? [...state.noteIds][0]! : null))
  const found = findNote(project, place?.noteId ?? selectedId ?? 0)
  if (!found && place)
    return (
      <section aria-label="The note" aria-live="polite" data-testid="note-details">
        <ColumnHeading>A rest</ColumnHeading>
        <p className="text-[13px]" data-testid="place-says">
          {placeWords(place, project)}
        </p>
      </section>
    )
  // It is said once it is known, and not before.
  if (found && place === undefined)
    return <section aria-label="The note" aria-live="polite" data-testid="note-details" />
  if (!found)
    return (
      <p className="text-[13px] text-soft">
        Press a notehead, or go from note to note with the arrow keys: what was played there shows here and in
        its track.
      </p>
    )
  const { note, trackName } = found
  const count = place?.heads ?? 1
  const name = place?.pitch ? pitchWords(place.pitch) : keyName(note.key)
  const tempoMap = contextOf(project).tempoMap
  const offMs = place ? tempoMap.msAt(note.onsetTicks) - tempoMap.msAt(place.onsetTicks) : 0
  return (
    <section aria-label="The note" aria-live="polite" data-testid="note-details">
      <ColumnHeading>{count > 1 ? `${count} notes` : name}</ColumnHeading>
      <p className="mb-1 text-[13px]" data-testid="place-says">
        {place ? `${count > 1 ? 'the first: ' : ''}${placeWords(place, project)}` : trackName}
      </p>
      <p className="text-[13px] text-soft">
        {[
          ...(place
            ? [
                Math.abs(offMs) < 0.5
                  ? 'played right on it'
                  : `played ${Math.abs(offMs).toFixed(0)} ms ${offMs < 0 ? 'early' : 'late'}`,
                ...(place.isGrace
                  ? []
                  : [`held ${Math.round((note.durationTicks / place.durationTicks) * 100)} % of its value`]),
                ...(place.mergedNotes > 0 ? [`stands for ${place.mergedNotes + 1} notes`] : []),
              ]
            : ['not on the page']),
          `velocity ${note.velocity}`,
          originWords(note, project),
        ].join(' · ')}
      </p>
      <div className="mt-2 flex flex-wrap gap-2">
        <Button
          onClick={() => {
            selectNotes([note.id])
            goTo('tracks')
          }}
        >
          In its track
        </Button>
        <Button
          title="What is chosen over and over, with everything around it"
          onClick={() => loopChosen(session, project)}
        >
          Loop it
        </Button>
        <Button onClick={() => void session.play(Math.max(0, note.onsetTicks - 200), null)}>Hear it</Button>
      </div>
    </section>
  )
}
