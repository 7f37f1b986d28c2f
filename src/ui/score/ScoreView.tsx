import { useCallback, useEffect, useRef, useState } from 'react'
import { useStore } from 'zustand'
import { keyName, parseKeyName } from '@/core/event/note'
import { floorSentence, heavyFloors } from '@/core/ledger/ledger'
import { keySignatureName } from '@/core/notation/keyFinding'
import type { WalkDirection } from '@/core/notation/noteWalk'
import type { ScoreSettings } from '@/core/notation/scoreSettings'
import { contextOf } from '@/core/project/context'
import { soundingNotes } from '@/core/project/create'
import type { Project } from '@/core/project/schema'
import { setPiece, setReading, setTrack } from '@/core/project/settings'
import type { EngravedLine, ScoreOutline, WrittenPlace } from '@/engine/engraver/engraver'
import { Button } from '../controls/Button'
import { Choice, ColumnHeading } from '../controls/Choice'
import { Tick } from '../controls/Tick'
import { threadOf } from '../theme/threads'
import { findNote, originWords } from '../tracks/originWords'
import { useLive, useProject, useSession, useView } from '../workspace/sessionContext'
import { goTo, selectNotes, viewStore } from '../workspace/viewStore'
import { LedgerLines } from './LedgerLines'
import { SystemView } from './SystemView'

const walkKeys: Readonly<Record<string, WalkDirection>> = {
  ArrowRight: 'next',
  ArrowLeft: 'previous',
  ArrowUp: 'above',
  ArrowDown: 'below',
}

/** The page: all parts engraved from the performance, each notehead linked to the note that was played. */
export function ScoreView() {
  const session = useSession()
  const project = useProject()
  const selected = useView((state) => state.noteIds)
  const paper = useRef<HTMLDivElement>(null)
  const [paperWidth, setPaperWidth] = useState(0)
  const { outline, problem } = useStore(session.engraving.state)
  useEffect(() => {
    if (paperWidth > 0) session.engraving.watch(paperWidth - 16)
    return session.engraving.unwatch
  }, [session, paperWidth])
  const [place, setPlace] = useState<WrittenPlace | null>(null)
  const lines = useRef(new Map<number, EngravedLine>())
  const scroller = useRef<HTMLDivElement>(null)
  const walking = useRef<Promise<void>>(Promise.resolve())
  const selectedId = selected.size === 1 ? [...selected][0]! : null

  useEffect(() => {
    const element = paper.current
    if (!element) return
    const observer = new ResizeObserver(() => setPaperWidth(element.clientWidth))
    observer.observe(element)
    return () => observer.disconnect()
  }, [])

  // biome-ignore lint/correctness/useExhaustiveDependencies: a new outline may move the note
  useEffect(() => {
    let isGone = false
    if (selectedId === null) setPlace(null)
    else
      void session.engraving.locate(selectedId).then((found) => {
        if (isGone) return
        setPlace(found)
        if (found)
          scroller.current
            ?.querySelector(`[data-system="${found.systemIndex}"]`)
            ?.scrollIntoView({ block: 'nearest' })
      })
    return () => {
      isGone = true
    }
  }, [session, selectedId, outline?.revision])

  const pick = useCallback(
    (noteId: number) => {
      const found = findNote(session.store.getState().project, noteId)
      if (!found) return
      viewStore.setState({ trackId: found.trackId, noteIds: new Set([noteId]) })
      session.audition(found.trackId, found.note.key, found.note.velocity)
    },
    [session],
  )
  const walkBy = (event: React.KeyboardEvent) => {
    const direction = walkKeys[event.code]
    if (!direction || event.ctrlKey || event.metaKey || event.altKey) return
    event.preventDefault()
    // One step after the other, each from where the last one led, however fast the keys come.
    walking.current = walking.current
      .then(async () => {
        const { noteIds } = viewStore.getState()
        const noteId = await session.engraving.walk(noteIds.size === 1 ? [...noteIds][0]! : null, direction)
        if (noteId !== null) pick(noteId)
      })
      .catch((error) => session.notify(`The next note could not be found: ${error.message ?? error}.`, true))
  }
  const onEngraved = useCallback((index: number, line: EngravedLine) => lines.current.set(index, line), [])

  const staffCount = outline?.parts.reduce((sum, part) => sum + part.clefs.length, 0) ?? 1
  const hasMusic = project.tracks.some((track) => soundingNotes(track).length > 0)

  return (
    <div className="flex flex-col lg:grid lg:h-full lg:grid-cols-[220px_1fr_220px]">
      <aside
        aria-label="On the page"
        className="order-2 border-t border-rule px-4 py-4 lg:order-none lg:overflow-y-auto lg:border-t-0 lg:border-r"
      >
        <PartList project={project} outline={outline} />
        <ReadingSettings project={project} outline={outline} />
      </aside>
      <section
        ref={scroller}
        aria-label="Page"
        aria-description="Left and right go from note to note, up and down to the note above or below."
        onKeyDown={walkBy}
        tabIndex={0}
        className="h-[64vh] min-h-[260px] overflow-y-auto bg-desk px-1 py-2 md:px-5 md:py-4 lg:h-auto lg:min-h-0"
      >
        <div className="mx-auto min-h-full max-w-[1000px] border border-rule bg-white px-2 pt-4 pb-12 md:px-8 md:pt-8 shadow-[0_1px_4px_rgba(80,60,20,0.12)]">
          <header className="mb-5 text-center">
            <h2 className="font-serif text-[26px] font-semibold">{project.name}</h2>
            {project.subtitle && <p className="text-[13px] text-soft">{project.subtitle}</p>}
          </header>
          {problem && (
            <p role="alert" className="text-live">
              The page could not be written: {problem}. The tracks are unharmed.
            </p>
          )}
          {outline && <FloorRemarks outline={outline} settings={project.scoreSettings} />}
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
                  estimatedHeight={lines.current.get(index)?.heightPx ?? staffCount * 76}
                  selectedNoteId={place?.noteId ?? selectedId}
                  onPick={pick}
                  onEngraved={onEngraved}
                />
              ))}
          </div>
        </div>
        {outline && <ScorePlayhead outline={outline} lines={lines} scroller={scroller} />}
      </section>
      <aside
        aria-label="About the note and the account"
        className="order-1 border-t border-rule px-4 py-4 lg:order-none lg:overflow-y-auto lg:border-t-0 lg:border-l"
      >
        <NoteDetails project={project} place={place} selectedId={selectedId} />
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

