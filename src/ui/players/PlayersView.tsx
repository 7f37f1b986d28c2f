import { Keyboard, Plug, UserPlus, Users } from 'lucide-react'
import { useEffect, useLayoutEffect, useRef, useState } from 'react'
import { seatStandIns } from '@/core/demo/harbourEvening'
import { keyName } from '@/core/event/note'
import { programNames } from '@/core/midi/generalMidi'
import { addTrack, changeTrack, removeSource } from '@/core/project/commands'
import type { Project, Source, Track } from '@/core/project/schema'
import { listenersOf } from '@/core/routing/route'
import { wiringRemarks } from '@/core/routing/wiringRemarks'
import { Button } from '../controls/Button'
import { Choice, ColumnHeading } from '../controls/Choice'
import { EditableName } from '../controls/EditableName'
import { Tick } from '../controls/Tick'
import { threadOf } from '../theme/threads'
import { useLive, useProject, useSession } from '../workspace/sessionContext'
import { type Bead, drawThreads, type ThreadPath } from './drawThreads'
import { ScreenKeys } from './ScreenKeys'

/** Who plays and where it goes: threads from sources to tracks, with the notes moving along them. */
export function PlayersView() {
  const session = useSession()
  const project = useProject()
  const midi = useLive((state) => state.midi)
  const isRehearsing = useLive((state) => state.isRehearsing)
  const isStopped = useLive((state) => state.transport.state === 'stopped')
  const hasStandIns = project.sources.some((source) => source.kind === 'standIn')
  const apply = session.store.getState().apply
  const stage = useRef<HTMLDivElement>(null)
  const canvas = useRef<HTMLCanvasElement>(null)
  useThreads(stage, canvas, project)
  const remarks = wiringRemarks(project)

  return (
    <div className="flex h-full flex-col overflow-y-auto px-9 pt-4 pb-4">
      <div ref={stage} className="relative grid grid-cols-[320px_1fr_280px]">
        <canvas ref={canvas} className="pointer-events-none absolute inset-0" aria-hidden />
        <section aria-label="Who plays" className="relative">
          <ColumnHeading>Who plays</ColumnHeading>
          <ul className="space-y-4">
            {project.sources.map((source) => (
              <SourceCard key={source.id} source={source} project={project} />
            ))}
          </ul>
          {project.sources.length === 0 && <p className="text-soft">Nobody yet.</p>}
        </section>
        <div />
        <section aria-label="Where it goes" className="relative">
          <ColumnHeading>Where it goes</ColumnHeading>
          <ul className="space-y-4">
            {project.tracks
              .filter((track) => track.input !== null)
              .map((track) => (
                <TrackCard key={track.id} track={track} project={project} />
              ))}
          </ul>
        </section>
      </div>

      <div className="mt-5 space-y-2">
        {remarks.map((remark) => (
          <div
            key={remark.text}
            className="flex items-center justify-between gap-4 rounded-md border border-rule border-l-4 border-l-weld bg-sheet px-4 py-2"
          >
            <span>
              <strong>{remark.head}</strong> {remark.text}
            </span>
            <Button onClick={() => apply(remark.fixLabel, remark.fix)}>{remark.fixLabel}</Button>
          </div>
        ))}
        <div className="flex flex-wrap items-center gap-2 rounded-md border border-rule bg-sheet px-4 py-2">
          <span className="mr-auto">
            {hasStandIns
              ? 'The stand-ins play when you record. To see and hear the threads first, let them play.'
              : 'Nobody at hand? Three stand-in players can take a seat.'}
          </span>
          {hasStandIns ? (
            isRehearsing ? (
              <Button onClick={session.stop}>Thank you, stop</Button>
            ) : (
              <Button onClick={() => void session.rehearse()} disabled={!isStopped}>
                <Users size={15} aria-hidden /> Let them play
              </Button>
            )
          ) : (
            <Button onClick={() => apply('seat three players', seatStandIns)}>
              <UserPlus size={15} aria-hidden /> Seat three players
            </Button>
          )}
          <Button
            onClick={() =>
              apply('add a track', (before) =>
                addTrack(before, { name: 'New track', instrument: { kind: 'program', program: 0 } }),
              )
            }
          >
            Add a track
          </Button>
        </div>
        {project.sources.some((source) => source.kind === 'computerKeyboard') && <ScreenKeys />}
        <p className="flex items-center gap-2 px-1 text-[13px] text-soft" data-testid="midi-state">
          <Plug size={14} aria-hidden />
          {midi.state === 'asking' && 'Looking for MIDI ports…'}
          {midi.state === 'unavailable' && midi.reason}
          {midi.state === 'ready' &&
            (midi.ports.length === 0
              ? 'No MIDI port is connected. One that is plugged in takes its place at its first note.'
              : `MIDI ports: ${midi.ports.map((port) => port.name).join(', ')}. Each stream takes its place at its first note.`)}
        </p>
      </div>
    </div>
  )
}

