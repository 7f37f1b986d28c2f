import { useStore } from 'zustand'
import { type PracticeWay, practiceWays } from '@/core/project/practising'
import { Choice } from '../controls/Choice'
import { useSession } from '../workspace/sessionContext'

/** One switch for what is heard and for MIDI files: as it was played, or as the page is written. */
export function HeardAs({ label }: { label: string }) {
  const session = useSession()
  const { isAsWritten } = useStore(session.hearingPage.state)
  return (
    <Choice
      label={label}
      value={isAsWritten ? 'written' : 'played'}
      options={[
        { value: 'played', text: 'as played' },
        { value: 'written', text: 'as written' },
      ]}
      onChange={(value) => session.hearingPage.hearAsWritten(value === 'written')}
    />
  )
}

/** How one part is heard beside the others. */
export const wayWords: Readonly<Record<PracticeWay, string>> = {
  louder: 'louder than the others',
  alone: 'alone',
  without: 'left out',
}

/** One part heard before the others, alone, or left out, to play along. */
export function Practising({
  parts,
}: {
  parts: readonly { readonly trackId: string; readonly name: string }[]
}) {
  const session = useSession()
  const { practice } = useStore(session.hearingPage.state)
  return (
    <div className="space-y-2">
      <Choice
        label="To practise"
        value={practice?.trackId ?? ''}
        options={[
          { value: '', text: 'all parts alike' },
          ...parts.map(({ trackId, name }) => ({ value: trackId, text: name })),
        ]}
        onChange={(trackId) =>
          session.hearingPage.practise(trackId === '' ? null : { trackId, way: practice?.way ?? 'louder' })
        }
      />
      {practice && (
        <Choice
          label="is"
          value={practice.way}
          options={practiceWays.map((way) => ({ value: way, text: wayWords[way] }))}
          onChange={(way) => session.hearingPage.practise({ ...practice, way })}
        />
      )}
    </div>
  )
}
