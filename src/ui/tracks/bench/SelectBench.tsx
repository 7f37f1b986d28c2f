import { Repeat2, Volume2 } from 'lucide-react'
import { useState } from 'react'
import { type Criterion, selectBy } from '@/core/editing/selecting'
import type { NoteId } from '@/core/event/note'
import { contextOf } from '@/core/project/context'
import { soundingNotes } from '@/core/project/create'
import type { Project, Track } from '@/core/project/schema'
import { voicesOf } from '@/core/project/voiceEdits'
import { Button } from '../../controls/Button'
import { Choice } from '../../controls/Choice'
import { NumberField } from '../../controls/NumberField'
import { Tick } from '../../controls/Tick'
import { useView } from '../../workspace/sessionContext'
import { selectNotes, viewStore } from '../../workspace/viewStore'
import { useNoteEdits } from '../useNoteEdits'

const kinds = {
  keys: 'all of the selected keys',
  stretch: 'in the marked stretch',
  voice: 'of a voice',
  quieter: 'quieter than',
  louder: 'louder than',
  shorter: 'shorter than',
  every: 'every n-th',
  others: 'all the others',
  all: 'everything',
} as const

type Kind = keyof typeof kinds

const numbers: Partial<
  Record<
    Kind,
    {
      readonly label: string
      readonly min: number
      readonly max: number
      readonly start: number
      readonly unit?: string
    }
  >
> = {
  voice: { label: 'voice', min: 0, max: 8, start: 1 },
  quieter: { label: 'velocity', min: 2, max: 127, start: 30 },
  louder: { label: 'velocity', min: 1, max: 126, start: 100 },
  shorter: { label: '', min: 1, max: 10_000, start: 60, unit: 'ms' },
  every: { label: 'n', min: 2, max: 64, start: 2 },
}

/** Which notes are meant: by what they are, in this track or in all; heard alone, once or over and over. */
export function SelectBench({ track, project }: { track: Track; project: Project }) {
  const selected = useView((state) => state.noteIds)
  const areOthersShown = useView((state) => state.areOthersShown)
  const [kind, setKind] = useState<Kind>('quieter')
  const [values, setValues] = useState<Partial<Record<Kind, number>>>({})
  const [isEverywhere, setEverywhere] = useState(false)
  const [isWithin, setWithin] = useState(false)
  const edits = useNoteEdits(track)
  const tracks = isEverywhere ? project.tracks : [track]
  const field = numbers[kind]
  const value = values[kind] ?? field?.start ?? 0
  const among = isWithin && selected.size > 0 ? selected : null

  const select = () => {
    const criterion = criterionOf(kind, value, tracks, selected, project)
    if (!criterion) return
    const { tempoMap } = contextOf(project)
    const within = kind === 'keys' ? null : kind === 'others' ? selected : among
    const ids = tracks.flatMap((each): NoteId[] => selectBy(soundingNotes(each), criterion, tempoMap, within))
    selectNotes(ids)
  }
  const voices = voicesOf(soundingNotes(track))
  return (
    <div className="space-y-1.5 text-[13px]">
      <div className="flex flex-wrap items-center gap-1.5">
        <Choice
          label="Select"
          isLabelHidden
          value={kind}
          options={(Object.keys(kinds) as Kind[])
            .filter((each) => each !== 'voice' || voices.length > 0 || kind === 'voice')
            .map((each) => ({ value: each, text: kinds[each] }))}
          onChange={setKind}
        />
        {field && (
          <NumberField
            label={field.label}
            unit={field.unit}
            value={value}
            min={field.min}
            max={field.max}
            className="w-11"
            onChange={(next) => setValues({ ...values, [kind]: next })}
          />
        )}
        <Button className="px-2 py-0.5" onClick={select}>
          Select
        </Button>
      </div>
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <Tick isOn={isWithin} onChange={setWithin}>
          of the selection
        </Tick>
        <Tick isOn={isEverywhere} onChange={setEverywhere}>
          in all tracks
        </Tick>
        <Tick isOn={areOthersShown} onChange={(isOn) => viewStore.setState({ areOthersShown: isOn })}>
          others behind
        </Tick>
      </div>
      <div className="flex items-center gap-1.5">
        <Button className="px-2 py-0.5" title="Shift and space" onClick={() => edits.hear()}>
          <Volume2 size={14} aria-hidden />{' '}
          {selected.size > 0 ? 'Hear the selection' : 'Hear the track alone'}
        </Button>
        <Button
          className="px-2 py-0.5"
          title="Over and over"
          aria-label="Hear it over and over"
          onClick={() => edits.hear(true)}
        >
          <Repeat2 size={14} aria-hidden />
        </Button>
      </div>
    </div>
  )
}

function criterionOf(
  kind: Kind,
  value: number,
  tracks: readonly Track[],
  selected: ReadonlySet<NoteId>,
  project: Project,
): Criterion | null {
  switch (kind) {
    case 'keys':
      return {
        by: kind,
        keys: new Set(
          tracks.flatMap((track) =>
            soundingNotes(track)
              .filter(({ id }) => selected.has(id))
              .map(({ key }) => key),
          ),
        ),
      }
    case 'voice':
      return { by: kind, voice: value === 0 ? null : value }
    case 'stretch':
      return project.recording.stretch && { by: kind, stretch: project.recording.stretch }
    case 'quieter':
    case 'louder':
      return { by: kind, thanVelocity: value }
    case 'shorter':
      return { by: kind, thanMs: value }
    case 'every':
      return { by: kind, nth: value }
    default:
      return { by: kind }
  }
}
