import { useCallback, useEffect, useMemo, useRef, useState } from 'react'
import { useStore } from 'zustand'
import { restElementId } from '@/core/notation/noteElements'
import { soundingNotes } from '@/core/project/create'
import { setPage } from '@/core/project/settings'
import type { EngravedLine } from '@/engine/engraver/engraver'
import { ColumnHeading } from '../controls/Choice'
import { Tick } from '../controls/Tick'
import { useProject, useSession, useView } from '../workspace/sessionContext'
import { viewStore } from '../workspace/viewStore'
import { ChordFinder } from './ChordFinder'
import { chosenOnPage } from './chosenOnPage'
import { HandChanges } from './HandChanges'
import { HeardAs, Practising } from './HeardAs'
import { handTints } from './handTints'
import { LedgerLines } from './LedgerLines'
import { LivePage } from './LivePage'
import { NoteDetails } from './NoteDetails'
import { PartList } from './PartList'
import { PenBench } from './PenBench'
import { ReadingRemarks } from './ReadingRemarks'
import { ReadingSettings } from './ReadingSettings'
import { ScorePlayhead } from './ScorePlayhead'
import { SystemView } from './SystemView'
import { useNoteWalk } from './useNoteWalk'
import { usePen } from './usePen'
import { usePenKeys } from './usePenKeys'
import { useWrittenPlace } from './useWrittenPlace'
import { voiceTints } from './voiceTints'

/** A staff takes about this much, before its line of music has been engraved. */
const usualStaffPx = 76

