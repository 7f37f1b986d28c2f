import { useEffect, useMemo, useRef, useState } from 'react'
import { mostLines, type Note, type NoteId, parseKeyName } from '@/core/event/note'
import { notesInScope, type Scope } from '@/core/project/apart'
import type { Project, Track } from '@/core/project/schema'
import type { TakenApart, Way } from '@/core/separation/takeApart'
import { mostTogether } from '@/core/separation/voices/voiceCount'
import { Choice } from '../../controls/Choice'
import { NumberField } from '../../controls/NumberField'
import { Tick } from '../../controls/Tick'
import { useSession, useView } from '../../workspace/sessionContext'
import { viewStore } from '../../workspace/viewStore'
import { ApartParts } from './ApartParts'

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

/** What came of taking notes apart in a way, or why nothing did. */
type Answer = { readonly notes: readonly Note[]; readonly way: Way } & (
  | { readonly apart: TakenApart }
  | { readonly problem: string }
)

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
  const [answer, setAnswer] = useState<Answer | null>(null)

  useEffect(() => {
    if (notes.length === 0 || !way) return
    let isGone = false
    const wait = setTimeout(async () => {
      try {
        const apart = await session.takeApart(notes, way)
        if (!isGone) setAnswer({ notes, way, apart })
      } catch (error) {
        const problem = error instanceof Error ? error.message : String(error)
        if (!isGone) setAnswer({ notes, way, problem })
      }
    }, waitMs)
    return () => {
      isGone = true
      clearTimeout(wait)
    }
  }, [session, notes, way])

  // An answer is about the notes and the way it was asked for: to others it says nothing.
  const result = answer?.notes === notes && answer.way === way ? answer : null
  const apart = result && 'apart' in result && notes.length > 0 ? result.apart : null
  /** What was shown is done: the notes in doubt stay marked. */
  const isDone = useRef(false)
  // The roll shows the parts in colours of their own, before anything is done.
  useEffect(() => {
    if (!apart) {
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
  useEffect(() => () => viewStore.setState({ partition: null, ...(!isDone.current && { doubtful: [] }) }), [])

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
      ) : !result && way ? (
        <p role="status" className="text-soft">
          Listening…
        </p>
      ) : result && 'problem' in result ? (
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
            <ApartParts
              track={track}
              project={project}
              notes={notes}
              apart={apart}
              by={by}
              onDone={() => {
                isDone.current = true
              }}
            />
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
