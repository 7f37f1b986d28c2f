import { bounded } from '@/core/text/bounded'

/** Letters of a name that have room beside the first line. */
const longestLabel = 24

/** A name as it stands beside its staff: what is too long is cut at a word; the whole name is in the list of parts. */
export function pageLabel(name: string): string {
  if (name.length <= longestLabel) return name
  const cut = bounded(name, longestLabel - 1)
  const space = cut.lastIndexOf(' ')
  return `${(space > longestLabel / 2 ? cut.slice(0, space) : cut).replace(/[\s,;:.-]+$/, '')}…`
}
