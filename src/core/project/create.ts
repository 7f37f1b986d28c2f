import { defaultClick } from '../capture/clickSettings'
import { type Snapping, snapNotes } from '../capture/snapping'
import type { ControllerEvent, Note } from '../event/note'
import type { GeneratedStream } from '../generators/generated'
import { percussionChannel } from '../midi/generalMidi'
import type { Instrument } from '../midi/instrument'
import { defaultScoreSettings } from '../notation/scoreSettings'
import { defaultPageSetup } from '../pages/pageSetup'
import { type Clip, type Project, projectSchemaVersion, type Track } from './schema'

export function emptyProject(id: string, name: string, nowMs: number): Project {
  return {
    schemaVersion: projectSchemaVersion,
    id,
    name,
    subtitle: '',
    createdAtMs: nowMs,
    tempos: [{ tick: 0, tempoBpm: 100 }],
    meters: [{ tick: 0, numerator: 4, denominator: 4 }],
    sections: [],
    words: [],
    composer: '',
    arranger: '',
    rights: '',
    page: defaultPageSetup,
    keys: [],
    amendments: [],
    sources: [],
    tracks: [],
    takes: [],
    scoreSettings: defaultScoreSettings,
    countIn: 1,
    click: defaultClick,
    recording: {
      stretch: null,
      isLooping: false,
      isThrownEachTurn: false,
      takeMode: 'fresh',
      speedPercent: 100,
      keeps: 'result',
    },
    isListening: true,
    clock: { sendTo: [], follow: null },
    cables: [],
    generators: [],
    backing: null,
    assets: [],
    foldedGroups: [],
    acceptedRemarks: [],
    nextSerial: 1,
  }
}

/** What a new track begins with, apart from what makes it this one. */
export const trackDefaults = {
  routes: [],
  monitor: 'always',
  sendTo: null,
  offsetMs: 0,
  snapping: null,
  volume: 0.8,
  pan: 0,
  isMuted: false,
  isSolo: false,
  isArmed: true,
  effects: [],
  effectChanges: [],
  doEffectsRest: false,
  madeFrom: null,
  tuningCents: 0,
  keyNames: [],
  shortName: '',
  staffSplitKey: 'auto',
  writtenAs: 'auto',
  isOnPage: true,
  bracket: 'usual',
  clips: [],
} as const satisfies Partial<Track>

export function newTrack(
  project: Project,
  fields: { name: string; instrument: Instrument } & Partial<Omit<Track, 'id'>>,
): { project: Project; track: Track } {
  const serial = project.nextSerial
  const used = project.tracks.map((track) => track.channel)
  const track: Track = {
    id: `track-${serial}`,
    thread: project.tracks.length,
    ...trackDefaults,
    channel: fields.instrument.kind === 'drums' ? percussionChannel : freeChannel(used),
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

/** The instrument a stream of a generator begins with. */
export function instrumentOf({ instrument }: GeneratedStream): Instrument {
  return instrument === 'drums' ? { kind: 'drums' } : { kind: 'program', program: instrument }
}

export function newClip(id: string, name: string, notes: readonly Note[], fields: Partial<Clip> = {}): Clip {
  return {
    id,
    name,
    takeSerial: null,
    isSounding: true,
    combinedFrom: null,
    notes,
    controllers: [],
    ...fields,
  }
}

/**
 * The notes of a track that are heard and written, in order of onset, on their grid where the track snaps what was
 * played. Cached by identity of the clips and the snapping.
 */
export function soundingNotes(track: Track): readonly Note[] {
  const notes = notesAsPlayed(track)
  if (!track.snapping || notes.length === 0) return notes
  const cached = snappedNotes.get(notes)
  if (cached?.snapping === track.snapping) return cached.notes
  const snapped = snapNotes(notes, track.snapping)
  snappedNotes.set(notes, { snapping: track.snapping, notes: snapped })
  return snapped
}

/** The same without snapping. */
export function notesAsPlayed(track: Track): readonly Note[] {
  const sounding = track.clips.filter((clip) => clip.isSounding)
  if (sounding.length === 0) return noNotes
  if (sounding.length === 1) return sounding[0]!.notes
  const cached = mergedNotes.get(track.clips)
  if (cached) return cached
  // A clip laid over others carries the notes around it under their own ids: each sounds once.
  const byId = new Map(sounding.flatMap((clip) => clip.notes).map((note) => [note.id, note]))
  const merged = [...byId.values()].sort((a, b) => a.onsetTicks - b.onsetTicks || a.id - b.id)
  mergedNotes.set(track.clips, merged)
  return merged
}

/** Everything that is heard of a track besides notes, in order of time. Cached by identity of the clips. */
export function soundingControllers(track: Track): readonly ControllerEvent[] {
  const sounding = track.clips.filter((clip) => clip.isSounding)
  if (sounding.length === 0) return noControllers
  if (sounding.length === 1) return sounding[0]!.controllers
  const cached = mergedControllers.get(track.clips)
  if (cached) return cached
  const byValue = new Map(
    sounding
      .flatMap((clip) => clip.controllers)
      .map((event) => [`${event.tick} ${event.kind} ${event.number} ${event.value} ${event.channel}`, event]),
  )
  const merged = [...byValue.values()].sort((a, b) => a.tick - b.tick)
  mergedControllers.set(track.clips, merged)
  return merged
}

/** The programs that a track changes to while it plays. */
export function programsIn(track: Track): readonly number[] {
  const events = soundingControllers(track)
  let programs = programsOf.get(events)
  if (!programs) {
    programs = [...new Set(events.filter(({ kind }) => kind === 'program').map(({ value }) => value))]
    programsOf.set(events, programs)
  }
  return programs
}

const programsOf = new WeakMap<readonly ControllerEvent[], readonly number[]>()
const noControllers: readonly ControllerEvent[] = []
const mergedControllers = new WeakMap<readonly Clip[], readonly ControllerEvent[]>()
const snappedNotes = new WeakMap<readonly Note[], { snapping: Snapping; notes: readonly Note[] }>()
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
