import type { EffectSlot } from '@/core/effects/catalogue'
import { contextOf } from '@/core/project/context'
import { soundingNotes } from '@/core/project/create'
import type { Keeps, Project, Source } from '@/core/project/schema'
import { tracksOf } from '@/core/routing/wiring'
import { Choice, ColumnHeading } from '../controls/Choice'
import { useSession } from '../workspace/sessionContext'
import { ChainEditor } from './ChainEditor'
import { useFlows } from './TrackPlace'

const keepsOptions: readonly { value: Keeps; text: string }[] = [
  { value: 'result', text: 'their result' },
  { value: 'played', text: 'what was played' },
  { value: 'both', text: 'both' },
]

/** The effects between a player and the tracks: their result is what is recorded. */
export function SourcePlace({ source, project }: { source: Source; project: Project }) {
  const session = useSession()
  const apply = session.store.getState().apply
  const heardBy = tracksOf(project, source)
  // What this player's track holds now shows what the effects would make of such playing.
  const flows = useFlows(source.effects, heardBy[0] ? soundingNotes(heardBy[0]) : none, contextOf(project))
  const change = (
    label: string,
    next: (slots: readonly EffectSlot[]) => readonly EffectSlot[],
    group?: string,
  ) =>
    apply(
      label,
      (before) => ({
        ...before,
        sources: before.sources.map((old) =>
          old.id === source.id ? { ...old, effects: [...next(old.effects)] } : old,
        ),
      }),
      group && `${source.id} ${group}`,
    )
  return (
    <div className="min-w-0 overflow-y-auto px-6 py-3">
      <ColumnHeading
        end={
          <Choice
            label="Recordings keep, of effects on players,"
            value={project.recording.keeps}
            options={keepsOptions}
            onChange={(keeps) =>
              apply('what recordings keep', (before) => ({
                ...before,
                recording: { ...before.recording, keeps },
              }))
            }
          />
        }
      >
        {source.name}
      </ColumnHeading>
      <p className="mb-2 max-w-3xl text-[13px] text-soft">
        Whatever {source.name} plays passes these on its way
        {heardBy.length > 0 ? ` to ${heardBy.map((track) => track.name).join(', ')}` : ''}. A take always
        keeps what was played too: under Record, each take can be brought back as played or with its effects.
        Voices dealt to other channels go to the tracks that hear those channels of this port.
      </p>
      <ChainEditor
        slots={source.effects}
        owner={source.name}
        place={source.address}
        flows={flows}
        onChange={change}
      />
    </div>
  )
}

const none: ReturnType<typeof soundingNotes> = []
