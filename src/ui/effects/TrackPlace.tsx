import { useMemo, useState } from 'react'
import { addressedChannels } from '@/core/effects/address/channels'
import type { EffectSlot } from '@/core/effects/catalogue'
import { changeTrack } from '@/core/project/commands'
import { contextOf } from '@/core/project/context'
import { soundingNotes } from '@/core/project/create'
import { bringBack, familyOf, hearInTurn } from '@/core/project/madeFrom'
import { hasEffects, printTracks, resultOf, takeAndRepeat } from '@/core/project/printing'
import type { Project, Track } from '@/core/project/schema'
import { setTrack } from '@/core/project/settings'
import { Button } from '../controls/Button'
import { ColumnHeading } from '../controls/Choice'
import { NumberFields } from '../controls/NumberFields'
import { Tick } from '../controls/Tick'
import { threadOf } from '../theme/threads'
import { useSession } from '../workspace/sessionContext'
import { goTo, selectTrack } from '../workspace/viewStore'
import { ChainEditor } from './ChainEditor'
import { SourceAndResult } from './SourceAndResult'
import { useFlows } from './useFlows'

/** The effects of a track, what they make of it, and what was printed. */
export function TrackPlace({ track, project }: { track: Track; project: Project }) {
  const session = useSession()
  const apply = session.store.getState().apply
  const source = soundingNotes(track)
  const context = contextOf(project)
  const family = familyOf(project, track.id)
  const isPrinted = track.madeFrom?.by === 'printing'
  const printedTracks = family?.by === 'printing' && !isPrinted ? family.made : []
  const sourceTrack = family && isPrinted ? family.sources[0] : undefined
  const isAtWork = hasEffects(track)
  const preview = useMemo(() => {
    if (track.effects.length === 0) return null
    const slots =
      isAtWork || track.doEffectsRest ? track.effects : track.effects.map((slot) => ({ ...slot, isOn: true }))
    return resultOf({ ...track, effects: slots, doEffectsRest: false }, context, 1)
  }, [track, isAtWork, context])
  const flows = useFlows(track.effects, source, context)
  const change = (
    label: string,
    next: (slots: readonly EffectSlot[]) => readonly EffectSlot[],
    group?: string,
  ) =>
    apply(
      label,
      (before) => changeTrack(before, track.id, (old) => ({ ...old, effects: next(old.effects) })),
      group && `${track.id} ${group}`,
    )

  return (
    <div className="min-w-0 overflow-y-auto px-6 py-3">
      <ColumnHeading
        end={
          <span className="text-[12px] text-soft">
            {sourceTrack
              ? 'ordinary notes: edit, engrave and deliver them like any others'
              : 'what is played stays as it is; the effects are heard live'}
          </span>
        }
      >
        {track.name}
      </ColumnHeading>
      {track.effectChanges.length > 0 && (
        <p
          className="mb-2 flex items-center justify-between gap-3 rounded-md border border-rule border-l-4 border-l-verdigris bg-sheet px-3 py-1 text-[13px]"
          role="status"
        >
          The effects were changed {track.effectChanges.length}{' '}
          {track.effectChanges.length === 1 ? 'time' : 'times'} while they played; that is part of the
          performance.
          <Button
            className="px-2 py-0.5 text-[12px]"
            onClick={() =>
              apply('forget the changes', (before) => setTrack(before, track.id, { effectChanges: [] }))
            }
          >
            Forget the changes
          </Button>
        </p>
      )}
      {!sourceTrack && (
        <ChainEditor
          slots={track.effects}
          owner={track.name}
          place={{ trackId: track.id }}
          flows={flows}
          onChange={change}
        />
      )}
      {isAtWork && source.length > 0 && preview && (
        <PrintBar track={track} project={project} count={preview.notes.length} leftOut={preview.leftOut} />
      )}
      {printedTracks.length > 0 ? (
        <PrintedFromHere track={track} printed={printedTracks} />
      ) : (
        track.doEffectsRest && <EffectsRest track={track} />
      )}
      {sourceTrack && <PrintedHere track={track} source={sourceTrack} project={project} />}
      {(sourceTrack || (preview && source.length > 0)) && (
        <SourceAndResult
          source={sourceTrack ? soundingNotes(sourceTrack) : source}
          result={sourceTrack ? source : preview!.notes}
          sourceThread={threadOf((sourceTrack ?? track).thread)}
          resultThread={threadOf(sourceTrack ? track.thread : project.tracks.length)}
          resultTitle={sourceTrack ? 'printed' : isAtWork ? 'what comes out' : 'what would come out'}
        />
      )}
      {preview && source.length === 0 && !sourceTrack && (
        <p className="mt-3 text-soft">
          Nothing is recorded on this track yet. Play, and each effect shows what goes in and what comes out.
        </p>
      )}
      {!preview && !sourceTrack && (
        <p className="mt-3 max-w-2xl text-soft">
          Effects change the notes on their way: while you play on this track and from what is recorded on it.
          When you like what you hear, print it: the result becomes ordinary notes on a track of its own.
        </p>
      )}
    </div>
  )
}

