import { useMemo } from 'react'
import { addressedChannels } from '@/core/effects/address/channels'
import type { EffectSlot } from '@/core/effects/catalogue'
import type { Note } from '@/core/event/note'
import { endOf, generatorPortId } from '@/core/generators/generator'
import { contextOf } from '@/core/project/context'
import { generatedNotes } from '@/core/project/printing'
import type { Keeps, Project, Source } from '@/core/project/schema'
import { setRecording, setSource } from '@/core/project/settings'
import { lostVoices, seatVoices, voicesWithoutTrack } from '@/core/wiring/dealtVoices'
import { tracksOf } from '@/core/wiring/reaching'
import { Button } from '../controls/Button'
import { Choice, ColumnHeading } from '../controls/Choice'
import { useSession } from '../workspace/sessionContext'
import { ChainEditor } from './ChainEditor'
import { useFlows } from './useFlows'

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
  const context = contextOf(project)
  const generator = project.generators.find(({ id }) => generatorPortId(id) === source.address.portId)
  // Of a generator it is known beforehand what goes in; of a player it is seen when it comes.
  const goesIn = useMemo(() => {
    if (!generator) return none
    const endTicks = endOf(generator, context) ?? context.meterMap.measure(barsAhead).startTicks
    const notes = generatedNotes(generator, context, { startTicks: 0, endTicks }, 1)
    return notes.filter((note) => note.channel === source.address.channel)
  }, [generator, context, source.address.channel])
  const lost = lostVoices(project, source)
  const areVoicesDealt = (addressedChannels(source.effects) ?? []).length > 1
  const isSeatMissing = lost.length > 0 || (areVoicesDealt && voicesWithoutTrack(project, source).length > 0)
  const flows = useFlows(source.effects, goesIn, context)
  const change = (
    label: string,
    next: (slots: readonly EffectSlot[]) => readonly EffectSlot[],
    group?: string,
  ) =>
    apply(
      label,
      (before) => setSource(before, source.id, { effects: [...next(effectsNow(before, source.id))] }),
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
            onChange={(keeps) => apply('what recordings keep', (before) => setRecording(before, { keeps }))}
          />
        }
      >
        {source.name}
      </ColumnHeading>
      <p className="mb-2 max-w-3xl text-[13px] text-soft">
        Whatever {source.name} plays passes these on its way
        {heardBy.length > 0 ? ` to ${heardBy.map((track) => track.name).join(', ')}` : ''}. A take always
        keeps what was played too: under Record, each take can be brought back as played or with its effects.
        {source.effects.length > 0 &&
          !generator &&
          ' Play, and each effect shows what goes in and comes out.'}
      </p>
      <ChainEditor
        slots={source.effects}
        owner={source.name}
        place={source.address}
        flows={flows}
        onChange={change}
      />
      {isSeatMissing && (
        <div
          className="mt-3 flex items-center gap-3 rounded-md border border-rule border-l-4 border-l-verdigris bg-sheet px-4 py-2 text-[13px]"
          role="status"
        >
          <span className="mr-auto">
            {lost.length === 0
              ? 'The voices dealt here share a track.'
              : lost.length === 1
                ? 'One of the voices dealt here reaches no track yet.'
                : `${lost.length} of the voices dealt here reach no track yet.`}
          </span>
          <Button
            onClick={() =>
              apply(`a track for each voice of ${source.name}`, (before) => seatVoices(before, source))
            }
          >
            A track for each voice
          </Button>
        </div>
      )}
    </div>
  )
}

const none: readonly Note[] = []

/** So far a generator without end is looked at. */
const barsAhead = 64

function effectsNow(project: Project, sourceId: string): readonly EffectSlot[] {
  return project.sources.find(({ id }) => id === sourceId)?.effects ?? []
}
