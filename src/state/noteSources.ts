import type { Note } from '@/core/event/note'
import { findNote } from '@/core/project/findNote'
import type { Project } from '@/core/project/schema'
import { journal } from '@/engine/journal/journal'

/** What is said of notes that nobody played here. */
export const notPlayed = 'not played here'

/**
 * Who played each note, by name: from the events of the takes they come from. A note of a port that no player sits at has the
 * port's name and channel.
 */
export async function sourcesOf(project: Project, notes: readonly Note[]): Promise<string[]> {
  const origins = notes.map((note) => playedOrigin(project, note))
  const serials = new Set(origins.flatMap((origin) => (origin ? [origin.takeSerial] : [])))
  const takes = new Map(
    await Promise.all(
      [...serials].map(async (serial) => [serial, await journal.eventsOf(project.id, serial)] as const),
    ),
  )
  return origins.map((origin) => {
    const events = origin && takes.get(origin.takeSerial)
    if (!events || origin.eventIndex >= events.count) return notPlayed
    const portId = events.portIds[events.ports[origin.eventIndex]!]!
    const channel = (events.statuses[origin.eventIndex]! & 15) + 1
    const source =
      project.sources.find(({ address }) => address.portId === portId && address.channel === channel) ??
      project.sources.find(({ address }) => address.portId === portId && address.channel === null)
    return source?.name ?? `${portId}, channel ${channel}`
  })
}

function playedOrigin(project: Project, note: Note) {
  let current: Note | undefined = note
  // A note may have been carried from track to track.
  for (let steps = 0; current && steps < 8; steps++) {
    const { origin }: Note = current
    if (origin.kind === 'played') return origin
    if (origin.kind !== 'carried') return null
    current = findNote(project, origin.fromNoteId)?.note
  }
  return null
}
