import { useState } from 'react'
import { mostLines } from '@/core/event/note'
import { soundingNotes } from '@/core/project/create'
import { hasEffects } from '@/core/project/printing'
import type { Project, Track } from '@/core/project/schema'
import { type Joining, putTogether } from '@/core/project/together'
import { Button } from '../../controls/Button'
import { Choice } from '../../controls/Choice'
import { Tick } from '../../controls/Tick'
import { useSession } from '../../workspace/sessionContext'
import { selectTrack, viewStore } from '../../workspace/viewStore'

/** Puts several tracks together on one, with what tells them apart kept. */
export function TogetherBench({ track, project }: { track: Track; project: Project }) {
  const session = useSession()
  const [ids, setIds] = useState<ReadonlySet<string>>(() => new Set([track.id]))
  const [joining, setJoining] = useState<Joining>('voices')
  const candidates = project.tracks.filter((each) => soundingNotes(each).length > 0)
  const chosen = candidates.filter(({ id }) => ids.has(id))
  const withEffects = chosen.filter(hasEffects)
  const isTooMany = joining === 'voices' && chosen.length > mostLines
  const isFit = joining === 'staves' ? chosen.length === 2 : chosen.length > 1 && !isTooMany
  const join = () => {
    let made: string | null = null
    let words = ''
    const isDone = session.store.getState().apply('put tracks together', (before) => {
      const result = putTogether(before, [...ids], joining)
      made = result.trackId
      const meet =
        result.coincident === 0
          ? ''
          : ` ${result.coincident.toLocaleString('en')} begin on a key of another track at the same place; all are kept.`
      words = `${result.notes.toLocaleString('en')} notes of ${chosen.length} tracks are on one now.${meet}`
      return result.project
    })
    if (!isDone || !made) return
    session.notify(words)
    selectTrack(made)
    viewStore.setState({ bench: null })
  }
  return (
    <section aria-label="Put together" className="space-y-2.5 text-[13px]">
      <Choice
        label="Keep"
        value={joining}
        options={[
          { value: 'voices' as const, text: 'each track as a voice' },
          { value: 'channels' as const, text: 'the channel of each' },
          { value: 'staves' as const, text: 'two hands on two staves' },
        ]}
        onChange={setJoining}
      />
      <ul className="max-h-64 space-y-1 overflow-y-auto" aria-label="Tracks">
        {candidates.map((each) => (
          <li key={each.id}>
            <Tick
              isOn={ids.has(each.id)}
              onChange={(isOn) => {
                const next = new Set(ids)
                if (isOn) next.add(each.id)
                else next.delete(each.id)
                setIds(next)
              }}
            >
              <span className="truncate">{each.name}</span>
              <span className="text-soft">{soundingNotes(each).length.toLocaleString('en')}</span>
            </Tick>
          </li>
        ))}
      </ul>
      <p className="text-[12px] text-soft">
        {joining === 'staves'
          ? 'Two tracks: the higher is written on the upper staff. '
          : joining === 'voices'
            ? `Voices are numbered from the top track down, up to ${mostLines}. `
            : ''}
        The tracks rest afterwards, and come back with one press.
      </p>
      {withEffects.length > 0 && (
        <p className="text-[12px] text-soft" role="status">
          The effects of {withEffects.map(({ name }) => name).join(', ')} stay there and rest with{' '}
          {withEffects.length === 1 ? 'it' : 'them'}: print them first if they are to be heard.
        </p>
      )}
      <Button look="main" className="w-full justify-center" disabled={!isFit} onClick={join}>
        {isFit
          ? `Put ${chosen.length} tracks together`
          : isTooMany
            ? `Choose up to ${mostLines} tracks`
            : joining === 'staves'
              ? 'Choose two tracks'
              : 'Choose the tracks'}
      </Button>
    </section>
  )
}
