import { keyName } from '@/core/event/note'
import { contextOf } from '@/core/project/context'
import { findNote } from '@/core/project/findNote'
import type { Project } from '@/core/project/schema'
import { TICKS_PER_QUARTER } from '@/core/time/units'
import type { WrittenPlace } from '@/engine/engraver/engraver'
import { Button } from '../controls/Button'
import { ColumnHeading } from '../controls/Choice'
import { originWords } from '../tracks/originWords'
import { useSession } from '../workspace/sessionContext'
import { goTo, selectNotes } from '../workspace/viewStore'

/** The chosen note: where it is written, how it was played, where it comes from. */
export function NoteDetails({
  project,
  place,
  selectedId,
}: {
  project: Project
  place: WrittenPlace | null
  selectedId: number | null
}) {
  const session = useSession()
  const found = selectedId === null ? undefined : findNote(project, selectedId)
  if (!found)
    return (
      <p className="text-[13px] text-soft">
        Press a notehead, or go from note to note with the arrow keys: what was played there shows here and in
        its track.
      </p>
    )
  const { note, trackName } = found
  const tempoMap = contextOf(project).tempoMap
  const offMs = place ? tempoMap.msAt(note.onsetTicks) - tempoMap.msAt(place.onsetTicks) : 0
  const beat = place ? contextOf(project).meterMap.position(place.onsetTicks) : null
  return (
    <section aria-label="The note" aria-live="polite" data-testid="note-details">
      <ColumnHeading>{keyName(note.key)}</ColumnHeading>
      <ul className="space-y-1 text-[13px] text-soft">
        <li>
          {trackName}
          {beat &&
            `, bar ${beat.bar}, beat ${beat.beat}${beat.ticks > 0 ? ` + ${(beat.ticks / TICKS_PER_QUARTER).toFixed(2)}` : ''}`}
        </li>
        {place ? (
          <>
            <li>
              {place.isGrace
                ? `a grace note, voice ${place.voice}`
                : `written ${place.value.dots ? 'dotted ' : ''}${place.value.type}, voice ${place.voice}`}
            </li>
            <li>
              {Math.abs(offMs) < 0.5
                ? 'played right on it'
                : `played ${Math.abs(offMs).toFixed(0)} ms ${offMs < 0 ? 'early' : 'late'}`}
            </li>
            {!place.isGrace && (
              <li>held {Math.round((note.durationTicks / place.durationTicks) * 100)} % of its value</li>
            )}
            {place.mergedNotes > 0 && <li>stands for {place.mergedNotes + 1} notes</li>}
          </>
        ) : (
          <li>not on the page</li>
        )}
        <li>velocity {note.velocity}</li>
        <li>{originWords(note, project)}</li>
      </ul>
      <div className="mt-3 flex flex-col items-start gap-2">
        <Button
          onClick={() => {
            selectNotes([note.id])
            goTo('tracks')
          }}
        >
          Show in its track
        </Button>
        <Button onClick={() => void session.play(Math.max(0, note.onsetTicks - 200), null)}>
          Hear it as played
        </Button>
      </div>
    </section>
  )
}
