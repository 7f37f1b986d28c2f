import type { WrittenPlace } from '@/engine/engraver/choosing'
import { useSession } from '../workspace/sessionContext'
import { viewStore } from '../workspace/viewStore'
import { chosenOnPage } from './chosenOnPage'
import { strokesByKey } from './penStrokes'
import type { Pen } from './usePen'

/** The keys that write on the page; letters stay free for playing. */
export function usePenKeys(pen: Pen) {
  const session = useSession()
  const withPlace = (work: (place: WrittenPlace) => Promise<void> | void) =>
    session.inTurn(async () => {
      const chosen = chosenOnPage(viewStore.getState())
      const place = chosen && (await session.engraving.locate(chosen))
      if (place) await work(place)
    })
  const chooseBar = (isOfAllParts: boolean) =>
    withPlace(async ({ bar, trackId, staff }) => {
      const noteIds = await session.engraving.notesIn(bar, bar, isOfAllParts ? null : { trackId, staff })
      viewStore.setState({ noteIds: new Set(noteIds), rest: null })
    })

  /** @returns whether the key was one of them */
  return (event: React.KeyboardEvent): boolean => {
    if (!session.isUnderWay() && !chosenOnPage(viewStore.getState())) return false
    const withCommand = event.ctrlKey || event.metaKey
    const done = (work: () => void) => {
      event.preventDefault()
      event.stopPropagation()
      work()
      return true
    }
    if (withCommand && event.code === 'KeyA') return done(() => chooseBar(event.shiftKey))
    if (withCommand) return false
    if (event.altKey) {
      switch (event.code) {
        case 'ArrowUp':
        case 'ArrowDown': {
          const by = (event.code === 'ArrowUp' ? 1 : -1) * (event.shiftKey ? 12 : 1)
          return done(() => pen.transpose(by))
        }
        case 'ArrowLeft':
        case 'ArrowRight':
          return done(() => pen.move(event.code === 'ArrowRight' ? 1 : -1))
        default:
          return false
      }
    }
    switch (event.key) {
      case '[':
        return done(() => pen.place(-1))
      case ']':
        return done(() => pen.place(1))
      case '/':
        return done(() => pen.nextLine())
      case 'PageUp':
        return done(() => pen.level(1))
      case 'PageDown':
        return done(() => pen.level(-1))
      case 'Insert':
        return done(() => pen.add())
      case 'Delete':
      case 'Backspace':
        return done(() => pen.remove())
      case 'Enter':
        return done(() => withPlace(({ onsetTicks }) => session.play(onsetTicks, null)))
    }
    const offered = strokesByKey.get(event.key)
    return offered ? done(() => pen.write(offered.name, offered.stroke)) : false
  }
}
