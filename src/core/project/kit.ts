import type { Note } from '../event/note'
import { percussionNames } from '../midi/generalMidi'
import { boundedName } from '../text/bounded'
import { changeTrack } from './commands'
import type { Project, Track } from './schema'

/** Whoever has names of its own for keys. */
interface KeyNamed {
  readonly keyNames: readonly { readonly key: number; readonly name: string }[]
}

/** What a key of a kit is called on a track: as it was named there, otherwise as in General MIDI. */
export function kitKeyName({ keyNames }: KeyNamed, key: number): string {
  return keyNames.find((each) => each.key === key)?.name ?? percussionNames[key] ?? `Key ${key}`
}

/** The key that goes by a name on a track, in capitals or not; undefined for none. */
export function keyCalled({ keyNames }: Pick<Track, 'keyNames'>, name: string): number | undefined {
  const wanted = name.trim().toLowerCase()
  for (let key = 0; key <= 127; key++) if (kitKeyName({ keyNames }, key).toLowerCase() === wanted) return key
  return undefined
}

/** Names a key of a kit; an empty name, or the one it has anyway, takes its own name away. */
export function nameKey(project: Project, trackId: string, key: number, name: string): Project {
  const given = boundedName(name.trim())
  return changeTrack(project, trackId, (track) => {
    const others = track.keyNames.filter((each) => each.key !== key)
    const isUsual = given === '' || given === percussionNames[key]
    return {
      ...track,
      keyNames: isUsual ? others : [...others, { key, name: given }].sort((a, b) => a.key - b.key),
    }
  })
}

/** The keys that are struck, from the highest down. */
export function usedKeys(notes: readonly Note[]): number[] {
  return [...new Set(notes.map(({ key }) => key))].sort((a, b) => b - a)
}

const [lowestOfMap, highestOfMap] = [35, 81]

/** Rows of a kit from the top down: what is struck; all of the General MIDI map and what has a name besides, on request. */
export function kitRows(track: Pick<Track, 'keyNames'>, notes: readonly Note[], isWhole: boolean): number[] {
  const used = usedKeys(notes)
  if (!isWhole && used.length > 0) return used
  const map = Array.from({ length: highestOfMap - lowestOfMap + 1 }, (_, index) => lowestOfMap + index)
  return [...new Set([...used, ...map, ...track.keyNames.map(({ key }) => key)])].sort((a, b) => b - a)
}
