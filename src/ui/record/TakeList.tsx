import { Trash2 } from 'lucide-react'
import type { StreamAccount } from '@/core/capture/takeAccount'
import type { TakeInfo } from '@/core/capture/takeInfo'
import { chooseTakes, deleteTakes, layTakeOver } from '@/core/project/commands'
import type { Project } from '@/core/project/schema'
import { renameTake } from '@/core/project/settings'
import { streamName } from '@/core/wiring/portsInUse'
import { Button } from '../controls/Button'
import { ColumnHeading } from '../controls/Choice'
import { EditableName } from '../controls/EditableName'
import { useLive, useProject, useSession } from '../workspace/sessionContext'
import { goTo } from '../workspace/viewStore'
import { TakeWayChoice } from './TakeWayChoice'

/** Every take, the latest first; the passes of a loop together. */
export function TakeList() {
  const session = useSession()
  const project = useProject()
  const apply = session.store.getState().apply
  return (
    <section aria-label="List of takes">
      <ColumnHeading>Takes</ColumnHeading>
      <TakeAccountLine />
      {project.takes.length === 0 && (
        <p className="mb-2 text-[13px] text-soft">
          No take yet. Press “Record everyone”, wait for the count-in, play.
        </p>
      )}
      <ul>
        {loopsOf(project).map((takes) => {
          const serials = takes.map((take) => take.serial)
          if (takes.length === 1)
            return (
              <li key={serials[0]} className="border-b border-rule py-2">
                <TakeLine take={takes[0]!} />
              </li>
            )
          const name = takes[0]!.name.replace(/, pass \d+$/, '')
          return (
            <li key={serials[0]} className="border-b border-rule py-2">
              <div className="flex items-center gap-1.5">
                <span className="min-w-0 flex-1 truncate font-serif font-semibold">
                  {name}, {takes.length} passes
                </span>
                <Button
                  className="px-2 py-0.5 text-[12px]"
                  title="All passes sound together"
                  onClick={() => apply(`layer ${name}`, (before) => chooseTakes(before, serials))}
                >
                  Layer
                </Button>
                <Button
                  className="px-2 py-0.5 text-[12px]"
                  title="Only the last pass sounds"
                  onClick={() =>
                    apply(`hear the last of ${name}`, (before) => chooseTakes(before, serials.slice(-1)))
                  }
                >
                  Last
                </Button>
                <Button
                  look="quiet"
                  className="px-1.5 py-0.5"
                  aria-label={`Delete all passes of ${name}`}
                  onClick={() => apply(`delete ${name}`, (before) => deleteTakes(before, serials))}
                >
                  <Trash2 size={13} aria-hidden />
                </Button>
              </div>
              <ul className="mt-1 space-y-1 border-l-2 border-rule pl-2">
                {[...takes].reverse().map((take) => (
                  <li key={take.serial}>
                    <TakeLine take={take} />
                  </li>
                ))}
              </ul>
            </li>
          )
        })}
      </ul>
    </section>
  )
}

/** Takes grouped by loop, the latest group first; passes in order. */
function loopsOf(project: Project): TakeInfo[][] {
  const groups = new Map<number, TakeInfo[]>()
  for (const take of project.takes) {
    const first = take.loop?.firstSerial ?? take.serial
    groups.set(first, [...(groups.get(first) ?? []), take])
  }
  return [...groups.values()].reverse()
}

