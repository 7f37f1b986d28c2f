import { ChevronLeft, ChevronRight, Volume2 } from 'lucide-react'
import { useEffect, useMemo, useState } from 'react'
import { keyName, mostLines, type NoteId, parseKeyName } from '@/core/event/note'
import { asVoices, notesInScope, putOnTracks, type Scope, tellLines } from '@/core/project/apart'
import { soundingNotes } from '@/core/project/create'
import type { Project, Track } from '@/core/project/schema'
import { voicesOf } from '@/core/project/voiceEdits'
import type { TakenApart, Way } from '@/core/separation/takeApart'
import { mostTogether } from '@/core/separation/voices/voiceCount'
import { Button } from '../../controls/Button'
import { Choice } from '../../controls/Choice'
import { NumberField } from '../../controls/NumberField'
import { Tick } from '../../controls/Tick'
import { useSession, useView } from '../../workspace/sessionContext'
import { selectNotes, selectTrack, viewStore } from '../../workspace/viewStore'
import { handSplit } from '../handSplit'
import { lineThread } from '../strands'

/** What is typed further takes the place of what was asked: so long is waited for it. */
const waitMs = 30

/** The ways, and what is said of each. */
const ways: readonly { readonly by: Way['by']; readonly text: string; readonly says: string }[] = [
  {
    by: 'voice',
    text: 'by voice',
    says: 'the lines of a chorale, a fugue or a right hand, told by listening',
  },
  { by: 'hand', text: 'by hand', says: 'left and right, by a split that moves with the hands' },
  { by: 'line', text: 'by line', says: 'melody, bass, and what lies between' },
  { by: 'key', text: 'by key range', says: 'at one key or several' },
  { by: 'channel', text: 'by channel', says: 'as the notes were sent' },
  { by: 'source', text: 'by player', says: 'who played each note' },
  { by: 'drum', text: 'by drum', says: 'what belongs to one instrument stays together' },
  { by: 'force', text: 'by force', says: 'ghost notes from main strokes' },
  { by: 'told', text: 'as it is told', says: 'by the voices the notes have now' },
]

type Settings = {
  readonly voices: number
  readonly isCounted: boolean
  readonly keys: string
  readonly isEachKey: boolean
  readonly underVelocity: number
}

/** Takes what one player played apart: seen and heard before it is done. */
export function ApartBench({ track, project }: { track: Track; project: Project }) {
  const session = useSession()
  const selected = useView((state) => state.noteIds)
  const isDrums = track.instrument.kind === 'drums'
  const [by, setBy] = useState<Way['by']>(isDrums ? 'drum' : 'voice')
  const [settings, setSettings] = useState<Settings>({
    voices: 2,
    isCounted: true,
    keys: 'C4',
    isEachKey: false,
    underVelocity: 45,
  })
  const [wanted, setWanted] = useState<'track' | 'stretch' | 'notes'>('track')
  const { stretch } = project.recording
  /** What was selected when that was chosen: walking through notes in doubt selects others. */
  const [meant, setMeant] = useState<ReadonlySet<NoteId>>(selected)
  const kind =
    (wanted === 'stretch' && !stretch) || (wanted === 'notes' && meant.size === 0) ? 'track' : wanted
  const scope = useMemo((): Scope => {
    if (kind === 'stretch') return { kind, stretch: stretch! }
    return kind === 'notes' ? { kind, noteIds: meant } : { kind }
  }, [kind, stretch, meant])
  const notes = useMemo(() => notesInScope(track, scope), [track, scope])
  const way = useMemo(() => wayOf(by, settings), [by, settings])
  const [result, setResult] = useState<TakenApart | 'working' | { readonly problem: string }>('working')

  useEffect(() => {
    if (notes.length === 0 || !way) return
    let isGone = false
    setResult('working')
    const wait = setTimeout(async () => {
      try {
        const apart = await session.takeApart(notes, way)
        if (!isGone) setResult(apart)
      } catch (error) {
        if (!isGone) setResult({ problem: error instanceof Error ? error.message : String(error) })
      }
    }, waitMs)
    return () => {
      isGone = true
      clearTimeout(wait)
    }
  }, [session, notes, way])

  const apart = typeof result === 'object' && 'parts' in result && notes.length > 0 ? result : null
  // The roll shows the parts in colours of their own, before anything is done.
  useEffect(() => {
    if (!apart || apart.parts.some(({ members }) => members.some((member) => member >= notes.length))) {
      viewStore.setState({ partition: null })
      return
    }
    const partOf = new Map<NoteId, number>()
    for (const [index, { members, voice }] of apart.parts.entries())
      for (const member of members) partOf.set(notes[member]!.id, voice ? voice - 1 : index)
    viewStore.setState({
      partition: { trackId: track.id, partOf },
      doubtful: apart.unsure.map((index) => notes[index]!.id),
    })
  }, [apart, notes, track.id])
  useEffect(() => () => viewStore.setState({ partition: null }), [])

  const set = (change: Partial<Settings>) => setSettings({ ...settings, ...change })
  const together = useMemo(() => mostTogether(notes), [notes])
  const says = ways.find((each) => each.by === by)!.says

  return (
    <section aria-label="Take apart" className="space-y-2.5">
      <Choice
        label="Take apart"
        value={by}
        options={ways.map(({ by: value, text }) => ({ value, text }))}
        onChange={setBy}
      />
      <p className="text-[12px] text-soft">{says}</p>
      {by === 'voice' && (
        <div className="flex flex-wrap items-center gap-3">
          <Tick isOn={settings.isCounted} onChange={(isCounted) => set({ isCounted })}>
            find how many
          </Tick>
          {!settings.isCounted && (
            <NumberField
              label="Voices"
              value={settings.voices}
              min={1}
              max={mostLines}
              className="w-10"
              onChange={(voices) => set({ voices })}
            />
          )}
        </div>
      )}
      {by === 'key' && (
        <label className="flex items-center gap-2">
          <span className="text-soft">Parts begin at</span>
          <input
            className={`w-28 rounded border bg-sheet px-1.5 py-0.5 font-semibold ${way ? 'border-rule' : 'border-live'}`}
            value={settings.keys}
            aria-invalid={!way}
            onChange={(event) => set({ keys: event.target.value })}
          />
        </label>
      )}
      {by === 'key' && !way && (
        <p className="text-[12px] text-live" role="alert">
          Keys by name, such as C4 or F♯3, with spaces between them.
        </p>
      )}
      {by === 'drum' && (
        <Tick isOn={settings.isEachKey} onChange={(isEachKey) => set({ isEachKey })}>
          each stroke for itself
        </Tick>
      )}
      {by === 'force' && (
        <NumberField
          label="Ghost notes are under velocity"
          value={settings.underVelocity}
          min={2}
          max={127}
          className="w-11"
          onChange={(underVelocity) => set({ underVelocity })}
        />
      )}
      <Choice
        label="Of it"
        value={kind}
        options={[
          { value: 'track' as const, text: 'the whole track' },
          ...(stretch ? [{ value: 'stretch' as const, text: 'the marked stretch' }] : []),
          ...(selected.size > 0 || kind === 'notes'
            ? [{ value: 'notes' as const, text: 'what is selected' }]
            : []),
        ]}
        onChange={(value) => {
          setMeant(selected)
          setWanted(value)
        }}
      />
      {notes.length === 0 ? (
        <p role="status" className="text-soft">
          {kind === 'track'
            ? 'There is no note on this track yet.'
            : 'No note begins there: there is nothing to take apart.'}
        </p>
      ) : result === 'working' && way ? (
        <p role="status" className="text-soft">
          Listening…
        </p>
      ) : typeof result === 'object' && 'problem' in result ? (
        <p role="alert" className="text-live">
          It could not be taken apart: {result.problem}. The track is as it was.
        </p>
      ) : (
        apart && (
          <>
            {by === 'voice' && !settings.isCounted && settings.voices > together && (
              <p className="text-[12px] text-soft">
                At no moment do more than {together} sound together: where one line would do, it is dealt out
                to more.
              </p>
            )}
            <Parts track={track} project={project} notes={notes} apart={apart} by={by} />
          </>
        )
      )}
    </section>
  )
}

