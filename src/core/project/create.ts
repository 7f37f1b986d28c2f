import type { Note } from '../event/note'
import { percussionChannel } from '../midi/generalMidi'
import {
  type Clip,
  defaultScoreSettings,
  type Instrument,
  type Project,
  projectSchemaVersion,
  type Track,
} from './schema'

export function emptyProject(id: string, name: string, nowMs: number): Project {
  return {
    schemaVersion: projectSchemaVersion,
    id,
    name,
    subtitle: '',
    createdAtMs: nowMs,
    tempos: [{ tick: 0, tempoBpm: 100 }],
    meters: [{ tick: 0, numerator: 4, denominator: 4 }],
    key: null,
    sources: [],
    tracks: [],
    takes: [],
    scoreSettings: defaultScoreSettings,
    countInBars: 1,
    isClickOn: true,
    nextSerial: 1,
  }
}

export function newTrack(
  project: Project,
  fields: { name: string; instrument: Instrument } & Partial<Omit<Track, 'id'>>,
): { project: Project; track: Track } {
  const serial = project.nextSerial
  const used = project.tracks.map((track) => track.channel)
  const track: Track = {
    id: `track-${serial}`,
    thread: project.tracks.length,
    input: null,
    channel: fields.instrument.kind === 'drums' ? percussionChannel : freeChannel(used),
    volume: 0.8,
    pan: 0,
    isMuted: false,
    isSolo: false,
    isArmed: true,
    effects: [],
    printedFromTrackId: null,
    staffSplitKey: 'auto',
    isOnPage: true,
    clips: [],
    ...fields,
  }
  return { project: { ...project, nextSerial: serial + 1, tracks: [...project.tracks, track] }, track }
}

/** The lowest channel nobody uses, percussion's left free; when all are taken, they are shared evenly. */
function freeChannel(used: readonly number[]): number {
  const melodic = Array.from({ length: 16 }, (_, index) => index + 1).filter(
    (channel) => channel !== percussionChannel,
  )
  return melodic.find((channel) => !used.includes(channel)) ?? melodic[used.length % melodic.length]!
}

export function newClip(id: string, name: string, notes: readonly Note[], fields: Partial<Clip> = {}): Clip {
  return { id, name, takeSerial: null, isSounding: true, notes, controllers: [], ...fields }
}

/** The notes of a track that are heard and written, in order of onset. Cached by identity of the clips. */
export function soundingNotes(track: Track): readonly Note[] {
  const sounding = track.clips.filter((clip) => clip.isSounding)
  if (sounding.length === 0) return noNotes
  if (sounding.length === 1) return sounding[0]!.notes
  const cached = mergedNotes.get(track.clips)
  if (cached) return cached
  const merged = sounding
    .flatMap((clip) => clip.notes)
    .sort((a, b) => a.onsetTicks - b.onsetTicks || a.id - b.id)
  mergedNotes.set(track.clips, merged)
  return merged
}

const noNotes: readonly Note[] = []
const mergedNotes = new WeakMap<readonly Clip[], readonly Note[]>()

/** Position after the last sounding note of the piece; 0 when there is none. */
export function projectEndTicks(project: Project): number {
  let end = 0
  for (const track of project.tracks) {
    for (const clip of track.clips) {
      if (!clip.isSounding) continue
      end = Math.max(end, clipEndTicks(clip))
    }
  }
  return end
}

const clipEnds = new WeakMap<readonly Note[], number>()

function clipEndTicks(clip: Clip): number {
  let end = clipEnds.get(clip.notes)
  if (end === undefined) {
    end = 0
    for (const note of clip.notes) end = Math.max(end, note.onsetTicks + note.durationTicks)
    clipEnds.set(clip.notes, end)
  }
  return end
}
