import { Circle, Ear, OctagonX, Play, SkipBack, Square, X } from 'lucide-react'
import { useEffect, useRef, useState } from 'react'
import { contextOf } from '@/core/project/context'
import { hasAnythingToPlay } from '@/core/project/printing'
import { type PieceSettings, setPiece, setRecording } from '@/core/project/settings'
import { setMeterAt, setTempoAt } from '@/core/project/tempoEdits'
import { positionText } from '@/core/time/positionText'
import { speedPercents } from '@/core/time/speed'
import { Button } from '../controls/Button'
import { Tick } from '../controls/Tick'
import { meterOptions } from './meterOptions'
import { useFrameValue, useLive, useProject, useSession } from './sessionContext'
import { TempoPlan } from './TempoPlan'
import { viewStore } from './viewStore'

/** Playing, recording, position and tempo: in reach from every step. */
export function TransportBar() {
  const session = useSession()
  const project = useProject()
  const transport = useLive((state) => state.transport)
  const isPlaying = transport.state === 'playing'
  const isRecording = transport.state === 'recording'
  const isWaiting = transport.state === 'waiting'
  const change = (label: string, settings: PieceSettings) =>
    session.store.getState().apply(label, (before) => setPiece(before, settings))
  return (
    <section
      className={`sticky bottom-0 z-20 flex min-h-[60px] shrink-0 flex-wrap items-center gap-x-2.5 gap-y-1 border-t px-3 py-1.5 whitespace-nowrap md:px-5 lg:static lg:flex-nowrap lg:py-0 ${isRecording ? 'border-live bg-[#fbe9e3]' : 'border-rule bg-desk'}`}
      aria-label="Transport"
    >
      <Button
        title="Back to the beginning (Home)"
        aria-label="Back to the beginning"
        disabled={isRecording}
        onClick={() => session.seek(0)}
        className="px-2.5 py-2"
      >
        <SkipBack size={15} aria-hidden />
      </Button>
      {isPlaying || isRecording || isWaiting ? (
        <Button
          onClick={session.stop}
          title="Stop (space)"
          aria-label="Stop"
          className="justify-center py-2 sm:w-[92px]"
        >
          <Square size={14} aria-hidden /> Stop
        </Button>
      ) : (
        <Button
          onClick={() => void session.playOn()}
          title="Play (space)"
          disabled={!hasAnythingToPlay(project)}
          className="justify-center py-2 sm:w-[92px]"
        >
          <Play size={14} aria-hidden /> Play
        </Button>
      )}
      <Button
        look={isRecording || isWaiting ? 'live' : 'plain'}
        onClick={() => (isRecording || isWaiting ? session.stop() : void session.record())}
        title="Record every armed track from the bar of the playing position (Shift+R)"
        aria-pressed={isRecording}
        className="justify-center py-2 sm:w-[116px]"
      >
        <Circle
          size={13}
          fill={isRecording || isWaiting ? '#fff' : '#c92a14'}
          stroke={isRecording || isWaiting ? '#fff' : '#c92a14'}
          aria-hidden
        />
        {isRecording ? 'Recording' : isWaiting ? 'Waiting' : 'Record'}
      </Button>
      <Position />
      <Tempo />
      <Speed />
      <TapTempo />
      <Meter />
      <TempoPlan />
      <Tick
        isOn={project.click.isOn}
        onChange={(isOn) => change(isOn ? 'click on' : 'click off', { click: { ...project.click, isOn } })}
      >
        click
      </Tick>
      <Tick
        isOn={project.recording.isLooping && project.recording.stretch !== null}
        isDisabled={project.recording.stretch === null}
        onChange={(isLooping) =>
          change(isLooping ? 'loop the stretch' : 'end the loop', {
            recording: { ...project.recording, isLooping },
          })
        }
      >
        loop
      </Tick>
      <label className="flex items-center gap-1.5 text-[13px] text-soft">
        <span className="max-[1400px]:sr-only">count-in</span>
        <select
          className="rounded border border-rule bg-sheet px-1 py-0.5 font-semibold text-ink"
          value={project.countIn}
          onChange={(event) => {
            const { value } = event.target
            change('count-in', { countIn: value === 'firstNote' ? value : Number(value) })
          }}
        >
          {[0, 1, 2, 3, 4].map((bars) => (
            <option key={bars} value={bars}>
              {bars === 0 ? 'none' : bars === 1 ? '1 bar' : `${bars} bars`}
            </option>
          ))}
          <option value="firstNote">first note</option>
        </select>
      </label>
      <div className="ml-auto flex items-center gap-3">
        <Listened />
        <SoundState />
        <Button
          title={
            isRecording
              ? 'Silence everything at once, and end the recording (Escape silences and lets it go on)'
              : 'Silence everything at once (Escape)'
          }
          onClick={session.panic}
          className="py-2"
        >
          <OctagonX size={15} aria-hidden />{' '}
          <span className="max-[1100px]:sr-only">{isRecording ? 'Silence and stop' : 'Silence'}</span>
        </Button>
      </div>
    </section>
  )
}

