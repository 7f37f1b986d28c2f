import { type PageSetup, paperNames, papers } from '@/core/pages/pageSetup'
import type { Project } from '@/core/project/schema'
import { setPage, setPiece } from '@/core/project/settings'
import { Choice } from '../controls/Choice'
import { Tick } from '../controls/Tick'
import { useSession } from '../workspace/sessionContext'
import { PieceWord } from './PieceWord'

const wordsOfPiece = [
  ['name', 'Title'],
  ['subtitle', 'Subtitle'],
  ['composer', 'Composer'],
  ['arranger', 'Arranger'],
  ['rights', 'Rights'],
] as const

/** Sizes of staves that are in use, in millimetres; rastrum sizes of engravers are among them. */
const staffSizes = [4, 4.5, 5, 5.5, 6, 6.5, 7, 7.4, 8]
const margins = [8, 10, 12, 15, 18, 20, 25]
const counts = [1, 2, 3, 4, 5, 6, 7, 8, 10, 12]

/** How the piece is laid out on paper, and the words at its head and foot. */
export function PageSettings({ project }: { project: Project }) {
  const session = useSession()
  const { page } = project
  const change = (what: string, settings: Partial<PageSetup>) =>
    session.store.getState().apply(`change ${what}`, (before) => setPage(before, settings))
  const count = (label: string, what: string, field: 'barsToLine' | 'linesToPage') => (
    <Choice
      label={label}
      value={page[field] ?? 0}
      options={[0, ...withCurrent(counts, page[field] ?? 1)].map((value) => ({
        value,
        text: value === 0 ? 'as many as fit' : `at most ${value}`,
      }))}
      onChange={(value) => change(what, { [field]: value === 0 ? null : value })}
    />
  )
  const millimetres = (
    label: string,
    what: string,
    field: 'scoreStaffMm' | 'partStaffMm' | 'marginMm',
    values: readonly number[],
  ) => (
    <Choice
      label={label}
      value={page[field]}
      options={withCurrent(values, page[field]).map((value) => ({ value, text: `${value} mm` }))}
      onChange={(value) => change(what, { [field]: value })}
    />
  )
  return (
    <div className="grid max-w-4xl gap-x-8 gap-y-2 md:grid-cols-[2fr_3fr]">
      <div className="space-y-2">
        {wordsOfPiece.map(([field, label]) => (
          <PieceWord
            key={field}
            label={label}
            value={project[field]}
            isNeeded={field === 'name'}
            onKeep={(text) =>
              session.store
                .getState()
                .apply(`change the ${label.toLowerCase()}`, (before) => setPiece(before, { [field]: text }))
            }
          />
        ))}
      </div>
      <div className="space-y-2">
        <div className="flex flex-wrap gap-x-4 gap-y-2">
          <Choice
            label="Paper"
            value={page.paper}
            options={paperNames.map((value) => ({ value, text: papers[value].name }))}
            onChange={(paper) => change('the paper', { paper })}
          />
          <Choice
            label="held"
            value={page.isAcross ? 'across' : 'upright'}
            options={[
              { value: 'upright', text: 'upright' },
              { value: 'across', text: 'across' },
            ]}
            onChange={(value) => change('the paper', { isAcross: value === 'across' })}
          />
          {millimetres('margins', 'the margins', 'marginMm', margins)}
        </div>
        <div className="flex flex-wrap gap-x-4 gap-y-2">
          {millimetres('Staves of the score', 'the size of staves', 'scoreStaffMm', staffSizes)}
          {millimetres('of parts', 'the size of staves', 'partStaffMm', staffSizes)}
        </div>
        <div className="flex flex-wrap gap-x-4 gap-y-2">
          {count('Bars to a line', 'bars to a line', 'barsToLine')}
          {count('Lines to a page', 'lines to a page', 'linesToPage')}
        </div>
        <Tick
          isOn={page.gathersRests}
          onChange={(gathersRests) => change('rests of several bars', { gathersRests })}
        >
          in parts, rests of several bars are one sign
        </Tick>
        <Tick isOn={page.turnsAtRests} onChange={(turnsAtRests) => change('page turns', { turnsAtRests })}>
          in parts, pages turn at rests where they can
        </Tick>
        <Tick isOn={page.writesCues} onChange={(writesCues) => change('cues', { writesCues })}>
          in parts, what another plays stands in small notes before an entry after a long rest
        </Tick>
        <Tick
          isOn={page.writesDrumKey}
          onChange={(writesDrumKey) => change('the key of the drums', { writesDrumKey })}
        >
          parts of drums begin with what each place of the staff means
        </Tick>
        <Tick
          isOn={page.hidesEmptyStaves}
          onChange={(hidesEmptyStaves) => change('silent staves', { hidesEmptyStaves })}
        >
          in the score, staves that are silent for a line are left out
        </Tick>
      </div>
    </div>
  )
}

function withCurrent(values: readonly number[], current: number): number[] {
  return [...new Set([...values, current])].sort((a, b) => a - b)
}
