import { chooseClip, pickBar } from '@/core/project/commands'
import { contextOf } from '@/core/project/context'
import { projectEndTicks } from '@/core/project/create'
import type { Clip, Track } from '@/core/project/schema'
import { threadOf } from '../theme/threads'
import { useProject, useSession } from '../workspace/sessionContext'

/** More bars than this are taken by the stretch that is marked. */
const mostBars = 200

/** The takes of a track, bar by bar: pressing a bar of a take puts it into the combined take. */
export function BarPicker({ track }: { track: Track }) {
  const session = useSession()
  const project = useProject()
  const apply = session.store.getState().apply
  const takes = track.clips.filter((clip) => clip.combinedFrom === null)
  const combined = track.clips.find((clip) => clip.combinedFrom !== null && clip.isSounding)
  const measures = contextOf(project)
    .meterMap.measuresUntil(Math.max(1, projectEndTicks(project)))
    .slice(0, mostBars)
  const thread = threadOf(track.thread)
  const isHeard = (clip: Clip, startTicks: number) =>
    combined
      ? combined.combinedFrom!.some((pick) => pick.barStartTicks === startTicks && pick.clipId === clip.id)
      : clip.isSounding
  const hasNotes = (clip: Clip, startTicks: number, lengthTicks: number) =>
    clip.notes.some((note) => note.onsetTicks >= startTicks && note.onsetTicks < startTicks + lengthTicks)
  return (
    <section
      className="max-h-[200px] shrink-0 overflow-auto border-t border-rule bg-desk px-4 py-2"
      aria-label={`${track.name}, bar by bar`}
    >
      <h3 className="mb-1 text-[13px]">
        <span className="font-serif text-[15px] font-semibold">{track.name}</span>{' '}
        <span className="text-soft">
          {combined
            ? 'is put together bar by bar. Press a bar of a take to hear it there.'
            : `has ${takes.length} takes. Press bars to put them together; the takes stay as they are.`}
        </span>
      </h3>
      <table className="border-separate border-spacing-x-[2px] border-spacing-y-[2px] text-[11px]">
        <thead>
          <tr>
            <th className="sr-only">take</th>
            {measures.map((measure) => (
              <th key={measure.index} className="min-w-7 font-normal text-soft">
                {measure.index + 1}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {takes.map((clip) => (
            <tr key={clip.id}>
              <th className="sticky left-0 max-w-[150px] truncate bg-desk pr-2 text-left font-normal">
                <button
                  type="button"
                  className={`truncate ${clip.isSounding ? 'font-semibold' : 'text-soft'}`}
                  title="Hear this take in every bar"
                  onClick={() =>
                    apply(`hear ${clip.name}`, (before) => chooseClip(before, track.id, clip.id))
                  }
                >
                  {clip.name}
                </button>
              </th>
              {measures.map((measure) => {
                const isIn = isHeard(clip, measure.startTicks)
                const isEmpty = !hasNotes(clip, measure.startTicks, measure.lengthTicks)
                return (
                  <td key={measure.index}>
                    <button
                      type="button"
                      aria-pressed={isIn}
                      aria-label={`Bar ${measure.index + 1} from ${clip.name}${isEmpty ? ', nothing played' : ''}`}
                      className="h-5 w-full rounded-sm border"
                      style={{
                        background: isIn ? thread.colour : 'transparent',
                        borderColor: isEmpty && !isIn ? '#d9d0bd' : thread.colour,
                        borderStyle: isEmpty ? 'dashed' : 'solid',
                      }}
                      onClick={() =>
                        apply(`bar ${measure.index + 1} from ${clip.name}`, (before) =>
                          pickBar(before, track.id, measure, clip.id),
                        )
                      }
                    />
                  </td>
                )
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  )
}