function SourceCard({ source, project }: { source: Source; project: Project }) {
  const session = useSession()
  const keyboard = useLive((state) => state.keyboard)
  const listeners = listenersForSource(source, project)
  const thread = threadOf(listeners[0]?.thread ?? 7)
  const lastNote = useLastNote(source)
  return (
    <li
      data-source={source.id}
      className="relative h-[92px] rounded-r-lg bg-desk py-3 pr-3 pl-4"
      style={{ borderLeft: `5px solid ${thread.colour}` }}
    >
      <div className="flex items-start justify-between gap-2">
        <h3 className="min-w-0 truncate font-serif text-[15px] font-semibold">{source.name}</h3>
        <span
          className="h-5 min-w-9 text-right font-semibold"
          style={{ color: thread.colour }}
          aria-live="off"
        >
          {lastNote}
        </span>
      </div>
      <p className="truncate text-[12px] text-soft">
        {source.description} ·{' '}
        {source.kind === 'standIn'
          ? 'Harbour room'
          : source.kind === 'computerKeyboard'
            ? 'this computer'
            : 'MIDI port'}{' '}
        · channel {source.address.channel ?? 'any'}
      </p>
      {source.kind === 'computerKeyboard' ? (
        <p className="flex items-center gap-1 truncate text-[12px] text-soft">
          <Keyboard size={13} aria-hidden /> keys A to ; from {keyName(keyboard.lowestKey)}, W E T Y U
          between; Z, X octave
        </p>
      ) : (
        <button
          type="button"
          className="text-[12px] text-soft underline underline-offset-2"
          onClick={() =>
            session.store
              .getState()
              .apply(`send ${source.name} home`, (before) => removeSource(before, source.id))
          }
        >
          Take off the list
        </button>
      )}
    </li>
  )
}

function TrackCard({ track, project }: { track: Track; project: Project }) {
  const session = useSession()
  const isAssigning = useLive((state) => state.assigningTrackId === track.id)
  const apply = session.store.getState().apply
  const thread = threadOf(track.thread)
  const isHeard = project.sources.some((source) =>
    listenersForSource(source, project).some((listener) => listener.id === track.id),
  )
  const options = [
    { value: '', text: 'nobody' },
    ...project.sources.map((source) => ({ value: source.id, text: source.name })),
  ]
  const current = project.sources.find(
    (source) =>
      source.address.portId === track.input?.portId && source.address.channel === track.input?.channel,
  )
  return (
    <li
      data-track={track.id}
      className={`h-[92px] rounded-lg border-2 bg-sheet px-3 py-2 ${isHeard ? '' : 'border-dashed'}`}
      style={{ borderColor: isHeard ? thread.colour : '#b9ad93' }}
    >
      <div className="flex items-center justify-between gap-2">
        <h3 className="min-w-0 flex-1">
          <EditableName
            name={track.name}
            label="Track"
            className="font-serif text-[15px] font-semibold"
            onRename={(name) =>
              apply(`rename to “${name}”`, (before) =>
                changeTrack(before, track.id, (old) => ({ ...old, name })),
              )
            }
          />
        </h3>
        <Tick arms isOn={track.isArmed} onChange={(isArmed) => session.setArmed(track.id, isArmed)}>
          armed
        </Tick>
      </div>
      <p className="truncate text-[12px] text-soft">
        {track.instrument.kind === 'drums' ? 'Drum kit' : programNames[track.instrument.program]}
      </p>
      <div className="flex items-center gap-2">
        <Choice
          label="hears"
          className="min-w-0 flex-1 text-[12px]"
          value={current?.id ?? ''}
          options={options}
          onChange={(id) => {
            const source = project.sources.find((candidate) => candidate.id === id)
            apply('change who a track hears', (before) =>
              changeTrack(before, track.id, (old) => ({
                ...old,
                input: source ? source.address : { portId: 'nobody', channel: null },
              })),
            )
          }}
        />
        <Button
          look={isAssigning ? 'live' : 'plain'}
          className="px-2 py-0.5 text-[12px]"
          aria-pressed={isAssigning}
          aria-label={
            isAssigning ? `${track.name} waits for whoever plays` : `Assign ${track.name} by playing`
          }
          title="Press, then play one note on any device"
          onClick={() => session.assignByPlaying(isAssigning ? null : track.id)}
        >
          {isAssigning ? 'play now' : 'assign'}
        </Button>
      </div>
    </li>
  )
}