function Position() {
  const session = useSession()
  const transport = useLive((state) => state.transport)
  const text = useFrameValue(() => {
    const ticks = session.positionTicks()
    if (transport.state === 'recording' && ticks < transport.fromTicks) return 'count-in'
    return positionText(contextOf(session.store.getState().project).meterMap, Math.max(0, ticks))
  })
  return (
    <div className="w-[104px] shrink-0 pl-1">
      <div className="font-serif text-xl leading-6 font-semibold" data-testid="position">
        {text}
      </div>
      <div className="hidden text-[10px] text-soft sm:block">bar · beat · hundredth</div>
    </div>
  )
}

function Tempo() {
  const session = useSession()
  const project = useProject()
  const tempoBpm = project.tempos[0]!.tempoBpm
  const [draft, setDraft] = useState<string | null>(null)
  const keep = () => {
    const wanted = Number(draft)
    if (draft !== null && Number.isFinite(wanted) && wanted >= 10 && wanted <= 400)
      session.store
        .getState()
        .apply('change the tempo', (before) =>
          setTempoAt(before, 0, wanted, viewStore.getState().keptPosition),
        )
    setDraft(null)
  }
  return (
    <label className="flex items-baseline gap-1 font-serif text-base font-semibold">
      <span aria-hidden>♩ =</span>
      <span className="sr-only">Tempo in quarters a minute</span>
      <input
        className="w-[52px] rounded border border-transparent bg-transparent px-1 hover:border-rule focus:border-ink focus:bg-sheet"
        inputMode="decimal"
        value={draft ?? String(Math.round(tempoBpm * 100) / 100)}
        onFocus={(event) => event.target.select()}
        onChange={(event) => setDraft(event.target.value)}
        onBlur={keep}
        onKeyDown={(event) => {
          if (event.key === 'Enter') event.currentTarget.blur()
          if (event.key === 'Escape') setDraft(null)
        }}
      />
    </label>
  )
}

/** Slower to learn or to record, without another pitch: bars and notes stay where they are. */
function Speed() {
  const session = useSession()
  const { speedPercent } = useProject().recording
  const isRecording = useLive(({ transport: { state } }) => state === 'recording' || state === 'waiting')
  return (
    <label className="text-[13px]" title="Played and recorded at so much of the tempo; pitches stay">
      <span className="sr-only">Speed in percent of the tempo</span>
      <select
        className={`rounded border border-rule px-1 py-0.5 font-semibold ${speedPercent === 100 ? 'bg-sheet' : 'bg-weld/25'}`}
        value={speedPercent}
        disabled={isRecording}
        onChange={({ target }) =>
          session.store
            .getState()
            .apply(`at ${target.value} % of the tempo`, (before) =>
              setRecording(before, { speedPercent: Number(target.value) }),
            )
        }
      >
        {speedPercents.map((percent) => (
          <option key={percent} value={percent}>
            {percent} %
          </option>
        ))}
      </select>
    </label>
  )
}

