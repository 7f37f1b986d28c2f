import { Plug } from 'lucide-react'
import { useMemo, useRef, useState } from 'react'
import type { Project, Source } from '@/core/project/schema'
import { foldGroup } from '@/core/project/settings'
import { checkWiring } from '@/core/wiring/wiring'
import type { WiringRemark } from '@/core/wiring/wiringRemark'
import { ColumnHeading } from '../controls/Choice'
import { useLive, useProject, useSession } from '../workspace/sessionContext'
import { PlayersPanel } from './PlayersPanel'
import { ScreenKeys } from './ScreenKeys'
import { SourceCard } from './SourceCard'
import { TrackCard, UnheardTrack } from './TrackCard'
import { useThreads } from './useThreads'

/** What is unfolded on this view: one card at a time. */
export type Opened = string | null

/** Who plays and where it goes: threads from sources to tracks, with the notes moving along them. */
export function PlayersView() {
  const project = useProject()
  const midi = useLive((state) => state.midi)
  const [opened, setOpened] = useState<Opened>(null)
  const stage = useRef<HTMLDivElement>(null)
  const canvas = useRef<HTMLCanvasElement>(null)
  useThreads(stage, canvas, project)
  const remarks = useRemarks(project)
  const toggle = (id: string) => setOpened((before) => (before === id ? null : id))
  const hearing = project.tracks.filter((track) => track.routes.length > 0)
  const unheard = project.tracks.filter((track) => track.routes.length === 0)

  return (
    <div className="flex flex-col lg:grid lg:h-full lg:grid-cols-[1fr_292px] lg:grid-rows-[minmax(0,1fr)]">
      <div className="min-w-0 px-3 pt-3 pb-4 md:px-7 lg:overflow-y-auto">
        <div
          ref={stage}
          className="relative grid grid-cols-[minmax(0,1fr)_36px_minmax(0,1.2fr)] sm:grid-cols-[minmax(220px,280px)_1fr_minmax(230px,290px)]"
        >
          <canvas ref={canvas} className="pointer-events-none absolute inset-0" aria-hidden />
          <section aria-label="Who plays" className="relative">
            <ColumnHeading>Who plays</ColumnHeading>
            {groupsOf(project).map(({ name, sources }) => (
              <SourceGroup key={name} name={name} sources={sources} project={project}>
                {sources.map((source) => (
                  <SourceCard
                    key={source.id}
                    source={source}
                    project={project}
                    isOpen={opened === source.id}
                    onToggle={() => toggle(source.id)}
                    remarks={remarks.filter((remark) => remark.sourceIds.includes(source.id))}
                  />
                ))}
              </SourceGroup>
            ))}
            {project.sources.length === 0 && <p className="text-soft">Nobody yet.</p>}
          </section>
          <div />
          <section aria-label="Where it goes" className="relative">
            <ColumnHeading>Where it goes</ColumnHeading>
            <ul className="space-y-2.5">
              {hearing.map((track) => (
                <TrackCard
                  key={track.id}
                  track={track}
                  project={project}
                  isOpen={opened === track.id}
                  onToggle={() => toggle(track.id)}
                  remarks={remarks.filter((remark) => remark.trackIds.includes(track.id))}
                />
              ))}
            </ul>
            {unheard.length > 0 && (
              <>
                <h3 className="mt-4 mb-1 text-[12px] font-semibold text-soft">Tracks that hear nobody</h3>
                <ul className="space-y-1">
                  {unheard.map((track) => (
                    <UnheardTrack key={track.id} track={track} />
                  ))}
                </ul>
              </>
            )}
          </section>
        </div>
        <div className="mt-4 space-y-2">
          {project.sources.some((source) => source.kind === 'computerKeyboard') && <ScreenKeys />}
          <p className="flex items-center gap-2 px-1 text-[13px] text-soft" data-testid="midi-state">
            <Plug size={14} aria-hidden />
            {midi.state === 'asking' && 'Looking for MIDI ports…'}
            {midi.state === 'unavailable' && midi.reason}
            {midi.state === 'ready' &&
              (midi.ports.length === 0
                ? 'No MIDI port is connected. One that is plugged in takes its place at its first note.'
                : `MIDI ports: ${midi.ports.map((port) => port.name).join(', ')}. Each stream takes its place at its first note.`)}
          </p>
        </div>
      </div>
      <PlayersPanel remarks={remarks} onOpen={setOpened} />
    </div>
  )
}

/**
 * The remarks on the wiring. What is seen changes with every note; they are found anew only when it could make a
 * difference: a port, a stream, a reader of a cable has come or gone, or many notes have been heard.
 */
function useRemarks(project: Project): WiringRemark[] {
  const session = useSession()
  const seen = useLive((state) => {
    const { ports, streams, readCables } = session.recentActivity(state)
    const heard = streams.reduce((sum, stream) => sum + stream.noteOns, 0)
    return [
      ports?.map((port) => port.id).join() ?? 'none',
      streams.map((stream) => `${stream.channel} ${stream.portId}`).join(),
      readCables.join(),
      Math.min(10, Math.floor(heard / 20)),
    ].join('|')
  })
  // biome-ignore lint/correctness/useExhaustiveDependencies: `seen` stands for the state that is read
  return useMemo(() => checkWiring(project, session.recentActivity()), [project, session, seen])
}

/** Sources by their group, in the order of the first of each. */
function groupsOf(project: Project): { readonly name: string; readonly sources: readonly Source[] }[] {
  const names = [...new Set(project.sources.map((source) => source.group))]
  return names.map((name) => ({
    name,
    sources: project.sources.filter((source) => source.group === name),
  }))
}

function SourceGroup({
  name,
  sources,
  project,
  children,
}: {
  name: string
  sources: readonly Source[]
  project: Project
  children: React.ReactNode
}) {
  const session = useSession()
  const isFolded = project.foldedGroups.includes(name)
  if (name === '') return <ul className="mb-2.5 space-y-2.5">{children}</ul>
  const fold = () =>
    session.store
      .getState()
      .apply(isFolded ? `unfold ${name}` : `fold ${name}`, (before) => foldGroup(before, name, !isFolded))
  return (
    <div className="mb-2.5">
      <h3 data-group={name} className="rounded-r-md bg-desk">
        <button
          type="button"
          aria-expanded={!isFolded}
          className="flex w-full items-baseline justify-between gap-2 rounded-r-md px-3 py-1 text-left hover:bg-rule"
          onClick={fold}
        >
          <span className="truncate font-serif font-semibold">
            {isFolded ? '▸' : '▾'} {name}
          </span>
          <span className="text-[12px] text-soft">
            {sources.length} {sources.length === 1 ? 'source' : 'sources'}
          </span>
        </button>
      </h3>
      {!isFolded && <ul className="mt-1.5 space-y-2.5 pl-3">{children}</ul>}
    </div>
  )
}
