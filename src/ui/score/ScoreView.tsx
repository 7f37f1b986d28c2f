import { useCallback, useEffect, useMemo, useRef, useState } from 'react'
import { useStore } from 'zustand'
import { restElementId } from '@/core/notation/noteElements'
import { soundingNotes } from '@/core/project/create'
import type { WrittenPlace } from '@/engine/engraver/choosing'
import type { EngravedLine } from '@/engine/engraver/engraver'
import { ColumnHeading } from '../controls/Choice'
import { useProject, useSession, useView } from '../workspace/sessionContext'
import { AsPicture } from './AsPicture'
import { ChordFinder } from './ChordFinder'
import { chosenOnPage } from './chosenOnPage'
import { HandChanges } from './HandChanges'
import { HeardAs, Practising } from './HeardAs'
import { handTints } from './handTints'
import { bringIntoSight } from './intoSight'
import { JustRecorded } from './JustRecorded'
import { LedgerLines } from './LedgerLines'
import { LivePage } from './LivePage'
import { NoteDetails } from './NoteDetails'
import { PageLooks, useZoomByWheel } from './PageLooks'
import { PartList } from './PartList'
import { PenBench } from './PenBench'
import { pageLookStore } from './pageLookStore'
import { ReadingRemarks } from './ReadingRemarks'
import { ReadingSettings } from './ReadingSettings'
import { ScorePlayhead } from './ScorePlayhead'
import { ScrollCover } from './ScrollCover'
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
  const { zoomPercent, form } = useStore(pageLookStore)
  const isEndless = form === 'endless'
  useEffect(() => {
    if (paperWidth > 0) session.engraving.watch({ widthPx: paperWidth - 16, zoomPercent, form })
    return session.engraving.unwatch
  }, [session, paperWidth, zoomPercent, form])
  const lines = useRef(new Map<number, EngravedLine>())
  const scroller = useRef<HTMLDivElement>(null)

  useEffect(() => {
    const element = paper.current
    if (!element) return
    const observer = new ResizeObserver(() => setPaperWidth(element.clientWidth))
    observer.observe(element)
    return () => observer.disconnect()
  }, [])

  const show = useCallback(
    (found: WrittenPlace) => {
      if (!scroller.current) return
      const at = { systemIndex: found.systemIndex, ticks: found.onsetTicks }
      bringIntoSight(scroller.current, form, at, lines.current.get(found.systemIndex), false)
    },
    [form],
  )
  const place = useWrittenPlace(chosen, outline?.revision, show)
  useZoomByWheel(scroller)
  const { pick, pickRest, walkBy } = useNoteWalk()
  const pen = usePen()
  const writeBy = usePenKeys(pen)
  /** What is shown as chosen: a head that stands for several notes is named by the first of them. */
  const shown = useMemo(
    () => new Set(place && !noteIds.has(place.noteId ?? 0) ? [...noteIds, place.noteId ?? 0] : noteIds),
    [noteIds, place],
  )
  /** How far from the top the highest staff of an endless line stands: its stretches stand level. */
  const [topPx, setTopPx] = useState(0)
  // biome-ignore lint/correctness/useExhaustiveDependencies: at each size anew
  useEffect(() => setTopPx(0), [zoomPercent])
  const onEngraved = useCallback((index: number, line: EngravedLine) => {
    lines.current.set(index, line)
    setTopPx((before) => Math.max(before, line.staves[0]?.topPx ?? 0))
  }, [])

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
        <PageLooks project={project} hasVoices={hasVoices} />
        <ReadingSettings project={project} outline={outline} />
        <ChordFinder project={project} />
        <section aria-label="How it is heard" className="mt-6 space-y-2">
          <ColumnHeading>How it is heard</ColumnHeading>
          <HeardAs label="Plays" />
          <p className="text-[12px] text-soft">MIDI files are written the same way.</p>
          {outline && outline.parts.length > 1 && <Practising parts={outline.parts} />}
        </section>
      </aside>
      <section
        ref={scroller}
        aria-label="Page"
        aria-description="Left and right go from note to note, up and down to the note above or below; digits write values. A question mark lists all keys."
        onKeyDown={(event) => {
          if (!writeBy(event)) walkBy(event)
        }}
        tabIndex={0}
        className="h-[64vh] min-h-[260px] overflow-auto bg-desk px-1 py-2 md:px-5 md:py-4 lg:h-auto lg:min-h-0"
      >
        <ScrollCover scroller={scroller} />
        <JustRecorded />
        <div
          className={`mx-auto min-h-full border border-rule bg-white px-2 pt-4 pb-12 md:px-8 md:pt-8 shadow-[0_1px_4px_rgba(80,60,20,0.12)] ${isEndless ? 'w-max min-w-full' : ''}`}
          style={isEndless ? undefined : { maxWidth: Math.max(1000, zoomPercent * 10) }}
        >
          {/* In an endless line, what is said above the music stays where it can be read. */}
          <div className={isEndless ? 'sticky left-2 max-w-[80vw] lg:max-w-[780px]' : ''}>
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
            {outline?.isBeginning && (
              <p role="status" className="mb-2 text-center text-soft">
                These are the first bars. The rest is being read…
              </p>
            )}
            {outline && !outline.isBeginning && <ReadingRemarks outline={outline} project={project} />}
            {!hasMusic && (
              <p className="text-center text-soft">
                Nothing to write yet. Record a take, draw notes, or bring in a file, and the page fills.
              </p>
            )}
          </div>
          <div
            ref={paper}
            data-testid="page"
            data-revision={outline?.revision ?? 0}
            className={isEndless ? 'flex items-start' : ''}
          >
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
                  estimatedHeight={
                    lines.current.get(index)?.heightPx ?? (staffCount * usualStaffPx * zoomPercent) / 100
                  }
                  levelPx={isEndless ? topPx : null}
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
        {outline && <ScorePlayhead outline={outline} lines={lines} scroller={scroller} form={form} />}
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
          {noteIds.size > 0 && place && <AsPicture project={project} noteIds={noteIds} />}
        </div>
        {outline && !outline.isBeginning && <HandChanges project={project} outline={outline} />}
        {outline && !outline.isBeginning && (
          <div className="mt-6">
            <ColumnHeading>Accounted for</ColumnHeading>
            <LedgerLines ledger={outline.ledger} />
          </div>
        )}
      </aside>
    </div>
  )
}
