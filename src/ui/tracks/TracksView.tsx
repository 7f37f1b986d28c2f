import { CopyPlus, List, PencilLine, Rows3, Trash2, ZoomIn, ZoomOut } from 'lucide-react'
import { useEffect, useState } from 'react'
import { type QuantiseGrid, quantiseGrids } from '@/core/editing/notes'
import { keyName, type Note, type NoteId } from '@/core/event/note'
import { chooseClip, deleteTrack, duplicateTrack } from '@/core/project/commands'
import { projectEndTicks, soundingNotes } from '@/core/project/create'
import { kitKeyName } from '@/core/project/kit'
import type { Project, Track } from '@/core/project/schema'
import { TICKS_PER_QUARTER } from '@/core/time/units'
import { Button } from '../controls/Button'
import { Choice } from '../controls/Choice'
import { useMediaQuery } from '../controls/useMediaQuery'
import { ReadTakeAgain, type TakeReading } from '../soundIn/ReadTakeAgain'
import { SoundLane } from '../soundIn/SoundLane'
import { useTrackSounds } from '../soundIn/useTrackSounds'
import { useLive, useProject, useSession, useView } from '../workspace/sessionContext'
import { type Bench, benches, goTo, selectNotes, selectTrack, turnBench } from '../workspace/viewStore'
import { TrackBench } from './bench/TrackBench'
import { CurveLane } from './CurveLane'
import { FamilyStrip } from './FamilyStrip'
import { FoundBarLines } from './FoundBarLines'
import { Lanes } from './Lanes'
import { EventList } from './list/EventList'
import { OperationFinder } from './OperationFinder'
import { originWords } from './originWords'
import { PianoRoll } from './roll/PianoRoll'
import { SnappingChoice } from './SnappingChoice'
import { TrackHeading } from './TrackHeading'
import { type TimeView, zoomAround } from './timeView'
import { VoiceStrip } from './VoiceStrip'

const trackHeading = (track: Track) => <TrackHeading track={track} />