/** Where a floor leaves out more than slips, that is said above the music, with the way to have them written. */
function FloorRemarks({ outline, settings }: { outline: ScoreOutline; settings: ScoreSettings }) {
  const session = useSession()
  const { minVelocity, minLengthMs } = settings
  const remarks = outline.parts.flatMap(({ trackId, name, ledger }) =>
    heavyFloors(ledger).map((floor) => ({
      id: `${trackId} ${floor.reason}`,
      reason: floor.reason,
      text: floorSentence(name, ledger.captured, floor, minVelocity, minLengthMs),
    })),
  )
  return (
    <ul aria-label="What the floors leave out" className="space-y-1">
      {remarks.map(({ id, reason, text }) => (
        <li
          key={id}
          className="flex items-center justify-between gap-3 border-l-4 border-weld bg-sheet px-3 py-1 text-[13px]"
        >
          <span>{text}.</span>
          <Button
            className="shrink-0 px-2 py-0.5 text-[12px]"
            onClick={() =>
              session.store
                .getState()
                .apply('write what a floor left out', (before) =>
                  setReading(before, reason === 'too short' ? { minLengthMs: 0 } : { minVelocity: 0 }),
                )
            }
          >
            Write them too
          </Button>
        </li>
      ))}
    </ul>
  )
}

function PartList({ project, outline }: { project: Project; outline: ScoreOutline | null }) {
  const session = useSession()
  return (
    <section aria-label="Parts">
      <ColumnHeading>On the page</ColumnHeading>
      <ul className="space-y-1">
        {project.tracks
          .filter((track) => soundingNotes(track).length > 0)
          .map((track) => {
            const part = outline?.parts.find((candidate) => candidate.trackId === track.id)
            return (
              <li
                key={track.id}
                className="border-l-[5px] pl-2.5"
                style={{ borderColor: threadOf(track.thread).colour }}
              >
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
                <span className="text-[12px] text-soft">
                  {part
                    ? part.splitKey !== null
                      ? `grand staff, split ${keyName(part.splitKey)}`
                      : part.clefs[0]
                    : track.isOnPage
                      ? '…'
                      : 'off the page'}
                </span>
              </li>
            )
          })}
      </ul>
    </section>
  )
}

const smallestNames: Record<ScoreSettings['smallestValue'], string> = {
  4: 'quarter',
  8: 'eighth',
  16: 'sixteenth',
  32: 'thirty-second',
}

