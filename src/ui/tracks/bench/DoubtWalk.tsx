import { ChevronLeft, ChevronRight } from 'lucide-react'
import { soundingNotes } from '@/core/project/create'
import type { Track } from '@/core/project/schema'
import { Button } from '../../controls/Button'
import { useView } from '../../workspace/sessionContext'
import { selectNotes } from '../../workspace/viewStore'

/** Goes through the notes whose line is in doubt, one by one. */
export function DoubtWalk({ track }: { track: Track }) {
  const doubtful = useView((state) => state.doubtful)
  const selected = useView((state) => state.noteIds)
  if (doubtful.length === 0) return null
  const present = new Set(soundingNotes(track).map(({ id }) => id))
  const own = doubtful.filter((id) => present.has(id))
  if (own.length === 0) return null
  const at = selected.size === 1 ? own.indexOf([...selected][0]!) : -1
  const go = (by: number) => {
    const next = at < 0 ? (by > 0 ? 0 : own.length - 1) : (at + by + own.length) % own.length
    selectNotes([own[next]!])
  }
  return (
    <fieldset className="flex items-center gap-1 text-[13px]" aria-label="Notes in doubt">
      <span className="min-w-0 flex-1">
        {own.length === 1 ? 'One note is' : `${own.length.toLocaleString('en')} notes are`} in doubt
        {at >= 0 && <span className="text-soft">, this is {at + 1}</span>}
      </span>
      <Button look="quiet" className="px-1 py-0.5" aria-label="The one before" onClick={() => go(-1)}>
        <ChevronLeft size={15} aria-hidden />
      </Button>
      <Button look="quiet" className="px-1 py-0.5" aria-label="The next in doubt" onClick={() => go(1)}>
        <ChevronRight size={15} aria-hidden />
      </Button>
    </fieldset>
  )
}
