import type { ClipInside } from '@/core/project/content'
import type { Clip, Project } from '@/core/project/schema'

/**
 * What of a project's clips is to be stored.
 *
 * @param saved the insides that are stored, by clip id
 */
export function changesSince(
  saved: ReadonlyMap<string, ClipInside>,
  project: Project,
): { readonly changed: readonly Clip[]; readonly goneClipIds: readonly string[] } {
  const clips = project.tracks.flatMap((track) => track.clips)
  const alive = new Set(clips.map((clip) => clip.id))
  const changed = clips.filter((clip) => {
    const last = saved.get(clip.id)
    return (
      !last ||
      last.notes !== clip.notes ||
      last.controllers !== clip.controllers ||
      last.manuscript !== clip.manuscript
    )
  })
  return { changed, goneClipIds: [...saved.keys()].filter((clipId) => !alive.has(clipId)) }
}
