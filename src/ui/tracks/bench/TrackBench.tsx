import { X } from 'lucide-react'
import type { Project, Track } from '@/core/project/schema'
import { Button } from '../../controls/Button'
import { useView } from '../../workspace/sessionContext'
import { type Bench, viewStore } from '../../workspace/viewStore'
import { ApartBench } from './ApartBench'
import { BarsBench } from './BarsBench'
import { EditBench } from './EditBench'
import { SoundBench } from './SoundBench'
import { TogetherBench } from './TogetherBench'

export const benchTitles: Record<Bench, string> = {
  edit: 'Edit notes',
  apart: 'Take apart',
  together: 'Put together',
  bars: 'Bars and sections',
  sound: 'Sound',
}

/** The place beside the roll where its notes are worked on. */
export function TrackBench({ track, project }: { track: Track; project: Project }) {
  const bench = useView((state) => state.bench)
  if (!bench) return null
  return (
    <aside
      aria-label={benchTitles[bench]}
      className="flex shrink-0 flex-col border-t border-rule bg-paper lg:h-full lg:w-[304px] lg:border-t-0 lg:border-l"
    >
      <div className="flex items-center justify-between px-3 pt-1.5">
        <h2 className="font-serif text-base font-semibold">{benchTitles[bench]}</h2>
        <Button
          look="quiet"
          className="px-1.5 py-1"
          aria-label={`Close: ${benchTitles[bench]}`}
          onClick={() => viewStore.setState({ bench: null, partition: null })}
        >
          <X size={15} aria-hidden />
        </Button>
      </div>
      <div className="min-h-0 flex-1 overflow-y-auto px-3 pt-1 pb-3 text-[13px]" tabIndex={0}>
        {bench === 'edit' && <EditBench track={track} project={project} />}
        {bench === 'apart' && <ApartBench key={track.id} track={track} project={project} />}
        {bench === 'together' && <TogetherBench track={track} project={project} />}
        {bench === 'sound' && <SoundBench track={track} />}
        {bench === 'bars' && <BarsBench track={track} project={project} />}
      </div>
    </aside>
  )
}