function PrintBar({
  track,
  project,
  count,
  leftOut,
}: {
  track: Track
  project: Project
  count: number
  leftOut: number
}) {
  const session = useSession()
  const [isSplit, setSplit] = useState(false)
  const [isOnlyStretch, setOnlyStretch] = useState(false)
  const { stretch } = project.recording
  const others = project.tracks.filter((each) => each.id !== track.id && hasEffects(each))
  const deals = addressedChannels(track.effects) !== null
  const print = (trackIds: readonly string[], words: string) => {
    let printed: readonly string[] = []
    session.store.getState().apply(words, (before) => {
      const result = printTracks(before, trackIds, {
        stretch: isOnlyStretch ? before.recording.stretch : null,
        isSplit,
      })
      printed = result.printedTrackIds
      return result.project
    })
    if (printed[0]) selectTrack(printed[0])
  }
  return (
    <div className="mt-3 flex flex-wrap items-center gap-3 rounded-md border border-rule bg-sheet px-4 py-2 text-[13px]">
      <Button look="main" onClick={() => print([track.id], `print “${track.name}”`)}>
        Print {isOnlyStretch ? 'the stretch' : `${count} notes`}
      </Button>
      {others.length > 0 && (
        <Button onClick={() => print([track.id, ...others.map((each) => each.id)], 'print all chains')}>
          Print all {others.length + 1} chains
        </Button>
      )}
      <Tick isOn={isSplit} onChange={setSplit}>
        each {deals ? 'voice' : 'channel'} on a track of its own
      </Tick>
      {stretch && (
        <Tick isOn={isOnlyStretch} onChange={setOnlyStretch}>
          only the marked stretch
        </Tick>
      )}
      {leftOut > 0 && (
        <span className="text-live" role="alert">
          This chain multiplies without end: {leftOut.toLocaleString('en')} notes beyond 1,000 to the quarter
          are left out.
        </span>
      )}
    </div>
  )
}

function PrintedFromHere({ track, printed }: { track: Track; printed: readonly Track[] }) {
  const names = printed.map((each) => `“${each.name}”`).join(', ')
  return (
    <div
      className="mt-3 space-y-2 rounded-md border border-rule border-l-4 border-l-verdigris bg-sheet px-4 py-2 text-[13px]"
      role="status"
    >
      <p>
        {track.isMuted
          ? `${track.name} rests, and its effects rest too: what they made is now notes on ${names}.`
          : `${names} ${printed.length === 1 ? 'was' : 'were'} printed from here.${track.doEffectsRest ? ' The effects rest.' : ''}`}
      </p>
      <div className="flex flex-wrap items-center gap-2">
        <Compare sourceId={track.id} isSourceHeard={!track.isMuted} />
        <Button onClick={() => selectTrack(printed[0]!.id)}>Go to the printed notes</Button>
        <BringBack sourceId={track.id} />
      </div>
    </div>
  )
}

/** What was printed is gone, and the effects would stay silent without a word. */
function EffectsRest({ track }: { track: Track }) {
  return (
    <div
      className="mt-3 flex items-center gap-2 rounded-md border border-rule border-l-4 border-l-verdigris bg-sheet px-4 py-2 text-[13px]"
      role="status"
    >
      <span className="mr-auto">
        The effects of {track.name} rest: {track.isMuted ? 'neither it nor they are' : 'they are not'} heard.
      </span>
      <BringBack sourceId={track.id} />
    </div>
  )
}

const repeatSettings = [
  { name: 'first', label: 'Take bars', min: 1, max: 9999 },
  { name: 'last', label: 'to', min: 1, max: 9999 },
  { name: 'times', label: 'and play them', unit: 'times', min: 1, max: 200 },
] as const

function PrintedHere({ track, source, project }: { track: Track; source: Track; project: Project }) {
  const session = useSession()
  const context = contextOf(project)
  const [bars, setBars] = useState({ first: 1, last: 4, times: 2 })
  const { first, last, times } = bars
  return (
    <div
      className="mt-1 space-y-2 rounded-md border border-rule border-l-4 border-l-verdigris bg-sheet px-4 py-2 text-[13px]"
      role="status"
    >
      <p>These notes were printed from {source.name}. Each line below leads to the note it came from.</p>
      <div className="flex flex-wrap items-center gap-2">
        <Compare sourceId={source.id} isSourceHeard={!source.isMuted} />
        <Button onClick={() => selectTrack(source.id)}>Go to {source.name}</Button>
        <BringBack sourceId={source.id} />
        <Button onClick={() => goTo('tracks')}>Edit the notes</Button>
      </div>
      <div className="flex flex-wrap items-center gap-2">
        <NumberFields
          settings={repeatSettings}
          values={bars}
          onChange={(name, value) =>
            setBars({
              ...bars,
              ...(name === 'first' && { last: Math.max(value, bars.last) }),
              ...(name === 'last' && { first: Math.min(value, bars.first) }),
              [name]: value,
            })
          }
        />
        <Button
          className="px-2 py-0.5"
          onClick={() => {
            const { startTicks } = context.meterMap.measure(first - 1)
            const end = context.meterMap.measure(last - 1)
            session.store
              .getState()
              .apply(`take bars ${first} to ${last}`, (before) =>
                takeAndRepeat(
                  before,
                  track.id,
                  { startTicks, endTicks: end.startTicks + end.lengthTicks },
                  times,
                ),
              )
          }}
        >
          Take and repeat
        </Button>
      </div>
    </div>
  )
}

function Compare({ sourceId, isSourceHeard }: { sourceId: string; isSourceHeard: boolean }) {
  const session = useSession()
  const hear = (which: 'sources' | 'made') =>
    session.store
      .getState()
      .apply(which === 'sources' ? 'hear the source' : 'hear the printed notes', (before) =>
        hearInTurn(before, sourceId, which),
      )
  return (
    <>
      <Button aria-pressed={isSourceHeard} onClick={() => hear('sources')}>
        Hear the source
      </Button>
      <Button aria-pressed={!isSourceHeard} onClick={() => hear('made')}>
        Hear the print
      </Button>
    </>
  )
}

function BringBack({ sourceId }: { sourceId: string }) {
  const session = useSession()
  return (
    <Button
      onClick={() =>
        session.store.getState().apply('bring the effect back', (before) => bringBack(before, sourceId))
      }
    >
      Bring the effects back
    </Button>
  )
}
