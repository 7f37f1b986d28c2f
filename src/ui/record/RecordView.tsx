import { useState } from 'react'
import { contextOf } from '@/core/project/context'
import { projectEndTicks } from '@/core/project/create'
import type { Project, Track } from '@/core/project/schema'
import { armEveryTrack } from '@/core/project/settings'
import { markedBars } from '@/core/project/stretch'
import { TICKS_PER_QUARTER } from '@/core/time/units'
import { Button } from '../controls/Button'
import { Tick } from '../controls/Tick'
import { Lanes } from '../tracks/Lanes'
import { fitting } from '../tracks/TracksView'
import type { TimeView } from '../tracks/timeView'
import { useFrameValue, useLive, useProject, useSession, useView } from '../workspace/sessionContext'
import { BarPicker } from './BarPicker'
import { HowToRecord } from './HowToRecord'
import { TakeList } from './TakeList'

const armHeading = (track: Track) => <ArmHeading track={track} />

/** Who is armed, what is being played right now, and every take there is. */
export function RecordView() {
  const project = useProject()
  const trackId = useView((state) => state.trackId)
  const [view, setView] = useState<TimeView>(() =>
    fitting(Math.max(projectEndTicks(project), TICKS_PER_QUARTER * 64), 700),
  )
  const track = project.tracks.find((candidate) => candidate.id === trackId)
  const takes = track?.clips.filter((clip) => clip.combinedFrom === null).length ?? 0

  return (
    <div className="flex flex-col lg:grid lg:h-full lg:grid-cols-[1fr_312px] lg:grid-rows-[minmax(0,1fr)]">
      <div className="flex min-w-0 flex-col">
        <RecordingLine />
        <div className="h-[46vh] min-h-[220px] lg:h-auto lg:min-h-0 lg:flex-1">
          <Lanes
            label="What is being played"
            tracks={project.tracks}
            view={view}
            onView={setView}
            laneHeight={project.tracks.length > 6 ? 58 : 76}
            headingWidth={210}
            heading={armHeading}
          />
        </div>
        {track && takes > 1 && <BarPicker track={track} />}
      </div>
      <aside
        className="border-t border-rule px-4 py-3 lg:overflow-y-auto lg:border-t-0 lg:border-l"
        aria-label="Takes"
      >
        <TakeList />
        <HowToRecord />
      </aside>
    </div>
  )
}

/** What happens, or will happen, in one line that is read from across the room. */
function RecordingLine() {
  const session = useSession()
  const project = useProject()
  const transport = useLive((state) => state.transport)
  const isRecording = transport.state === 'recording'
  const isWaiting = transport.state === 'waiting'
  const armed = project.tracks.filter((track) => track.isArmed && track.routes.length > 0)
  const allArmed = project.tracks.every((track) => track.isArmed || track.routes.length === 0)
  const pass = useFrameValue(() => session.place().pass)
  const startBar =
    transport.state === 'stopped'
      ? contextOf(project).meterMap.measureAt(session.recordingStartTicks()).index + 1
      : 1
  const isLoop = 'loop' in transport && transport.loop !== null
  return (
    <div
      className={`flex h-12 items-center gap-3 border-b px-5 ${isRecording ? 'border-live bg-live text-white' : isWaiting ? 'border-live bg-[#fbe9e3]' : 'border-rule'}`}
    >
      <span className="font-serif text-lg font-semibold whitespace-nowrap" role="status">
        {isRecording
          ? isLoop
            ? `Recording, pass ${pass + 1}`
            : 'Recording'
          : isWaiting
            ? transport.waitsFor === 'clock'
              ? 'Waiting for the clock'
              : 'Waiting for the first note'
            : armed.length === 0
              ? 'Nobody is armed'
              : `${armed.length} ${armed.length === 1 ? 'track is' : 'tracks are'} armed`}
      </span>
      <span className={`truncate text-[13px] ${isRecording ? '' : 'text-soft'}`}>
        {isRecording
          ? 'Everything that arrives is kept as it is played.'
          : isWaiting
            ? 'The first note is the first beat of the take.'
            : planInWords(project)}
      </span>
      {!isRecording && (
        <span className="ml-auto flex gap-2">
          {!allArmed && !isWaiting && (
            <Button onClick={() => session.store.getState().apply('arm all', armEveryTrack)}>Arm all</Button>
          )}
          {isWaiting ? (
            <Button onClick={session.stop}>Wait no longer</Button>
          ) : (
            <Button look="live" disabled={armed.length === 0} onClick={() => void session.record()}>
              Record everyone{startBar > 1 && ` from bar ${startBar}`}
            </Button>
          )}
        </span>
      )}
    </div>
  )
}

/** "One bar of count-in, with click. Bars 5 to 8, round and round." */
function planInWords(project: Project): string {
  const { countIn, click, recording, clock } = project
  const bars = markedBars(project)
  const start =
    clock.follow !== null
      ? 'Starts with the clock that is followed'
      : countIn === 'firstNote'
        ? 'Starts with the first note'
        : countIn === 0
          ? 'No count-in'
          : countIn === 1
            ? 'One bar of count-in'
            : `${countIn} bars of count-in`
  const where = bars
    ? ` Bars ${bars.first} to ${bars.last}${recording.isLooping ? ', round and round' : ' only'}.`
    : ''
  const kept = {
    fresh: 'Earlier takes are kept, asleep.',
    layered: 'Laid over what is there.',
    voice: 'A new voice beside what is there.',
    staff: 'On a staff of its own beneath what is there.',
  }[recording.takeMode]
  return `${start}${click.isOn ? ', with click' : ''}.${where} ${kept}`
}

function ArmHeading({ track }: { track: Track }) {
  const session = useSession()
  const hears = track.routes.length > 0
  return (
    <div className="flex h-full flex-col justify-center px-3">
      <span className="truncate font-serif text-[15px] font-semibold">{track.name}</span>
      <Tick
        arms
        isDisabled={!hears}
        isOn={track.isArmed && hears}
        onChange={(isArmed) => session.setArmed(track.id, isArmed)}
      >
        {hears ? 'armed' : 'hears nobody'}
      </Tick>
    </div>
  )
}