function ReadingSettings({ project, outline }: { project: Project; outline: ScoreOutline | null }) {
  const session = useSession()
  const settings = project.scoreSettings
  const change = (label: string, fields: Partial<ScoreSettings>) =>
    session.store.getState().apply(label, (before) => setReading(before, fields), label)
  return (
    <section aria-label="How it is read" className="mt-6 space-y-2">
      <ColumnHeading>How it is read</ColumnHeading>
      <Choice
        label="Smallest"
        value={settings.smallestValue}
        options={([4, 8, 16, 32] as const).map((value) => ({ value, text: smallestNames[value] }))}
        onChange={(smallestValue) => change('smallest value', { smallestValue })}
      />
      <Choice
        label="Tuplets"
        value={settings.tuplets ? 'played' : 'none'}
        options={[
          { value: 'played', text: 'when played' },
          { value: 'none', text: 'none' },
        ]}
        onChange={(value) => change('tuplets', { tuplets: value === 'played' })}
      />
      <Choice
        label="Voices"
        value={settings.severalVoices ? 'several' : 'one'}
        options={[
          { value: 'several', text: 'as needed' },
          { value: 'one', text: 'one a staff' },
        ]}
        onChange={(value) => change('voices', { severalVoices: value === 'several' })}
      />
      <SplitField splitKey={settings.splitKey} onChange={(splitKey) => change('split point', { splitKey })} />
      <Choice
        label="Chord window"
        value={settings.chordWindowMs}
        options={uniqueOptions([15, 30, 45, 60], settings.chordWindowMs, ' ms')}
        onChange={(chordWindowMs) => change('chord window', { chordWindowMs })}
      />
      <p className="pt-1 text-[13px] text-soft">Left out are notes</p>
      <Choice
        label="quieter than"
        value={settings.minVelocity}
        options={uniqueOptions([0, 2, 5, 10, 20], settings.minVelocity, '')}
        onChange={(minVelocity) => change('velocity floor', { minVelocity })}
      />
      <Choice
        label="shorter than"
        value={settings.minLengthMs}
        options={uniqueOptions([0, 20, 40, 60], settings.minLengthMs, ' ms')}
        onChange={(minLengthMs) => change('length floor', { minLengthMs })}
      />
      <Choice
        label="Key"
        value={project.key ? `${project.key.fifths} ${project.key.mode}` : 'heard'}
        options={[
          {
            value: 'heard',
            text: outline && !project.key ? `${keySignatureName(outline.key)}, heard` : 'as heard',
          },
          ...(['major', 'minor'] as const).flatMap((mode) =>
            Array.from({ length: 15 }, (_, index) => ({
              value: `${index - 7} ${mode}`,
              text: keySignatureName({ fifths: index - 7, mode }),
            })),
          ),
        ]}
        onChange={(value) => {
          const [fifths, mode] = value.split(' ')
          const key = value === 'heard' ? null : { fifths: Number(fifths), mode: mode as 'major' | 'minor' }
          session.store.getState().apply('key', (before) => setPiece(before, { key }))
        }}
      />
    </section>
  )
}

/** The values offered, with the one in force among them; nothing is left out at 0. */
function uniqueOptions(
  values: readonly number[],
  current: number,
  unit: string,
): { value: number; text: string }[] {
  return [...new Set([...values, current])]
    .sort((a, b) => a - b)
    .map((value) => ({ value, text: value === 0 ? 'keep all' : `${value}${unit}` }))
}

function SplitField({ splitKey, onChange }: { splitKey: number; onChange: (key: number) => void }) {
  const [draft, setDraft] = useState<string | null>(null)
  const parsed = draft === null ? splitKey : parseKeyName(draft)
  const keep = () => {
    if (draft !== null && parsed !== undefined && parsed !== splitKey) onChange(parsed)
    setDraft(null)
  }
  return (
    <label className="flex items-center gap-2 text-[13px]">
      <span className="text-soft">Split at</span>
      <input
        className={`w-16 rounded border bg-sheet px-1.5 py-0.5 font-semibold ${parsed === undefined ? 'border-live' : 'border-rule'}`}
        aria-invalid={parsed === undefined}
        value={draft ?? keyName(splitKey)}
        onChange={(event) => setDraft(event.target.value)}
        onBlur={keep}
        onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
      />
    </label>
  )
}