/** The page: all parts engraved from the performance, each notehead linked to the note that was played. */
export function ScoreView() {
  const session = useSession()
  const project = useProject()
  const noteIds = useView((state) => state.noteIds)
  const rest = useView((state) => state.rest)
  const chosen = useMemo(() => chosenOnPage({ noteIds, rest }), [noteIds, rest])
  const paper = useRef<HTMLDivElement>(null)
  const [paperWidth, setPaperWidth] = useState(0)
  const { outline, problem } = useStore(session.engraving.state)
  useEffect(() => {
    if (paperWidth > 0) session.engraving.watch(paperWidth - 16)
    return session.engraving.unwatch
  }, [session, paperWidth])
  const lines = useRef(new Map<number, EngravedLine>())
  const scroller = useRef<HTMLDivElement>(null)

  useEffect(() => {
    const element = paper.current
    if (!element) return
    const observer = new ResizeObserver(() => setPaperWidth(element.clientWidth))
    observer.observe(element)
    return () => observer.disconnect()
  }, [])

  const place = useWrittenPlace(chosen, outline?.revision, scroller)
  const { pick, pickRest, walkBy } = useNoteWalk()
  const pen = usePen()
  const writeBy = usePenKeys(pen)
  /** What is shown as chosen: a head that stands for several notes is named by the first of them. */
  const shown = useMemo(
    () => new Set(place && !noteIds.has(place.noteId ?? 0) ? [...noteIds, place.noteId ?? 0] : noteIds),
    [noteIds, place],
  )
  const onEngraved = useCallback((index: number, line: EngravedLine) => lines.current.set(index, line), [])

  const areVoicesShown = useView((state) => state.areVoicesShown)
  const areHandChangesShown = useView((state) => state.areHandChangesShown)
  const tints = useMemo(
    () =>
      areHandChangesShown
        ? handTints(project.amendments)
        : areVoicesShown
          ? voiceTints(project.tracks)
          : null,
    [areHandChangesShown, areVoicesShown, project.amendments, project.tracks],
  )
  const hasVoices = useMemo(() => voiceTints(project.tracks) !== null, [project.tracks])
  const restPart =
    rest && noteIds.size === 0 ? outline?.parts.findIndex(({ trackId }) => trackId === rest.partId) : -1
  const restId =
    rest && restPart !== undefined && restPart >= 0 ? restElementId(restPart, rest.voice, rest.tick) : null
  const staffCount = outline?.parts.reduce((sum, part) => sum + part.clefs.length, 0) ?? 1
  const hasMusic = project.tracks.some((track) => soundingNotes(track).length > 0)

  return (
    <div className="flex flex-col lg:grid lg:h-full lg:grid-cols-[220px_1fr_248px]">
      <aside
        aria-label="On the page"
        className="order-2 border-t border-rule px-4 py-4 lg:order-none lg:overflow-y-auto lg:border-t-0 lg:border-r"
      >
        <PartList project={project} outline={outline} />
        <ReadingSettings project={project} outline={outline} />
        <div className="mt-2">
          <Tick
            isOn={project.page.hidesEmptyStaves}
            onChange={(hidesEmptyStaves) =>
              session.store
                .getState()
                .apply('silent staves', (before) => setPage(before, { hidesEmptyStaves }))
            }
          >
            without staves that are silent
          </Tick>
        </div>
        <ChordFinder project={project} />
        <section aria-label="How it is heard" className="mt-6 space-y-2">
          <ColumnHeading>How it is heard</ColumnHeading>
          <HeardAs label="Plays" />
          <p className="text-[12px] text-soft">MIDI files are written the same way.</p>
          {outline && outline.parts.length > 1 && <Practising parts={outline.parts} />}
        </section>
        {hasVoices && (
          <div className="mt-3">
            <Tick isOn={areVoicesShown} onChange={(isOn) => viewStore.setState({ areVoicesShown: isOn })}>
              voices in colour
            </Tick>
          </div>
        )}
      </aside>
      <section
        ref={scroller}
        aria-label="Page"
        aria-description="Left and right go from note to note, up and down to the note above or below; digits write values. A question mark lists all keys."
        onKeyDown={(event) => {
          if (!writeBy(event)) walkBy(event)
        }}
        tabIndex={0}
        className="h-[64vh] min-h-[260px] overflow-y-auto bg-desk px-1 py-2 md:px-5 md:py-4 lg:h-auto lg:min-h-0"
      >
        <div className="mx-auto min-h-full max-w-[1000px] border border-rule bg-white px-2 pt-4 pb-12 md:px-8 md:pt-8 shadow-[0_1px_4px_rgba(80,60,20,0.12)]">
          <header className="mb-5 text-center">
            <h2 className="font-serif text-[26px] font-semibold">{project.name}</h2>
            {project.subtitle && <p className="text-[13px] text-soft">{project.subtitle}</p>}
            {project.composer && <p className="text-right text-[13px]">{project.composer}</p>}
          </header>
          {problem && (
            <p role="alert" className="text-live">
              The page could not be written: {problem}. The tracks are unharmed.
            </p>
          )}
          {outline && <ReadingRemarks outline={outline} project={project} />}
          {!hasMusic && (
            <p className="text-center text-soft">
              Nothing to write yet. Record a take, draw notes, or bring in a file, and the page fills.
            </p>
          )}
          <div ref={paper} data-testid="page" data-revision={outline?.revision ?? 0}>
            {hasMusic && !outline && !problem && (
              <p className="text-center text-soft">Reading the performance…</p>
            )}
            {paperWidth > 0 &&
              outline?.systems.map((system, index) => (
                <SystemView
                  key={system.from}
                  session={session}
                  outline={outline}
                  system={system}
                  index={index}
                  estimatedHeight={lines.current.get(index)?.heightPx ?? staffCount * usualStaffPx}
                  tints={tints}
                  selected={shown}
                  restId={restId}
                  onPick={pick}
                  onPickRest={pickRest}
                  onEngraved={onEngraved}
                />
              ))}
          </div>
          {project.rights && <p className="mt-6 text-center text-[12px] text-soft">{project.rights}</p>}
        </div>
        <LivePage />
        {outline && <ScorePlayhead outline={outline} lines={lines} scroller={scroller} />}
      </section>
      <aside
        aria-label="About the note and the account"
        className="order-1 border-t border-rule px-4 py-4 lg:order-none lg:overflow-y-auto lg:border-t-0 lg:border-l"
      >
        {/* biome-ignore lint/a11y/noStaticElementInteractions: Escape goes back to the page from any of its controls */}
        <div
          onKeyDown={(event) => {
            if (event.key !== 'Escape' || event.defaultPrevented) return
            event.preventDefault()
            scroller.current?.focus()
          }}
        >
          <NoteDetails project={project} place={place} />
          <PenBench key={place?.noteId ?? place?.onsetTicks} project={project} place={place} pen={pen} />
        </div>
        {outline && <HandChanges project={project} outline={outline} />}
        {outline && (
          <div className="mt-6">
            <ColumnHeading>Accounted for</ColumnHeading>
            <LedgerLines ledger={outline.ledger} />
          </div>
        )}
      </aside>
    </div>
  )
}
