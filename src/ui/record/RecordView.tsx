import { Trash2 } from 'lucide-react'
import { useState } from 'react'
import { chooseTake, deleteTake } from '@/core/project/commands'
import { projectEndTicks } from '@/core/project/create'
import type { Track } from '@/core/project/schema'
import { MeterMap } from '@/core/time/meterMap'
import { TICKS_PER_QUARTER } from '@/core/time/units'
import { Button } from '../controls/Button'
import { ColumnHeading } from '../controls/Choice'
import { EditableName } from '../controls/EditableName'
import { Tick } from '../controls/Tick'
import { Lanes } from '../tracks/Lanes'
import { fitting } from '../tracks/TracksView'
import type { TimeView } from '../tracks/timeView'
import { useLive, useProject, useSession } from '../workspace/sessionContext'
import { goTo } from '../workspace/viewStore'

const armHeading = (track: Track) => <ArmHeading track={track} />

/** Who is armed, what is being played right now, and every take there is. */
export function RecordView() {
  const session = useSession()
  const project = useProject()
  const transport = useLive((state) => state.transport)
  const lastTake = useLive((state) => state.lastTake)
  const isRecording = transport.state === 'recording'
  const [view, setView] = useState<TimeView>(() =>
    fitting(Math.max(projectEndTicks(project), TICKS_PER_QUARTER * 64), 700),
  )
  const apply = session.store.getState().apply
  const armed = project.tracks.filter((track) => track.isArmed && track.input)
  const startBar =
    transport.state === 'stopped'
      ? new MeterMap(project.meters).measureAt(session.recordingStartTicks()).index + 1
      : 1
  const allArmed = project.tracks.every((track) => track.isArmed || !track.input)

  return (
    <div className="grid h-full grid-cols-[1fr_300px]">
      <div className="flex min-w-0 flex-col">
        <div
          className={`flex h-12 items-center gap-3 border-b px-5 ${isRecording ? 'border-live bg-live text-white' : 'border-rule'}`}
        >
          <span className="font-serif text-lg font-semibold" role="status">
            {isRecording
              ? 'Recording'
              : armed.length === 0
                ? 'Nobody is armed'
                : `${armed.length} ${armed.length === 1 ? 'track is' : 'tracks are'} armed`}
          </span>
          <span className={`truncate text-[13px] ${isRecording ? '' : 'text-soft'}`}>
            {isRecording
              ? 'Everything that arrives is kept as it is played.'
              : `${project.countInBars === 0 ? 'No count-in' : project.countInBars === 1 ? 'One bar of count-in' : `${project.countInBars} bars of count-in`}${project.isClickOn ? ', with click' : ''}. Earlier takes are kept.`}
          </span>
          {!isRecording && (
            <span className="ml-auto flex gap-2">
              {!allArmed && (
                <Button
                  onClick={() =>
                    apply('arm all', (before) => ({
                      ...before,
                      tracks: before.tracks.map((track) => ({ ...track, isArmed: true })),
                    }))
                  }
                >
                  Arm all
                </Button>
              )}
              <Button look="live" disabled={armed.length === 0} onClick={() => void session.record()}>
                Record everyone{startBar > 1 && ` from bar ${startBar}`}
              </Button>
            </span>
          )}
        </div>
        <div className="min-h-0 flex-1">
          <Lanes
            label="What is being played"
            tracks={project.tracks}
            view={view}
            onView={setView}
            laneHeight={76}
            headingWidth={210}
            heading={armHeading}
          />
        </div>
      </div>
      <aside className="overflow-y-auto border-l border-rule px-5 py-4" aria-label="Takes">
        <ColumnHeading>Takes</ColumnHeading>
        {lastTake && (
          <div
            className="mb-3 rounded-md border border-rule border-l-4 border-l-verdigris bg-sheet px-3 py-2 text-[13px]"
            role="status"
            data-testid="take-account"
          >
            <strong>{lastTake.name}</strong>: {lastTake.heard} notes heard, {lastTake.captured} on tracks
            {lastTake.inCountIn > 0 && `, ${lastTake.inCountIn} in the count-in, kept in the take`}
            {lastTake.unrouted > 0 &&
              `, ${lastTake.unrouted} on a channel no armed track hears, kept in the take`}
            {lastTake.endedAtStop > 0 && `; ${lastTake.endedAtStop} ended when recording stopped`}.
            <div className="mt-2 flex gap-2">
              <Button onClick={() => goTo('score')}>See the page</Button>
            </div>
          </div>
        )}
        {project.takes.length === 0 && (
          <p className="text-[13px] text-soft">
            No take yet. Press “Record everyone”, wait for the count-in, play.
          </p>
        )}
        <ul>
          {[...project.takes].reverse().map((take) => {
            const clips = project.tracks.flatMap((track) =>
              track.clips.filter((clip) => clip.takeSerial === take.serial),
            )
            const sounding = clips.filter((clip) => clip.isSounding).length
            return (
              <li key={take.serial} className="border-b border-rule py-2">
                <EditableName
                  name={take.name}
                  label="Take"
                  className="font-serif font-semibold"
                  onRename={(name) =>
                    apply(`rename to “${name}”`, (before) => ({
                      ...before,
                      takes: before.takes.map((old) => (old.serial === take.serial ? { ...old, name } : old)),
                    }))
                  }
                />
                <p className="text-[12px] text-soft">
                  {Math.round(take.durationMs / 1000)} s · {take.eventCount} events as played · on{' '}
                  {clips.length} {clips.length === 1 ? 'track' : 'tracks'}
                </p>
                <div className="mt-1 flex items-center gap-2 text-[12px]">
                  {sounding === clips.length && clips.length > 0 ? (
                    <span className="font-semibold text-verdigris">heard</span>
                  ) : (
                    <Button
                      className="px-2 py-0.5"
                      disabled={clips.length === 0}
                      onClick={() => apply(`hear ${take.name}`, (before) => chooseTake(before, take.serial))}
                    >
                      Hear this one
                    </Button>
                  )}
                  <Button
                    look="quiet"
                    className="ml-auto px-1.5 py-0.5"
                    aria-label={`Delete ${take.name}`}
                    title="Delete the take; undo brings it back"
                    onClick={() => apply(`delete ${take.name}`, (before) => deleteTake(before, take.serial))}
                  >
                    <Trash2 size={13} aria-hidden />
                  </Button>
                </div>
              </li>
            )
          })}
        </ul>
      </aside>
    </div>
  )
}

function ArmHeading({ track }: { track: Track }) {
  const session = useSession()
  return (
    <div className="flex h-full flex-col justify-center px-3">
      <span className="truncate font-serif text-[15px] font-semibold">{track.name}</span>
      <Tick
        arms
        isDisabled={!track.input}
        isOn={track.isArmed && !!track.input}
        onChange={(isArmed) => session.setArmed(track.id, isArmed)}
      >
        {track.input ? 'armed' : 'hears nobody'}
      </Tick>
    </div>
  )
}
