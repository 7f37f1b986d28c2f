import type { Project } from '@/core/project/schema'
import { addWords, newWords } from '@/core/project/words'
import { Button } from '../controls/Button'
import { useSession } from '../workspace/sessionContext'

/** Symbols of the chords that sound, on request; those that are there can be taken away. */
export function ChordFinder({ project }: { project: Project }) {
  const session = useSession()
  const count = project.words.filter(({ kind }) => kind === 'chord').length
  const without = (before: Project): Project => ({
    ...before,
    words: before.words.filter(({ kind }) => kind !== 'chord'),
  })
  const find = () =>
    session.engraving.chords().then(
      (found) => {
        if (found.length === 0) return session.notify('Nothing sounds from which chords could be read.')
        session.store.getState().apply('chord symbols', (before) =>
          addWords(
            without(before),
            found.map(({ tick, symbol }) => newWords('chord', tick, null, symbol)),
          ),
        )
      },
      (error) => session.notify(`Chords could not be found: ${error.message ?? error}.`, true),
    )
  return (
    <div className="mt-3 flex flex-wrap gap-2">
      <Button onClick={() => void find()}>{count > 0 ? 'Find chords anew' : 'Find chords'}</Button>
      {count > 0 && (
        <Button look="quiet" onClick={() => session.store.getState().apply('no chord symbols', without)}>
          No chords
        </Button>
      )}
    </div>
  )
}