/** All tracks along time, and the chosen one in detail. */
export function TracksView() {
  const session = useSession()
  const project = useProject()
  const trackId = useView((state) => state.trackId)
  const selected = useView((state) => state.noteIds)
  const track = project.tracks.find((candidate) => candidate.id === trackId) ?? project.tracks[0]
  const [lanesView, setLanesView] = useState<TimeView>(() => fitting(projectEndTicks(project), 930))
  const [rollView, setRollView] = useState<TimeView>({ startTicks: 0, pixelsPerQuarter: 70 })
  const [grid, setGrid] = useState<QuantiseGrid>('sixteenths')
  const bench = useView((state) => state.bench)
  const told = useView((state) => state.told)
  const alone = useLive((state) => state.alone)
  const [isDrawing, setIsDrawing] = useState(false)
  const [isList, setIsList] = useState(false)
  const isNarrow = useMediaQuery('(max-width: 760px)')

  const { sounds, lookAgain } = useTrackSounds(track)
  const sound = sounds.at(-1)
  const [reading, setReading] = useState<TakeReading | null>(null)

  // Following a note from the page: bring it into sight.
  useEffect(() => {
    const id = [...selected][0]
    const note =
      track && selected.size === 1 ? soundingNotes(track).find((candidate) => candidate.id === id) : undefined
    if (note)
      setRollView((view) => {
        const span = (1100 / view.pixelsPerQuarter) * TICKS_PER_QUARTER
        return note.onsetTicks >= view.startTicks && note.onsetTicks < view.startTicks + span * 0.9
          ? view
          : { ...view, startTicks: Math.max(0, note.onsetTicks - span * 0.3) }
      })
  }, [selected, track])

  if (!track)
    return (
      <p className="p-8 text-soft">
        No tracks yet. Seat a player under{' '}
        <button type="button" className="font-semibold text-indigo underline" onClick={() => goTo('players')}>
          Players
        </button>{' '}
        and a track is there.
      </p>
    )
  const apply = session.store.getState().apply
  const notes = soundingNotes(track)
  const one = selected.size === 1 ? notes.find((note) => selected.has(note.id)) : undefined
  const lanesHeight = Math.min(project.tracks.length * 58 + 30, 270)

  return (
    <div className="flex flex-col lg:h-full">
      <div style={{ height: lanesHeight }} className="shrink-0 border-b border-rule">
        <Lanes
          label="Tracks"
          tracks={project.tracks}
          view={lanesView}
          onView={setLanesView}
          laneHeight={58}
          headingWidth={isNarrow ? 168 : 320}
          heading={trackHeading}
        />
      </div>
      <div className="flex min-h-11 shrink-0 flex-wrap items-center gap-x-2.5 gap-y-1 border-b border-rule px-3 py-1 lg:px-4 min-[1180px]:flex-nowrap min-[1180px]:py-0">
        <h2 className="max-w-[190px] truncate font-serif text-base font-semibold">{track.name}</h2>
        {track.clips.length > 1 && (
          <Choice
            label="Hears"
            isLabelHidden
            value={track.clips.find((clip) => clip.isSounding)?.id ?? ''}
            options={track.clips.map((clip) => ({
              value: clip.id,
              text: `${clip.name} (${clip.notes.length})`,
            }))}
            onChange={(clipId) => apply('choose a take', (before) => chooseClip(before, track.id, clipId))}
          />
        )}
        <span
          className="min-w-0 flex-1 truncate text-[13px] text-soft"
          data-testid="selection"
          aria-live="polite"
        >
          {alone
            ? `heard alone: ${alone.name}`
            : told?.of === project
              ? told.text
              : selectionWords(project, track, selected, one)}
        </span>
        {one && (
          <Button look="quiet" onClick={() => goTo('score')}>
            Show on the page
          </Button>
        )}
        <SnappingChoice track={track} />
        <Choice
          label="Grid"
          isLabelHidden
          value={grid}
          options={Object.keys(quantiseGrids).map((name) => ({ value: name as QuantiseGrid, text: name }))}
          onChange={setGrid}
        />
        {benches.map((each) => (
          <Button key={each} aria-pressed={bench === each} className="px-2.5" onClick={() => turnBench(each)}>
            {benchWords[each]}
          </Button>
        ))}
        <Button
          aria-pressed={isDrawing}
          look={isDrawing ? 'main' : 'plain'}
          title="Press in the roll to draw"
          onClick={() => setIsDrawing(!isDrawing)}
        >
          <PencilLine size={14} aria-hidden /> Draw
        </Button>
        <Button
          look="quiet"
          className="px-2"
          aria-label={isList ? 'Show as drawing' : 'Show as list'}
          title={isList ? 'Show as drawing' : 'Show as list'}
          onClick={() => setIsList(!isList)}
        >
          {isList ? <Rows3 size={15} aria-hidden /> : <List size={15} aria-hidden />}
        </Button>
        <Button
          look="quiet"
          className="px-2"
          aria-label="Closer"
          title="Closer (Ctrl and wheel)"
          onClick={() => setRollView((view) => zoomAround(view, 300, 1.4))}
        >
          <ZoomIn size={15} aria-hidden />
        </Button>
        <Button
          look="quiet"
          className="px-2"
          aria-label="Further"
          title="Further (Ctrl and wheel)"
          onClick={() => setRollView((view) => zoomAround(view, 300, 1 / 1.4))}
        >
          <ZoomOut size={15} aria-hidden />
        </Button>
        <Button
          look="quiet"
          className="px-2"
          aria-label={`Duplicate ${track.name}`}
          title="Duplicate the track"
          onClick={() => apply(`duplicate “${track.name}”`, (before) => duplicateTrack(before, track.id))}
        >
          <CopyPlus size={15} aria-hidden />
        </Button>
        <Button
          look="quiet"
          className="px-2"
          aria-label={`Delete ${track.name}`}
          title="Delete the track"
          onClick={() => {
            apply(`delete “${track.name}”`, (before) => deleteTrack(before, track.id))
            const other = project.tracks.find((candidate) => candidate.id !== track.id)
            if (other) selectTrack(other.id)
            selectNotes([])
          }}
        >
          <Trash2 size={15} aria-hidden />
        </Button>
      </div>
      <FamilyStrip track={track} project={project} />
      <VoiceStrip track={track} project={project} />
      <div className="flex min-h-0 flex-col lg:flex-1 lg:flex-row">
        <div className="relative flex min-w-0 flex-1 flex-col">
          {reading && <ReadTakeAgain reading={reading} onLeave={() => setReading(null)} />}
          <div
            className="relative h-[44vh] min-h-[240px] lg:h-auto lg:min-h-[120px] lg:flex-1"
            data-testid="roll"
          >
            {isList ? (
              <EventList track={track} />
            ) : (
              <>
                <PianoRoll
                  track={track}
                  view={rollView}
                  onView={setRollView}
                  gridTicks={quantiseGrids[grid]}
                  isDrawing={isDrawing}
                  sounds={sounds}
                />
                <FoundBarLines track={track} view={rollView} />
              </>
            )}
          </div>
          {!isList && sound && (
            <SoundLane
              track={track}
              sounds={sounds}
              chosen={sound}
              onChange={lookAgain}
              onRead={setReading}
              view={rollView}
            />
          )}
          {!isList && <CurveLane track={track} view={rollView} />}
        </div>
        <TrackBench track={track} project={project} />
      </div>
      <OperationFinder track={track} />
    </div>
  )
}