function Meter() {
  const session = useSession()
  const { meters: changes } = useProject()
  const current = `${changes[0]!.numerator}/${changes[0]!.denominator}`
  const options = meterOptions(current)
  return (
    <label className="text-[13px]">
      <span className="sr-only">Meter</span>
      <select
        className="rounded border border-rule bg-sheet px-1 py-0.5 font-semibold"
        value={current}
        onChange={(event) => {
          const [numerator, denominator] = event.target.value.split('/').map(Number) as [number, 4 | 8]
          session.store
            .getState()
            .apply(`meter ${event.target.value}`, (before) =>
              setMeterAt(before, 0, { numerator, denominator }),
            )
        }}
      >
        {options.map((meter) => (
          <option key={meter}>{meter}</option>
        ))}
      </select>
    </label>
  )
}

/** What was played while nothing recorded: it can still become a take. */
function Listened() {
  const session = useSession()
  const notes = useLive((state) => state.listenedNotes)
  const isStopped = useLive((state) => state.transport.state === 'stopped')
  if (notes === 0 || !isStopped) return null
  return (
    <fieldset className="flex items-center gap-1.5 text-[12px]" aria-label="Always listening">
      <Button
        className="px-2 py-2"
        title="What was just played becomes a take"
        aria-label={`Keep as a take: ${notes} ${notes === 1 ? 'note' : 'notes'} heard`}
        onClick={session.keepListened}
      >
        <Ear size={14} aria-hidden /> Keep {notes} {notes === 1 ? 'note' : 'notes'}
      </Button>
      <Button
        look="quiet"
        className="px-1.5 py-1"
        aria-label="Forget what was heard"
        title="Forget it"
        onClick={session.forgetListened}
      >
        <X size={13} aria-hidden />
      </Button>
    </fieldset>
  )
}

/** Taps further apart than this begin a new tempo. */
const longestTapGapMs = 2500

/** The tempo of the last taps, as one presses along. */
function TapTempo() {
  const session = useSession()
  const taps = useRef<number[]>([])
  const tap = (atMs: number) => {
    const last = taps.current.at(-1)
    if (last !== undefined && atMs - last > longestTapGapMs) taps.current = []
    taps.current = [...taps.current, atMs].slice(-6)
    const { length } = taps.current
    if (length < 3) return
    const tempoBpm = Math.round((60_000 * (length - 1)) / (atMs - taps.current[0]!))
    if (tempoBpm >= 20 && tempoBpm <= 300)
      session.store
        .getState()
        .apply(
          'tap the tempo',
          (before) => setTempoAt(before, 0, tempoBpm, viewStore.getState().keptPosition),
          'tap tempo',
          longestTapGapMs,
        )
  }
  return (
    <Button
      look="quiet"
      className="px-1.5 py-1 text-[12px]"
      title="Press in time, at least three times"
      onClick={(event) => tap(event.timeStamp)}
    >
      tap
    </Button>
  )
}

/** The level as a small thread that swells, and a word when there is no sound. */
function SoundState() {
  const session = useSession()
  const audio = useLive((state) => state.audio)
  const bar = useRef<HTMLDivElement>(null)
  useEffect(() => {
    let level = 0
    const stop = session.onSynthReport((report) => {
      if (report.type !== 'peak' || !bar.current) return
      level = Math.max(report.left, report.right, level * 0.8)
      bar.current.style.width = `${Math.round(Math.min(1, Math.sqrt(level)) * 100)}%`
    })
    return () => {
      stop()
    }
  }, [session])
  return (
    <div className="w-[92px] text-right text-[11px] leading-[13px] whitespace-normal text-soft max-[1240px]:hidden">
      <div className="ml-auto h-[3px] w-full rounded bg-rule" aria-hidden>
        <div ref={bar} className="h-full rounded bg-verdigris" style={{ width: 0 }} />
      </div>
      <div className="mt-1">
        {audio === 'on'
          ? 'sound on'
          : audio === 'paused'
            ? 'sound paused'
            : audio === 'unavailable'
              ? 'no sound here'
              : 'sound starts with a click'}
      </div>
    </div>
  )
}
