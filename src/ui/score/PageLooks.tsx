import { Minus, Plus } from 'lucide-react'
import { useEffect } from 'react'
import { useStore } from 'zustand'
import type { Project } from '@/core/project/schema'
import { setPage } from '@/core/project/settings'
import { zoomPercents } from '@/engine/engraver/pageLook'
import { Button } from '../controls/Button'
import { Choice, ColumnHeading } from '../controls/Choice'
import { Tick } from '../controls/Tick'
import { useSession, useView } from '../workspace/sessionContext'
import { viewStore } from '../workspace/viewStore'
import { lookAt, pageLookStore, zoomBy } from './pageLookStore'

/** How large the page is, in which form, and what of it is shown. */
export function PageLooks({ project, hasVoices }: { project: Project; hasVoices: boolean }) {
  const session = useSession()
  const { zoomPercent, form } = useStore(pageLookStore)
  const areVoicesShown = useView((state) => state.areVoicesShown)
  return (
    <section aria-label="How it looks" className="mt-6 space-y-2">
      <ColumnHeading>How it looks</ColumnHeading>
      <div className="flex items-center gap-1">
        <Button look="quiet" aria-label="Smaller" onClick={() => zoomBy(-1)}>
          <Minus size={14} aria-hidden />
        </Button>
        <Choice
          label="Size"
          isLabelHidden
          value={zoomPercent}
          options={zoomPercents.map((percent) => ({ value: percent, text: `${percent} %` }))}
          onChange={(percent) => lookAt({ zoomPercent: percent })}
        />
        <Button look="quiet" aria-label="Larger" onClick={() => zoomBy(1)}>
          <Plus size={14} aria-hidden />
        </Button>
      </div>
      <Choice
        label="Drawn as"
        value={form}
        options={[
          { value: 'lines', text: 'lines of a page' },
          { value: 'endless', text: 'one endless line' },
        ]}
        onChange={(wanted) => lookAt({ form: wanted })}
      />
      <Tick
        isOn={project.page.hidesEmptyStaves}
        onChange={(hidesEmptyStaves) =>
          session.store.getState().apply('silent staves', (before) => setPage(before, { hidesEmptyStaves }))
        }
      >
        without staves that are silent
      </Tick>
      {hasVoices && (
        <Tick isOn={areVoicesShown} onChange={(isOn) => viewStore.setState({ areVoicesShown: isOn })}>
          voices in colour
        </Tick>
      )}
    </section>
  )
}

/** Two fingers that part, or the wheel with Ctrl, make the page larger, not the program. */
export function useZoomByWheel(host: React.RefObject<HTMLElement | null>): void {
  useEffect(() => {
    const element = host.current
    if (!element) return
    let turned = 0
    const onWheel = (event: WheelEvent) => {
      if (!event.ctrlKey && !event.metaKey) return
      event.preventDefault()
      turned += event.deltaY
      if (Math.abs(turned) < wheelStepPx) return
      zoomBy(turned < 0 ? 1 : -1)
      turned = 0
    }
    element.addEventListener('wheel', onWheel, { passive: false })
    return () => element.removeEventListener('wheel', onWheel)
  }, [host])
}

/** So much of a wheel is one step of size. */
const wheelStepPx = 60