/** What is selected, and where; how many notes there are where nothing is. Counted where it is shown: notes are many. */
function selectionWords(
  project: Project,
  track: Track,
  selected: ReadonlySet<NoteId>,
  one: Note | undefined,
): string {
  if (one) {
    const name = track.instrument.kind === 'drums' ? kitKeyName(track, one.key) : keyName(one.key)
    const voice = one.voice ? `, voice ${one.voice}` : ''
    return `${name}, velocity ${one.velocity}${voice}, ${originWords(one, project)}`
  }
  const notes = soundingNotes(track)
  const own = selected.size === 0 ? 0 : countSelected(track, selected)
  // Of several tracks what is selected is counted; notes that are gone, after undo, are not.
  const elsewhere =
    own === selected.size
      ? 0
      : project.tracks.reduce(
          (count, other) => count + (other === track ? 0 : countSelected(other, selected)),
          0,
        )
  if (own + elsewhere === 0) return `${notes.length} ${notes.length === 1 ? 'note' : 'notes'}`
  return elsewhere === 0
    ? `${own} of ${notes.length} notes selected`
    : `${own + elsewhere} notes selected, ${elsewhere} on other tracks`
}

/** Notes that were counted for a selection; undo brings back the very same notes. */
const counted = new WeakMap<readonly Note[], { readonly of: ReadonlySet<NoteId>; readonly count: number }>()

function countSelected(track: Track, selected: ReadonlySet<NoteId>): number {
  const notes = soundingNotes(track)
  const known = counted.get(notes)
  if (known?.of === selected) return known.count
  let count = 0
  for (const { id } of notes) if (selected.has(id)) count++
  counted.set(notes, { of: selected, count })
  return count
}

/** Short names of the benches, for the line of buttons. */
const benchWords: Record<Bench, string> = {
  edit: 'Edit',
  apart: 'Take apart',
  together: 'Put together',
  bars: 'Bars',
  sound: 'Sound',
}

/** A view in which the whole piece fits. */
export function fitting(endTicks: number, width: number): TimeView {
  const quarters = Math.max(16, endTicks / TICKS_PER_QUARTER + 2)
  return { startTicks: 0, pixelsPerQuarter: Math.max(0.5, Math.min(70, width / quarters)) }
}