function TakeLine({ take }: { take: TakeInfo }) {
  const session = useSession()
  const project = useProject()
  const apply = session.store.getState().apply
  const clips = project.tracks.flatMap((track) =>
    track.clips.filter((clip) => clip.takeSerial === take.serial),
  )
  const isHeard = clips.length > 0 && clips.every((clip) => clip.isSounding)
  return (
    <>
      <EditableName
        name={take.name}
        label="Take"
        className="font-serif font-semibold"
        onRename={(name) => apply(`rename to “${name}”`, (before) => renameTake(before, take.serial, name))}
      />
      <p className="text-[12px] text-soft">
        {Math.round(take.durationMs / 1000)} s · {take.eventCount} events as played · on {clips.length}{' '}
        {clips.length === 1 ? 'track' : 'tracks'}
      </p>
      <div className="mt-0.5 flex flex-wrap items-center gap-1.5 text-[12px]">
        {isHeard && <span className="font-semibold text-verdigris">heard</span>}
        <Button
          className="px-2 py-0.5 text-[12px]"
          disabled={clips.length === 0}
          onClick={() => apply(`hear ${take.name}`, (before) => chooseTakes(before, [take.serial]))}
        >
          {isHeard ? 'Only this one' : 'Hear this one'}
        </Button>
        {clips.length > 0 && (
          <Button
            look="quiet"
            className="px-1.5 py-0.5 text-[12px]"
            title={isHeard ? 'Let it rest' : 'Let it sound together with what is heard'}
            onClick={() =>
              apply(isHeard ? `let ${take.name} rest` : `lay ${take.name} over`, (before) =>
                layTakeOver(before, take.serial, !isHeard),
              )
            }
          >
            {isHeard ? 'rest' : 'and this'}
          </Button>
        )}
        <TakeWayChoice take={take} />
        <Button
          look="quiet"
          className="px-1.5 py-0.5 text-[12px]"
          title="Bring it back exactly as it was played, beside what was made of it"
          onClick={() => void session.restoreTake(take.serial)}
        >
          as played
        </Button>
        {take.chains.length > 0 && (
          <Button
            look="quiet"
            className="px-1.5 py-0.5 text-[12px]"
            title="Bring it back as the effects of the players made it"
            onClick={() => void session.restoreTake(take.serial, 'result')}
          >
            with effects
          </Button>
        )}
        <Button
          look="quiet"
          className="ml-auto px-1.5 py-0.5"
          aria-label={`Delete ${take.name}`}
          title="Delete the take; undo brings it back"
          onClick={() => apply(`delete ${take.name}`, (before) => deleteTakes(before, [take.serial]))}
        >
          <Trash2 size={13} aria-hidden />
        </Button>
      </div>
    </>
  )
}

/** What became of every note of the last recording. */
function TakeAccountLine() {
  const lastTake = useLive((state) => state.lastTake)
  if (!lastTake) return null
  return (
    <div
      className="mb-2 rounded-md border border-rule border-l-4 border-l-verdigris bg-sheet px-3 py-2 text-[13px]"
      role="status"
      data-testid="take-account"
    >
      <strong>{lastTake.name}</strong>
      {lastTake.passes > 1 && `, ${lastTake.passes} passes`}: {lastTake.heard} notes heard,{' '}
      {lastTake.captured} on tracks
      {lastTake.inCountIn > 0 && `, ${lastTake.inCountIn} outside the take, kept with it`}
      {lastTake.unrouted > 0 && `, ${lastTake.unrouted} on a channel no armed track hears, kept in the take`}
      {lastTake.mended > 0 &&
        `, ${lastTake.mended} mistaken ${lastTake.mended === 1 ? 'pitch' : 'pitches'} taken back`}
      {lastTake.withheld > 0 && `, ${lastTake.withheld} left out by an effect, kept in the take`}
      {lastTake.endedAtStop > 0 && `; ${lastTake.endedAtStop} ended when recording stopped`}.
      <StreamAccounts streams={lastTake.streams} />
      <div className="mt-2 flex gap-2">
        <Button onClick={() => goTo('score')}>See the page</Button>
      </div>
    </div>
  )
}

/** The same account for each stream. */
function StreamAccounts({ streams }: { streams: readonly StreamAccount[] }) {
  const project = useProject()
  return (
    <details className="mt-1">
      <summary className="cursor-pointer text-soft">by player</summary>
      <table className="w-full text-[12px]">
        <thead>
          <tr className="text-right text-soft">
            <th className="text-left font-normal">player</th>
            <th className="pl-2 font-normal whitespace-nowrap">heard</th>
            <th className="pl-2 font-normal">tracks</th>
            <th className="pl-2 font-normal" title="In the count-in or after the stretch: kept in the take">
              outside
            </th>
            <th
              className="pl-2 font-normal"
              title="On a channel or key that no armed track hears: kept in the take"
            >
              nowhere
            </th>
          </tr>
        </thead>
        <tbody>
          {streams.map(({ portId, channel, heard, captured, outside, unrouted }) => (
            <tr key={`${channel} ${portId}`} className="text-right">
              <th className="max-w-[100px] truncate text-left font-normal">
                {streamName(project, { portId, channel })}
              </th>
              <td>{heard}</td>
              <td>{captured}</td>
              <td>{outside}</td>
              <td>{unrouted}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </details>
  )
}
