import { Plus } from 'lucide-react'
import { DropdownMenu } from 'radix-ui'
import type { ReactNode } from 'react'
import { activeSlots, type EffectSlot } from '@/core/effects/catalogue'
import type { GeneratorKind } from '@/core/generators/generator'
import { addGenerator, generatorTitles } from '@/core/project/generatorCommands'
import { hasEffects } from '@/core/project/printing'
import type { Project, Track } from '@/core/project/schema'
import { tracksOf } from '@/core/wiring/reaching'
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
  const voices = voicesOf(project)
  return (
    <div className="flex min-h-full flex-col lg:grid lg:h-full lg:grid-cols-[236px_minmax(0,1fr)]">
      <nav
        aria-label="Tracks with effects"
        className="flex max-h-[46vh] min-h-0 flex-col border-b border-rule lg:max-h-none lg:border-r lg:border-b-0"
      >
        <div className="min-h-0 flex-1 overflow-y-auto py-1">
          <ul>
            {voices.map(({ name, track: own, players }) => (
              <Voice
                key={own?.id ?? players[0]!.id}
                name={name}
                colour={threadOf(own?.thread ?? 7).colour}
                places={[
                  ...(own
                    ? [
                        {
                          id: own.id,
                          title: 'on the track',
                          state: trackState(own),
                          isCurrent: isTrack && own.id === track?.id,
                          choose: () => selectTrack(own.id),
                        },
                      ]
                    : []),
                  ...players.map((player) => ({
                    id: player.id,
                    title: player.name === name ? 'on the player' : player.name,
                    state:
                      activeSlots(player.effects).length > 0
                        ? chainWords(player.effects)
                        : 'straight to the track',
                    isCurrent: source !== false && source?.id === player.id,
                    choose: () => selectWorkplace('source', player.id),
                  })),
                ]}
              />
            ))}
          </ul>
        </div>
        <section
          aria-label="Generators"
          className="flex max-h-[40%] shrink-0 flex-col border-t border-rule bg-desk"
        >
          <Heading>Generators</Heading>
          <ul className="min-h-0 overflow-y-auto">
            {project.generators.map((each) => (
              <li key={each.id}>
                <button
                  type="button"
                  aria-current={generator !== false && generator?.id === each.id ? 'true' : undefined}
                  onClick={() => selectWorkplace('generator', each.id)}
                  className="flex w-full items-baseline gap-2 px-4 py-1 text-left hover:bg-rule aria-[current]:bg-rule"
                  style={{ borderLeft: `5px solid ${generatorColour(project, each.id)}` }}
                >
                  <span className="min-w-0 truncate font-serif text-[15px] font-semibold">{each.name}</span>{' '}
                  <span className="ml-auto shrink-0 text-[12px] text-soft">
                    {each.isPlaying ? 'plays along' : 'rests'}
                  </span>
                </button>
              </li>
            ))}
          </ul>
          <NewGenerator />
        </section>
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
  return <h2 className="px-4 pt-1.5 pb-0.5 text-[11px] font-semibold text-soft">{children}</h2>
}

interface PlaceOfVoice {
  readonly id: string
  readonly title: string
  readonly state: string
  readonly isCurrent: boolean
  readonly choose: () => void
}

/** One voice with its places: effects on the track, where what was played stays, and on the player, whose result is recorded. */
function Voice({ name, colour, places }: { name: string; colour: string; places: readonly PlaceOfVoice[] }) {
  return (
    <li className="mb-0.5" style={{ borderLeft: `5px solid ${colour}` }}>
      <p className="truncate px-3 pt-1 font-serif text-[15px] leading-5 font-semibold" title={name}>
        {name}
      </p>
      {places.map(({ id, title, state, isCurrent, choose }) => (
        <button
          key={id}
          type="button"
          aria-label={`${name} ${title === 'on the track' ? '' : `${title}: `}${state}`}
          aria-current={isCurrent ? 'true' : undefined}
          onClick={choose}
          className="flex w-full items-baseline gap-2 px-3 py-0.5 text-left text-[12px] hover:bg-desk aria-[current]:bg-desk aria-[current]:font-semibold"
        >
          <span className="shrink-0">{title}</span>
          <span className="ml-auto min-w-0 truncate text-soft">{state}</span>
        </button>
      ))}
    </li>
  )
}

/** Each track with the players it hears first; players that no track hears stand for themselves. */
function voicesOf(project: Project) {
  const players = project.sources.filter((each) => each.kind !== 'generator' || each.effects.length > 0)
  const homeOf = new Map(players.map((player) => [player.id, tracksOf(project, player)[0]?.id]))
  return [
    ...project.tracks.map((track) => ({
      name: track.name,
      track,
      players: players.filter((player) => homeOf.get(player.id) === track.id),
    })),
    ...players
      .filter((player) => homeOf.get(player.id) === undefined)
      .map((player) => ({ name: player.name, track: null, players: [player] })),
  ]
}

function trackState(track: Track): string {
  if (hasEffects(track)) return chainWords(track.effects)
  if (track.effects.length > 0) return track.doEffectsRest ? 'effects rest' : 'effects off'
  return track.madeFrom?.by === 'printing' ? 'printed notes' : 'as played'
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
