import { keyName } from '@/core/event/note'
import { type Amendment, addressOf, isFromFile, isOfNote } from '@/core/notation/amendments/amendment'
import { takeBack } from '@/core/project/amend'
import { contextOf } from '@/core/project/context'
import { findNote } from '@/core/project/findNote'
import { barsOfRepeat, heardOnce, hearTwice } from '@/core/project/hearTwice'
import type { Project } from '@/core/project/schema'
import type { ScoreOutline } from '@/engine/engraver/engraver'
import { Button } from '../controls/Button'
import { ColumnHeading } from '../controls/Choice'
import { Tick } from '../controls/Tick'
import { useSession, useView } from '../workspace/sessionContext'
import { viewStore } from '../workspace/viewStore'

/** So many are listed; more are counted. */
const mostListed = 60

/** What was changed by hand over the reading: what does not fit is listed, and each change can be taken back. */
export function HandChanges({ project, outline }: { project: Project; outline: ScoreOutline }) {
  const session = useSession()
  const areShown = useView((state) => state.areHandChangesShown)
  const why = new Map(outline.misfits.map((misfit) => [addressOf(misfit.amendment), misfit.why]))
  const amendments = project.amendments.filter((each) => !isFromFile(each))
  const unfitting = project.amendments.filter((each) => why.has(addressOf(each)))
  if (amendments.length === 0 && unfitting.length === 0) return null
  const listed = areShown ? amendments : unfitting
  const takeAllBack = (list: readonly Amendment[], label: string) =>
    session.store.getState().apply(label, (before) => takeBack(before, new Set(list.map(addressOf))))
  return (
    <section aria-label="Changed by hand" className="mt-6 text-[13px]">
      <ColumnHeading>Changed by hand</ColumnHeading>
      {amendments.length > 0 && (
        <Tick isOn={areShown} onChange={(isOn) => viewStore.setState({ areHandChangesShown: isOn })}>
          show{' '}
          {amendments.length === 1 ? 'the change' : `all ${amendments.length.toLocaleString('en')} changes`}
        </Tick>
      )}
      <HeardOnce project={project} />
      {unfitting.length > 0 && (
        <p role="status" className="mt-2 text-live">
          {unfitting.length === 1 ? 'One change does' : `${unfitting.length} changes do`} not fit what is read
          now. Nothing of it is lost: it is at work again as soon as it fits.
        </p>
      )}
      {listed.length > 0 && (
        <ul className="mt-2 max-h-64 space-y-1.5 overflow-y-auto" aria-label="Changes">
          {listed.slice(0, mostListed).map((each) => (
            <li key={addressOf(each)} className="flex items-start justify-between gap-2">
              <span className={why.has(addressOf(each)) ? 'text-live' : 'text-soft'}>
                {amendmentWords(each, project)}
                {why.has(addressOf(each)) ? `: ${why.get(addressOf(each))}` : ''}
              </span>
              <Button
                look="quiet"
                className="px-1.5 py-0"
                aria-label={`Take back: ${amendmentWords(each, project)}`}
                onClick={() => takeAllBack([each], 'take a change back')}
              >
                take back
              </Button>
            </li>
          ))}
        </ul>
      )}
      {listed.length > mostListed && <p className="mt-1 text-soft">and {listed.length - mostListed} more</p>}
      <div className="mt-2 flex flex-wrap gap-2">
        {amendments.length > 0 && (
          <Button onClick={() => takeAllBack(amendments, 'take all changes back')}>Take all back</Button>
        )}
        {unfitting.length > 0 && (
          <Button onClick={() => takeAllBack(unfitting, 'take what does not fit back')}>
            Take back what does not fit
          </Button>
        )}
      </div>
    </section>
  )
}

/** Repeats that are written and played once: a press lets them be heard. */
function HeardOnce({ project }: { project: Project }) {
  const session = useSession()
  return heardOnce(project).map((repeat) => {
    const { first, lastOfAll } = barsOfRepeat(project, repeat)
    const which = first === lastOfAll ? `bar ${first}` : `bars ${first} to ${lastOfAll}`
    const hear = () => {
      const heard = hearTwice(project, repeat)
      if ('problem' in heard) session.notify(`Nothing was changed: ${heard.problem}`, true)
      else session.store.getState().apply(`hear ${which} twice`, () => heard)
    }
    return (
      <p key={repeat.tick} className="mt-2 flex items-center justify-between gap-2 text-soft">
        The repeat of {which} is played once.
        <Button look="quiet" className="shrink-0 px-1.5 py-0" onClick={hear}>
          play it twice
        </Button>
      </p>
    )
  })
}

/** A change in words: "bar 3, F4: staccato". */
function amendmentWords(amendment: Amendment, project: Project): string {
  const barOf = (tick: number) => contextOf(project).meterMap.measureAt(tick).index + 1
  if (!isOfNote(amendment)) return `bar ${barOf(amendment.tick)}: ${whatWords(amendment)}`
  const found = findNote(project, amendment.noteId)
  const where = found
    ? `bar ${barOf(found.note.onsetTicks)}, ${keyName(found.note.key)}`
    : 'a note that does not sound now'
  return `${where}: ${whatWords(amendment)}`
}

function whatWords(amendment: Amendment): string {
  switch (amendment.aspect) {
    case 'time':
      return 'place and value'
    case 'tie':
      return 'tied to the next'
    case 'spelling':
      return 'name of its pitch'
    case 'line':
      return `voice ${amendment.line} of its staff`
    case 'staff':
      return amendment.staff === 1 ? 'upper staff' : 'lower staff'
    case 'sign':
      return amendment.isOn ? amendment.sign : `no ${amendment.sign}`
    case 'fingering':
      return `finger ${amendment.text}`
    case 'level':
      return amendment.mark ?? 'no level'
    case 'hairpin':
      return amendment.to === null ? 'no hairpin' : amendment.to.kind
    case 'slur':
      return amendment.toNoteId === null ? 'no slur' : 'slur'
    case 'clef':
      return amendment.clef === null ? 'the clef does not change' : `${amendment.clef} clef`
    case 'barLine':
      return `${amendment.style} bar line`
    case 'repeat':
      return 'repeat'
    case 'ending':
      return `${amendment.time === 1 ? 'first' : 'second'} ending`
    case 'break':
      return `a ${amendment.of} begins`
    case 'hiddenRest':
      return 'rest not printed'
  }
}