function NoteDetails({
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
            `, bar ${beat.bar}, beat ${beat.beat}${beat.ticks > 0 ? ` + ${(beat.ticks / 10_080).toFixed(2)}` : ''}`}
        </li>
        {place ? (
          <>
            <li>
              written {place.value.dots ? 'dotted ' : ''}
              {place.value.type}, voice {place.voice}
            </li>
            <li>
              {Math.abs(offMs) < 0.5
                ? 'played right on it'
                : `played ${Math.abs(offMs).toFixed(0)} ms ${offMs < 0 ? 'early' : 'late'}`}
            </li>
            <li>held {Math.round((note.durationTicks / place.durationTicks) * 100)} % of its value</li>
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

/** The playing position on the page, between the noteheads around it. */
function ScorePlayhead({
  outline,
  lines,
  scroller,
}: {
  outline: ScoreOutline
  lines: React.RefObject<ReadonlyMap<number, EngravedLine>>
  scroller: React.RefObject<HTMLElement | null>
}) {
  const session = useSession()
  const isRunning = useLive((state) => state.transport.state !== 'stopped')
  const line = useRef<HTMLDivElement>(null)
  useEffect(() => {
    let frame = 0
    let lastSystem = -1
    let shownTicks = -1
    let shownScroll = -1
    const draw = () => {
      frame = requestAnimationFrame(draw)
      const element = line.current
      const host = scroller.current
      if (!element || !host) return
      const ticks = session.positionTicks()
      if (!isRunning && ticks === 0) {
        element.style.display = 'none'
        return
      }
      // Looking places up makes the browser lay out: only when something moved.
      if (ticks === shownTicks && host.scrollTop === shownScroll) return
      shownTicks = ticks
      shownScroll = host.scrollTop
      const at = placeOnPage(outline, lines.current, host, ticks)
      element.style.display = at ? 'block' : 'none'
      if (!at) {
        shownTicks = -1
        return
      }
      element.style.transform = `translate(${at.x}px, ${at.top}px)`
      element.style.height = `${at.height}px`
      element.dataset.bar = String(at.bar + 1)
      if (isRunning && at.systemIndex !== lastSystem) {
        lastSystem = at.systemIndex
        host.querySelector(`[data-system="${at.systemIndex}"]`)?.scrollIntoView({
          block: 'nearest',
          behavior: matchMedia('(prefers-reduced-motion: reduce)').matches ? 'auto' : 'smooth',
        })
      }
    }
    frame = requestAnimationFrame(draw)
    return () => cancelAnimationFrame(frame)
  }, [session, outline, lines, scroller, isRunning])
  return (
    <div
      ref={line}
      data-testid="score-playhead"
      className="pointer-events-none fixed top-0 left-0 z-10 w-[2px] bg-live opacity-80"
      style={{ display: 'none' }}
      aria-hidden
    />
  )
}

/** Where a position is on the page: between the noteheads before and after it; null when its line is not drawn. */
function placeOnPage(
  outline: ScoreOutline,
  lines: ReadonlyMap<number, EngravedLine>,
  host: HTMLElement,
  ticks: number,
) {
  const bar = outline.measures.findIndex(
    (measure) => ticks >= measure.startTicks && ticks < measure.startTicks + measure.lengthTicks,
  )
  const systemIndex = outline.systems.findIndex((system) => bar >= system.from && bar < system.to)
  const line = lines.get(systemIndex)
  const drawing = host.querySelector(`[data-system="${systemIndex}"] .engraved`)
  if (bar < 0 || !line || !drawing || line.staves.length === 0) return null
  const box = drawing.getBoundingClientRect()
  const hostBox = host.getBoundingClientRect()
  const next = line.moments.findIndex((moment) => moment.ticks > ticks)
  const lastMeasure = outline.measures[outline.systems[systemIndex]!.to - 1]!
  const end = { ticks: lastMeasure.startTicks + lastMeasure.lengthTicks, xPx: box.width - 4 }
  const after = next < 0 ? end : line.moments[next]!
  const before = line.moments[next < 0 ? line.moments.length - 1 : next - 1] ?? {
    ticks: outline.measures[bar]!.startTicks,
    xPx: after.xPx,
  }
  const share = after.ticks > before.ticks ? (ticks - before.ticks) / (after.ticks - before.ticks) : 0
  const x = box.left + before.xPx + (after.xPx - before.xPx) * Math.max(0, share)
  const top = Math.max(box.top + line.staves[0]!.topPx - 8, hostBox.top)
  const bottom = Math.min(box.top + line.staves.at(-1)!.bottomPx + 8, hostBox.bottom)
  return { x, top, height: Math.max(0, bottom - top), systemIndex, bar }
}
