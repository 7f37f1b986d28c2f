import { DndContext, type DragEndEvent } from '@dnd-kit/core'
import { SortableContext, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable'
import { CSS } from '@dnd-kit/utilities'
import { GripVertical } from 'lucide-react'
import { keyName } from '@/core/event/note'
import { abbreviation } from '@/core/notation/abbreviations'
import { type Bracket, brackets } from '@/core/notation/families'
import { transpositionNames, usualTransposition } from '@/core/notation/transposition'
import { changeTrack } from '@/core/project/commands'
import { soundingNotes } from '@/core/project/create'
import { manuscriptOfTrack, readAnew } from '@/core/project/onPage'
import type { Project, Track } from '@/core/project/schema'
import { inScoreOrder, moveTrack } from '@/core/project/scoreOrder'
import { setTrack } from '@/core/project/settings'
import type { ScoreOutline } from '@/engine/engraver/engraver'
import { Button } from '../controls/Button'
import { Choice, ColumnHeading } from '../controls/Choice'
import { Tick } from '../controls/Tick'
import { useListSensors } from '../controls/useListSensors'
import { threadOf } from '../theme/threads'
import { useSession } from '../workspace/sessionContext'

/** A player who is less late than this is not worth a word. */
const leastLatenessMs = 25

/** What is on the page in its order, and how each part is written there. */
export function PartList({ project, outline }: { project: Project; outline: ScoreOutline | null }) {
  const session = useSession()
  const sensors = useListSensors()
  const tracks = project.tracks.filter((track) => soundingNotes(track).length > 0)
  const move = ({ active, over }: DragEndEvent) => {
    const track = tracks.find(({ id }) => id === active.id)
    if (!track || !over || active.id === over.id) return
    session.store
      .getState()
      .apply(`move ${track.name}`, (before) => moveTrack(before, track.id, String(over.id)))
  }
  return (
    <section aria-label="Parts">
      <ColumnHeading>On the page</ColumnHeading>
      <DndContext id="parts" sensors={sensors} onDragEnd={move}>
        <SortableContext items={tracks.map(({ id }) => id)} strategy={verticalListSortingStrategy}>
          <ul className="space-y-1">
            {tracks.map((track, index) => (
              <PartItem
                key={track.id}
                track={track}
                part={outline?.parts.find((candidate) => candidate.trackId === track.id)}
                isConcertPitch={project.scoreSettings.isConcertPitch}
                isFirst={index === 0}
              />
            ))}
          </ul>
        </SortableContext>
      </DndContext>
      {inScoreOrder({ ...project, tracks }).tracks.some((track, index) => track !== tracks[index]) && (
        <Button
          className="mt-2 px-2 py-0.5 text-[12px]"
          onClick={() => session.store.getState().apply('put the parts in score order', inScoreOrder)}
        >
          In the order of an orchestra
        </Button>
      )}
    </section>
  )
}

/** What holds staves together: bar lines go through them. */
const bracketWords: Readonly<Record<Bracket, string>> = {
  usual: 'bracket: family',
  none: 'bracket: none',
  above: 'bracket: with above',
}

/** Letters that have room beside a line. */
const longestShortName = 12

/** A part: moved by its handle, taken off the page, written at its pitch. */
function PartItem({
  track,
  part,
  isConcertPitch,
  isFirst,
}: {
  track: Track
  part: ScoreOutline['parts'][number] | undefined
  isConcertPitch: boolean
  isFirst: boolean
}) {
  const session = useSession()
  const sortable = useSortable({ id: track.id })
  return (
    <li
      ref={sortable.setNodeRef}
      className="border-l-[5px] pl-2.5"
      style={{
        borderColor: threadOf(track.thread).colour,
        transform: CSS.Translate.toString(sortable.transform),
        transition: sortable.transition,
      }}
    >
      <div className="flex items-center gap-1">
        <button
          type="button"
          aria-label={`Move ${track.name}: space, then arrows`}
          className="shrink-0 cursor-grab text-soft"
          {...sortable.attributes}
          {...sortable.listeners}
        >
          <GripVertical size={13} aria-hidden />
        </button>
        <Tick
          isOn={track.isOnPage}
          onChange={(isOnPage) =>
            session.store
              .getState()
              .apply(
                isOnPage ? `put ${track.name} on the page` : `take ${track.name} off the page`,
                (before) => setTrack(before, track.id, { isOnPage }),
              )
          }
        >
          <span className="truncate font-semibold" title={track.name}>
            {track.name}
          </span>
        </Tick>
      </div>
      <span className="text-[12px] text-soft">
        {part && manuscriptOfTrack(track)
          ? `${part.clefs.length > 1 ? 'grand staff' : part.clefs[0]}, as its file writes it`
          : part
            ? part.splitKey !== null
              ? `grand staff, split ${keyName(part.splitKey)}`
              : part.clefs.length > 1
                ? 'grand staff, by hands'
                : part.clefs[0]
            : track.isOnPage
              ? '…'
              : 'off the page'}
      </span>
      {track.isOnPage && (
        <div className="flex items-center gap-1">
          <input
            aria-label={`Short name of ${track.name}`}
            title="Its name beside all lines but the first"
            className="mb-0.5 ml-1.5 w-20 rounded border border-rule bg-sheet px-1.5 text-[12px]"
            maxLength={longestShortName}
            placeholder={abbreviation(track.name)}
            defaultValue={track.shortName}
            key={track.shortName}
            onBlur={(event) => {
              const shortName = event.target.value.trim()
              if (shortName !== track.shortName)
                session.store
                  .getState()
                  .apply('short name', (before) => setTrack(before, track.id, { shortName }))
            }}
            onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
          />
          {/* In the line of the name: when it goes, nothing comes to lie under a second press. */}
          {manuscriptOfTrack(track) && (
            <Button
              look="quiet"
              className="px-1.5 py-0 text-[12px]"
              title="Its page is then found from how its notes are played; what the file wrote is let go"
              onClick={() =>
                session.store
                  .getState()
                  .apply(`read ${track.name} anew`, (before) => changeTrack(before, track.id, readAnew))
              }
            >
              read it anew
            </Button>
          )}
        </div>
      )}
      {track.isOnPage && !isFirst && (
        <Choice
          label={`Bracket of ${track.name}`}
          isLabelHidden
          className="mb-0.5 text-[12px]"
          value={track.bracket}
          options={brackets.map((value) => ({ value, text: bracketWords[value] }))}
          onChange={(bracket) =>
            session.store.getState().apply('bracket', (before) => setTrack(before, track.id, { bracket }))
          }
        />
      )}
      {/* It stays in its place while all parts are as they sound: what is below does not move under a second press. */}
      {track.isOnPage && track.instrument.kind !== 'drums' && (
        <Choice
          isDisabled={isConcertPitch}
          label={`${track.name} is written`}
          isLabelHidden
          value={track.writtenAs}
          options={[
            {
              value: 'auto',
              text: `${usualTransposition(track.instrument, track.name)} (as usual)`,
            },
            ...transpositionNames.map((name) => ({ value: name, text: `written ${name}` })),
          ]}
          onChange={(writtenAs) =>
            session.store
              .getState()
              .apply(`write ${track.name} ${writtenAs}`, (before) =>
                setTrack(before, track.id, { writtenAs }),
              )
          }
        />
      )}
      {part && part.unplacedSyllables > 0 && (
        <span className="block text-[12px] text-soft">
          {part.unplacedSyllables}{' '}
          {part.unplacedSyllables === 1 ? 'syllable is at no note' : 'syllables are at no note'}, and not
          written
        </span>
      )}
      {part && Math.abs(part.lateMs) >= leastLatenessMs && (
        <span className="block text-[12px] text-soft">
          played {Math.round(Math.abs(part.lateMs))} ms {part.lateMs > 0 ? 'late' : 'early'} throughout;
          written on the beat
        </span>
      )}
    </li>
  )
}
