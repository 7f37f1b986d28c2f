import { Plus } from 'lucide-react'
import { DropdownMenu } from 'radix-ui'
import type { ReactNode } from 'react'
import { activeSlots, type EffectSlot } from '@/core/effects/catalogue'
import type { GeneratorKind } from '@/core/generators/generator'
import { addGenerator, generatorTitles } from '@/core/project/generatorCommands'
import { hasEffects } from '@/core/project/printing'
import type { Project } from '@/core/project/schema'
import { tracksOf } from '@/core/routing/wiring'
import { Button } from '../controls/Button'
import { threadOf } from '../theme/threads'
import { useProject, useSession, useView } from '../workspace/sessionContext'
import { selectTrack, selectWorkplace } from '../workspace/viewStore'
import { GeneratorPlace } from './GeneratorPlace'
import { SourcePlace } from './SourcePlace'
import { TrackPlace } from './TrackPlace'

/** Note effects of tracks and players, and generators: what goes in, what comes out, and printing the result as notes. */
export function EffectsView() {
  const project = useProject()
  const workplace = useView((state) => state.workplace)
  const trackId = useView((state) => state.trackId)
  const track = project.tracks.find((candidate) => candidate.id === trackId) ?? project.tracks[0]
  const source = workplace?.kind === 'source' && project.sources.find((each) => each.id === workplace.id)
  const generator =
    workplace?.kind === 'generator' && project.generators.find((each) => each.id === workplace.id)
  const isTrack = !source && !generator
  return (
    <div className="grid h-full grid-cols-[230px_minmax(0,1fr)]">
      <nav aria-label="Tracks with effects" className="overflow-y-auto border-r border-rule py-2">
        <Heading>On tracks: played stays, effects live</Heading>
        <ul>
          {project.tracks.map((each) => (
            <Place
              key={each.id}
              name={each.name}
              state={
                hasEffects(each)
                  ? chainWords(each.effects)
                  : each.effects.length > 0
                    ? each.doEffectsRest
                      ? 'effects rest'
                      : 'effects off'
                    : each.printedFromTrackId
                      ? 'printed notes'
                      : 'as played'
              }
              colour={threadOf(each.thread).colour}
              isCurrent={isTrack && each.id === track?.id}
              onClick={() => selectTrack(each.id)}
            />
          ))}
        </ul>
        <Heading>On players: the result is recorded</Heading>
        <ul>
          {project.sources
            .filter((each) => each.kind !== 'generator' || each.effects.length > 0)
            .map((each) => (
              <Place
                key={each.id}
                name={each.name}
                state={
                  activeSlots(each.effects).length > 0 ? chainWords(each.effects) : 'straight to the track'
                }
                colour={threadOf(tracksOf(project, each)[0]?.thread ?? 7).colour}
                isCurrent={source !== false && source?.id === each.id}
                onClick={() => selectWorkplace('source', each.id)}
              />
            ))}
        </ul>
        <Heading>Generators</Heading>
        <ul>
          {project.generators.map((each) => (
            <Place
              key={each.id}
              name={each.name}
              state={each.isPlaying ? 'plays along' : 'rests'}
              colour={generatorColour(project, each.id)}
              isCurrent={generator !== false && generator?.id === each.id}
              onClick={() => selectWorkplace('generator', each.id)}
            />
          ))}
        </ul>
        <NewGenerator />
      </nav>
      {generator ? (
        <GeneratorPlace key={generator.id} generator={generator} project={project} />
      ) : source ? (
        <SourcePlace source={source} project={project} />
      ) : track ? (
        <TrackPlace track={track} project={project} />
      ) : (
        <p className="p-8 text-soft">
          No tracks yet: an effect needs notes to work on. A generator makes its own; begin one on the left.
        </p>
      )}
    </div>
  )
}

function chainWords(slots: readonly EffectSlot[]): string {
  const count = activeSlots(slots).length
  return `${count} ${count === 1 ? 'effect' : 'effects'} on`
}

function generatorColour(project: Project, generatorId: string): string {
  const source = project.sources.find((each) => each.address.portId === `generator:${generatorId}`)
  return threadOf((source && tracksOf(project, source)[0]?.thread) ?? 7).colour
}

function Heading({ children }: { children: ReactNode }) {
  return <h2 className="mt-2 px-4 pb-0.5 text-[11px] font-semibold text-soft">{children}</h2>
}

function Place({
  name,
  state,
  colour,
  isCurrent,
  onClick,
}: {
  name: string
  state: string
  colour: string
  isCurrent: boolean
  onClick: () => void
}) {
  return (
    <li>
      <button
        type="button"
        aria-current={isCurrent ? 'true' : undefined}
        onClick={onClick}
        className={`w-full px-4 py-1.5 text-left ${isCurrent ? 'bg-desk' : 'hover:bg-desk'}`}
        style={{ borderLeft: `5px solid ${colour}` }}
      >
        <span className="block truncate font-serif text-[15px] leading-5 font-semibold">{name}</span>
        <span className="block text-[12px] text-soft">{state}</span>
      </button>
    </li>
  )
}

function NewGenerator() {
  const session = useSession()
  const add = (kind: GeneratorKind) => {
    let id = ''
    session.store.getState().apply(`begin ${generatorTitles[kind].title.toLowerCase()}`, (before) => {
      const { project, generator } = addGenerator(before, kind)
      id = generator.id
      return project
    })
    selectWorkplace('generator', id)
  }
  return (
    <div className="px-4 py-2">
      <DropdownMenu.Root>
        <DropdownMenu.Trigger asChild>
          <Button className="w-full justify-center">
            <Plus size={15} aria-hidden /> New generator
          </Button>
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="start"
            className="z-30 w-80 rounded-lg border border-[#b9ad93] bg-sheet p-1.5 shadow-lg"
          >
            {(Object.keys(generatorTitles) as GeneratorKind[]).map((kind) => (
              <DropdownMenu.Item
                key={kind}
                className="cursor-pointer rounded-md px-3 py-1.5 outline-none data-[highlighted]:bg-desk"
                onSelect={() => add(kind)}
              >
                <span className="block font-semibold">{generatorTitles[kind].title}</span>
                <span className="block text-[12px] text-soft">{generatorTitles[kind].says}</span>
              </DropdownMenu.Item>
            ))}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
    </div>
  )
}
