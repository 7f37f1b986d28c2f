import type { AsidePart } from '@/core/project/salvage'
import { download } from './download'

/** Damaged parts of a piece as a file, as they were found. */
export function saveAside(name: string, parts: readonly AsidePart[]): void {
  download(
    `${name}, left out.json`,
    new TextEncoder().encode(JSON.stringify(parts, null, 2)),
    'application/json',
  )
}
