import { bringBack, familyOf, hearInTurn } from '@/core/project/madeFrom'
import type { Project, Track } from '@/core/project/schema'
import { Button } from '../controls/Button'
import { useSession } from '../workspace/sessionContext'
import { selectTrack } from '../workspace/viewStore'
import { DoubtWalk } from './bench/DoubtWalk'

/** What a track was made from, or what was made of it: compared in turn, and brought back. */
export function FamilyStrip({ track, project }: { track: Track; project: Project }) {
  const session = useSession()
  const family = familyOf(project, track.id)
  if (!family || family.by === 'printing' || family.made.length === 0) return null
  const { sources, made, by } = family
  const isSource = sources.some(({ id }) => id === track.id)
  const areSourcesHeard = sources.some(({ isMuted }) => !isMuted)
  const apply = session.store.getState().apply
  const namesOf = (tracks: readonly Track[]) =>
    tracks.length > 3 ? `${tracks.length} tracks` : tracks.map(({ name }) => name).join(', ')
  const words = isSource
    ? `${by === 'separation' ? 'Taken apart into' : 'Put together on'} ${namesOf(made)}.`
    : `${by === 'separation' ? 'Taken from' : 'Put together from'} ${namesOf(sources)}.`
  return (
    <div
      className="flex min-h-8 shrink-0 flex-wrap items-center gap-2 border-b border-l-4 border-rule border-l-verdigris bg-sheet px-3 py-0.5 text-[13px]"
      role="status"
    >
      <span className="mr-auto min-w-0 truncate">
        {words}{' '}
        {areSourcesHeard
          ? ''
          : `${sources.length === 1 ? sources[0]!.name : 'They'} ${sources.length === 1 ? 'rests' : 'rest'}.`}
      </span>
      <DoubtWalk track={track} />
      <Button
        className="px-2 py-0"
        aria-pressed={areSourcesHeard}
        onClick={() => apply('hear the source', (before) => hearInTurn(before, track.id, 'sources'))}
      >
        Hear the source
      </Button>
      <Button
        className="px-2 py-0"
        aria-pressed={!areSourcesHeard}
        onClick={() => apply('hear the result', (before) => hearInTurn(before, track.id, 'made'))}
      >
        Hear the result
      </Button>
      <Button
        look="quiet"
        className="px-2 py-0"
        onClick={() => selectTrack((isSource ? made : sources)[0]!.id)}
      >
        Go to {(isSource ? made : sources)[0]!.name}
      </Button>
      <Button
        className="px-2 py-0"
        onClick={() => apply('bring the source back', (before) => bringBack(before, track.id))}
      >
        Bring the source back
      </Button>
    </div>
  )
}