function wayOf(by: Way['by'], settings: Settings): Way | null {
  switch (by) {
    case 'voice':
      return { by, voices: settings.isCounted ? 'found' : settings.voices }
    case 'key': {
      const keys = settings.keys
        .split(/[\s,;]+/)
        .filter(Boolean)
        .map(parseKeyName)
      return keys.length > 0 && keys.every((key) => key !== undefined)
        ? { by, atKeys: keys as number[] }
        : null
    }
    case 'drum':
      return { by, isEachKey: settings.isEachKey }
    case 'force':
      return { by, underVelocity: settings.underVelocity }
    default:
      return { by }
  }
}

function Parts({
  track,
  project,
  notes,
  apart,
  by,
}: {
  track: Track
  project: Project
  notes: ReturnType<typeof notesInScope>
  apart: TakenApart
  by: Way['by']
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
  const isVoices = by === 'voice' || by === 'line' || by === 'told'
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
      <DoubtWalk track={track} count={unsure.length} />
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

/** Goes through the notes whose line is in doubt, one by one. */
export function DoubtWalk({ track, count }: { track: Track; count: number }) {
  const doubtful = useView((state) => state.doubtful)
  const selected = useView((state) => state.noteIds)
  if (count === 0 || doubtful.length === 0) return null
  const present = new Set(soundingNotes(track).map(({ id }) => id))
  const own = doubtful.filter((id) => present.has(id))
  if (own.length === 0) return null
  const at = selected.size === 1 ? own.indexOf([...selected][0]!) : -1
  const go = (by: number) => {
    const next = at < 0 ? (by > 0 ? 0 : own.length - 1) : (at + by + own.length) % own.length
    selectNotes([own[next]!])
  }
  return (
    <fieldset className="flex items-center gap-1 text-[13px]" aria-label="Notes in doubt">
      <span className="min-w-0 flex-1">
        {own.length === 1 ? 'One note is' : `${own.length.toLocaleString('en')} notes are`} in doubt
        {at >= 0 && <span className="text-soft">, this is {at + 1}</span>}
      </span>
      <Button look="quiet" className="px-1 py-0.5" aria-label="The one before" onClick={() => go(-1)}>
        <ChevronLeft size={15} aria-hidden />
      </Button>
      <Button look="quiet" className="px-1 py-0.5" aria-label="The next in doubt" onClick={() => go(1)}>
        <ChevronRight size={15} aria-hidden />
      </Button>
    </fieldset>
  )
}
