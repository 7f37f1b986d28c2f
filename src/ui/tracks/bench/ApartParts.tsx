import { Volume2 } from 'lucide-react'
import { keyName, mostLines, type Note, type NoteId } from '@/core/event/note'
import { asVoices, putOnTracks, tellLines } from '@/core/project/apart'
import { soundingNotes } from '@/core/project/create'
import type { Project, Track } from '@/core/project/schema'
import { voicesOf } from '@/core/project/voiceEdits'
import type { TakenApart, Way } from '@/core/separation/takeApart'
import { Button } from '../../controls/Button'
import { useSession } from '../../workspace/sessionContext'
import { selectTrack, viewStore } from '../../workspace/viewStore'
import { handSplit } from '../handSplit'
import { lineThread } from '../strands'
import { DoubtWalk } from './DoubtWalk'

/** The parts that notes would be taken apart into: heard one by one, put on tracks, or told as voices and staves. */
export function ApartParts({
  track,
  project,
  notes,
  apart,
  by,
  onDone,
}: {
  track: Track
  project: Project
  notes: readonly Note[]
  apart: TakenApart
  by: Way['by']
  /** Called before the bench closes because it was done. */
  onDone: () => void
}) {
  const session = useSession()
  const apply = session.store.getState().apply
  const { parts, unsure } = apart
  const idsOf = (members: readonly number[]) => new Set(members.map((member) => notes[member]!.id))
  const hear = (name: string, members: readonly number[]) => {
    const own = members.map((member) => notes[member]!)
    const startTicks = own[0]!.onsetTicks
    const endTicks = own.reduce((end, note) => Math.max(end, note.onsetTicks + note.durationTicks), 0)
    void session.hearAlone(name, new Map([[track.id, idsOf(members)]]), { startTicks, endTicks })
  }
  const isDrums = track.instrument.kind === 'drums'
  const isDivided = parts.length > 1
  const isVoices = by === 'voice' || by === 'line'
  const tooMany = parts.length > mostLines
  const onTracks = () => {
    let made: readonly string[] = []
    const doubtful = unsure.map((index) => notes[index]!.id)
    let carried: ReadonlyMap<NoteId, NoteId> = new Map()
    const isDone = apply(`take “${track.name}” apart`, (before) => {
      const done = putOnTracks(
        before,
        track.id,
        parts.map(({ name, members }) => ({ name, noteIds: idsOf(members) })),
      )
      made = done.trackIds
      carried = done.carried
      return done.project
    })
    if (!isDone || !made[0]) return
    onDone()
    session.notify(
      `${notes.length.toLocaleString('en')} notes are on ${made.length} tracks now; ${track.name} rests and comes back with one press.`,
    )
    selectTrack(made[0])
    viewStore.setState({
      bench: null,
      partition: null,
      doubtful: doubtful.flatMap((id) => carried.get(id) ?? []),
    })
  }
  const inPart = () => {
    const isOnTwo = by !== 'hand' && handSplit(track, project.scoreSettings.splitKey) !== null
    const lines =
      by === 'hand'
        ? parts.map(({ name, members }) => ({
            noteIds: idsOf(members),
            staff: name === 'right hand' ? (1 as const) : (2 as const),
          }))
        : asVoices(notes, parts, isOnTwo)
    const isDone = apply(`tell the ${by === 'hand' ? 'hands' : 'voices'} of “${track.name}”`, (before) =>
      tellLines(before, track.id, lines),
    )
    if (!isDone) return
    onDone()
    const told = by === 'hand' ? 'two staves' : `${lines.length} ${lines.length === 1 ? 'voice' : 'voices'}`
    session.notify(`${notes.length.toLocaleString('en')} notes are in ${told} of ${track.name} now.`)
    viewStore.setState({ bench: null, partition: null })
  }
  return (
    <>
      <ul className="space-y-1" aria-label="Parts">
        {parts.map(({ name, members, voice }, index) => {
          const { colour } = lineThread(track.thread, voice ? voice - 1 : index)
          const keys = members.map((member) => notes[member]!.key)
          const [low, high] = [keys.reduce((a, b) => Math.min(a, b)), keys.reduce((a, b) => Math.max(a, b))]
          return (
            <li key={name} className="flex items-center gap-2 text-[13px]">
              <span
                className="inline-flex h-4 w-4 shrink-0 items-center justify-center rounded-sm text-[10px] font-bold text-white"
                style={{ background: colour }}
                aria-hidden
              >
                {voice ?? index + 1}
              </span>
              <span className="min-w-0 flex-1 truncate font-semibold">{name}</span>
              <span className="text-[12px] whitespace-nowrap text-soft">
                {members.length.toLocaleString('en')}
                {!isDrums && ` · ${low === high ? keyName(low) : `${keyName(low)}–${keyName(high)}`}`}
              </span>
              <Button
                look="quiet"
                className="px-1 py-0.5"
                aria-label={`Hear ${name} alone`}
                title="Hear it alone"
                onClick={() => hear(name, members)}
              >
                <Volume2 size={14} aria-hidden />
              </Button>
            </li>
          )
        })}
      </ul>
      {!isDivided && (
        <p role="status" className="text-soft">
          {parts[0]
            ? `All of it is one part: ${parts[0].name}. There is nothing to divide this way.`
            : 'There is nothing to divide.'}
        </p>
      )}
      <DoubtWalk track={track} />
      <div className="flex flex-col gap-1.5 pt-1">
        <Button look="main" className="justify-center" disabled={!isDivided} onClick={onTracks}>
          Put on {parts.length} tracks
        </Button>
        {(isVoices || by === 'hand') && (
          <Button
            className="justify-center"
            disabled={tooMany || (by === 'hand' && !isDivided)}
            onClick={inPart}
          >
            {by === 'hand' ? 'Write on two staves of this part' : 'Keep as voices of this part'}
          </Button>
        )}
      </div>
      {voicesOf(soundingNotes(track)).length > 0 && by === 'voice' && (
        <p className="text-[12px] text-soft">Notes that were put into a voice by hand stay there.</p>
      )}
    </>
  )
}