function listenersForSource(source: Source, project: Project): Track[] {
  const { portId, channel } = source.address
  return channel === null
    ? project.tracks.filter((track) => track.input?.portId === portId)
    : listenersOf({ portId, channel }, project.tracks)
}

/** Name of the note a source played last, for a moment. */
function useLastNote(source: Source): string {
  const session = useSession()
  const [name, setName] = useState('')
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout>
    const stop = session.onActivity((events) => {
      const last = events.findLast(
        (event) =>
          event.isOn &&
          event.portId === source.address.portId &&
          (source.address.channel === null || event.channel === source.address.channel),
      )
      if (!last) return
      setName(keyName(last.key))
      clearTimeout(timer)
      timer = setTimeout(() => setName(''), 900)
    })
    return () => {
      stop()
      clearTimeout(timer)
    }
  }, [session, source])
  return name
}

/** Draws the threads and lets a bead run along one for each note that sounds. */
function useThreads(
  stage: React.RefObject<HTMLDivElement | null>,
  canvas: React.RefObject<HTMLCanvasElement | null>,
  project: Project,
): void {
  const session = useSession()
  const beads = useRef<Bead[]>([])
  const paths = useRef<ThreadPath[]>([])
  const drawn = useRef<ThreadPath[] | null>(null)

  useLayoutEffect(() => {
    const element = stage.current
    if (!element) return
    const measure = () => {
      const origin = element.getBoundingClientRect()
      paths.current = []
      for (const source of project.sources) {
        const from = element
          .querySelector(`[data-source="${CSS.escape(source.id)}"]`)
          ?.getBoundingClientRect()
        if (!from) continue
        const listeners = listenersForSource(source, project)
        const start = { x: from.right - origin.left, y: from.top + from.height / 2 - origin.top }
        for (const track of listeners) {
          const to = element.querySelector(`[data-track="${CSS.escape(track.id)}"]`)?.getBoundingClientRect()
          if (to)
            paths.current.push({
              sourceId: source.id,
              trackId: track.id,
              thread: threadOf(track.thread),
              start,
              end: { x: to.left - origin.left, y: to.top + to.height / 2 - origin.top },
              isBroken: false,
              label: track.effects.some((slot) => slot.isOn) ? 'arpeggio' : null,
            })
        }
        if (listeners.length === 0)
          paths.current.push({
            sourceId: source.id,
            trackId: '',
            thread: threadOf(7),
            start,
            end: { x: start.x + (origin.width - 600) * 0.6, y: start.y },
            isBroken: true,
            label: null,
          })
      }
    }
    measure()
    const observer = new ResizeObserver(measure)
    observer.observe(element)
    return () => observer.disconnect()
  }, [project, stage])

  useEffect(() => {
    const stop = session.onActivity((events) => {
      for (const event of events) {
        if (!event.isOn) continue
        const source = session.store
          .getState()
          .project.sources.find(
            (candidate) =>
              candidate.address.portId === event.portId &&
              (candidate.address.channel ?? event.channel) === event.channel,
          )
        if (!source) continue
        for (const path of paths.current)
          if (path.sourceId === source.id)
            beads.current.push({ path, bornMs: performance.now(), size: 3 + event.velocity / 40 })
      }
    })
    let frame = requestAnimationFrame(function draw() {
      const element = canvas.current
      const host = stage.current
      if (element && host) {
        const hadBeads = beads.current.length > 0
        beads.current = beads.current.filter((bead) => performance.now() - bead.bornMs < 900)
        const isStill =
          !hadBeads && drawn.current === paths.current && element.clientWidth === host.clientWidth
        if (!isStill) {
          drawn.current = paths.current
          drawThreads(element, host.clientWidth, host.clientHeight, paths.current, beads.current)
        }
      }
      frame = requestAnimationFrame(draw)
    })
    return () => {
      stop()
      cancelAnimationFrame(frame)
    }
  }, [session, canvas, stage])
}
