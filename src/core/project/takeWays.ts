import type { TakeInfo } from '../capture/takeInfo'
import { byOnset, mostLines, type Note, type NoteId } from '../event/note'
import { nameWith } from '../text/bounded'
import { heardAround, takeEndTicks } from './commands'
import { newTrack } from './create'
import type { Clip, Project, TakeWay, Track } from './schema'
import { voicesOf } from './voiceEdits'

/**
 * The clip that stands for a take on a track: what is heard of it, else what was made of it last (it can lie there as it was played,
 * too); undefined where it was not played.
 */
function clipOf(track: Track, takeSerial: number): Clip | undefined {
  const own = track.clips.filter((clip) => clip.takeSerial === takeSerial)
  return own.findLast(({ isSounding }) => isSounding) ?? own.at(-1)
}

/** What was played in a clip itself: what was heard around it is in other clips too. */
function ownNotes(track: Track, clip: Clip): readonly Note[] {
  const elsewhere = new Set<NoteId>()
  for (const other of track.clips)
    if (other.id !== clip.id && other.combinedFrom === null)
      for (const { id } of other.notes) elsewhere.add(id)
  return clip.notes.filter(({ id }) => !elsewhere.has(id))
}

/** Tracks that have nothing but a take, and were not there when it was recorded: its own staves. */
function ownStaves(project: Project, takeSerial: number): readonly Track[] {
  const take = project.takes.find(({ serial }) => serial === takeSerial)
  return project.tracks.filter(
    (track) =>
      track.clips.length > 0 &&
      track.clips.every((clip) => clip.takeSerial === takeSerial) &&
      !take?.listeners.some(({ trackId }) => trackId === track.id),
  )
}

/** Whether there is anything else on the tracks of a take, among which it can lie in one way or another. */
export function liesAmongOthers(project: Project, takeSerial: number): boolean {
  return (
    ownStaves(project, takeSerial).length > 0 ||
    project.tracks.some(
      ({ clips }) =>
        clips.some((clip) => clip.takeSerial === takeSerial) &&
        clips.some((clip) => clip.takeSerial !== takeSerial),
    )
  )
}

/** How a take lies on the tracks now; null where it is on none. */
export function wayOfTake(project: Project, takeSerial: number): TakeWay | null {
  if (ownStaves(project, takeSerial).length > 0) return 'staff'
  const lying = project.tracks.flatMap((track) => {
    const clip = clipOf(track, takeSerial)
    return clip ? [{ track, clip }] : []
  })
  if (lying.length === 0) return null
  const isLaidOver = lying.some(
    ({ track, clip }) =>
      clip.isSounding && track.clips.some((other) => other.takeSerial !== takeSerial && other.isSounding),
  )
  if (!isLaidOver) return 'fresh'
  const isVoice = lying.every(({ track, clip }) => {
    if (!clip.notes.some(({ isVoiceByHand }) => isVoiceByHand)) return false
    const own = ownNotes(track, clip)
    return own.length > 0 && voicesOf(own).length === 1 && own.every(({ isVoiceByHand }) => isVoiceByHand)
  })
  return isVoice ? 'voice' : 'layered'
}

/**
 * Lays a take otherwise than it lies: as another take, over what is there, as a voice of its own, or on a staff of its own. What was
 * recorded before stays as it is, and the take can be laid otherwise again at any time.
 */
export function layTake(project: Project, takeSerial: number, way: TakeWay): Project {
  const now = wayOfTake(project, takeSerial)
  if (now === null || now === way) return project
  const together = now === 'staff' ? withoutStaff(project, takeSerial) : project
  const plain = now === 'voice' ? inVoices(together, takeSerial, () => null) : together
  switch (way) {
    case 'fresh':
      return aloneOnItsTracks(plain, takeSerial)
    case 'layered':
      return overOthers(plain, takeSerial)
    case 'voice':
      return inVoices(overOthers(plain, takeSerial), takeSerial, freeVoice)
    case 'staff':
      return onOwnStaff(plain, takeSerial)
  }
}

/** Of each track that it was played on, the take is heard and nothing else. */
function aloneOnItsTracks(project: Project, takeSerial: number): Project {
  return {
    ...project,
    tracks: project.tracks.map((track) => {
      const own = clipOf(track, takeSerial)
      return own
        ? { ...track, clips: track.clips.map((clip) => ({ ...clip, isSounding: clip === own })) }
        : track
    }),
  }
}

/** The take sounds, and on each of its tracks what sounds besides, or else what was recorded last before it. */
function overOthers(project: Project, takeSerial: number): Project {
  return {
    ...project,
    tracks: project.tracks.map((track) => {
      const own = clipOf(track, takeSerial)
      if (!own) return track
      const others = track.clips.filter((clip) => clip.takeSerial !== takeSerial)
      const earlier = others.some(({ isSounding }) => isSounding) ? undefined : others.at(-1)
      return {
        ...track,
        clips: track.clips.map((clip) =>
          clip === own || clip === earlier ? { ...clip, isSounding: true } : clip,
        ),
      }
    }),
  }
}

/** The lowest voice from the second on that nothing else on the track is in; none where the take is alone. */
function freeVoice(track: Track, clip: Clip): number | null {
  if (!track.clips.some((other) => other !== clip && other.isSounding)) return null
  const taken = voicesOf(track.clips.flatMap((other) => (other === clip ? [] : other.notes)))
  for (let voice = 2; voice <= mostLines; voice++) if (!taken.includes(voice)) return voice
  return null
}

/** Puts what was played in a take into a voice; null: into none. */
function inVoices(
  project: Project,
  takeSerial: number,
  voiceFor: (track: Track, clip: Clip) => number | null,
): Project {
  return {
    ...project,
    tracks: project.tracks.map((track) => {
      const clip = clipOf(track, takeSerial)
      if (!clip) return track
      const own = new Set(ownNotes(track, clip).map(({ id }) => id))
      const voice = voiceFor(track, clip)
      const put = (note: Note): Note => {
        if (!own.has(note.id)) return note
        const { voice: _voice, isVoiceByHand: _byHand, ...plain } = note
        return voice === null ? plain : { ...plain, voice, isVoiceByHand: true }
      }
      return {
        ...track,
        clips: track.clips.map((each) =>
          each.id === clip.id ? { ...each, notes: each.notes.map(put) } : each,
        ),
      }
    }),
  }
}

/** Moves a take to tracks of its own, each beneath the one it was recorded on. */
function onOwnStaff(project: Project, takeSerial: number): Project {
  const take = project.takes.find(({ serial }) => serial === takeSerial)
  if (!take) return project
  const endTicks = takeEndTicks(take)
  let next = project
  for (const { id } of project.tracks) {
    const track = next.tracks.find((each) => each.id === id)!
    const clip = clipOf(track, takeSerial)
    // Where nothing else was recorded, it has a staff of its own.
    const others = track.clips.filter((each) => each.takeSerial !== takeSerial)
    if (!clip || others.length === 0) continue
    const { clips: _clips, ...head } = track
    const made = newTrack(next, {
      ...fieldsOf(head),
      name: nameWith(track.name, ` ${take.name}`),
      thread: next.tracks.length,
      routes: [],
      isArmed: false,
      clips: [
        {
          ...clip,
          notes: ownNotes(track, clip),
          controllers: clip.controllers.filter(({ tick }) => tick >= take.startTicks && tick < endTicks),
          isSounding: true,
        },
      ],
    })
    const left = track.clips.filter((each) => each !== clip)
    const woken = left.some(({ isSounding }) => isSounding) ? undefined : others.at(-1)
    const remaining = left.map((each) => (each === woken ? { ...each, isSounding: true } : each))
    const tracks = made.project.tracks.filter((each) => each.id !== made.track.id)
    const at = tracks.findIndex((each) => each.id === id)
    next = {
      ...made.project,
      tracks: [...tracks.slice(0, at), { ...track, clips: remaining }, made.track, ...tracks.slice(at + 1)],
    }
  }
  return next
}

/** What a track is, without what makes it this one; it has a channel of its own. */
function fieldsOf({
  id: _id,
  madeFrom: _madeFrom,
  channel: _channel,
  ...fields
}: Omit<Track, 'clips'>): Omit<Track, 'id' | 'clips' | 'madeFrom' | 'channel'> {
  return fields
}

/** Brings a take back from its own staves to the tracks above them that heard it. */
function withoutStaff(project: Project, takeSerial: number): Project {
  const staves = ownStaves(project, takeSerial)
  const take = project.takes.find(({ serial }) => serial === takeSerial)
  if (!take) return project
  let { tracks } = project
  for (const staff of staves) {
    const at = tracks.findIndex(({ id }) => id === staff.id)
    const hears = ({ id }: Track) => take.listeners.some(({ trackId }) => trackId === id)
    const home = tracks.slice(0, at).findLast(hears) ?? tracks.find(hears)
    // Whoever heard it is gone: it stays where it is.
    if (!home) continue
    tracks = tracks
      .filter(({ id }) => id !== staff.id)
      .map((track) =>
        track.id === home.id
          ? { ...track, clips: [...track.clips, ...staff.clips.map(withAround(track, take))] }
          : track,
      )
  }
  return {
    ...project,
    tracks,
    words: project.words.filter(({ trackId }) => trackId === null || tracks.some(({ id }) => id === trackId)),
  }
}

/** What was played of a take on a staff of its own, with what is heard around it where it comes back to. */
const withAround =
  (track: Track, take: TakeInfo) =>
  (clip: Clip): Clip => {
    const around = heardAround(track, take)
    return {
      ...clip,
      notes: [...around.notes, ...clip.notes].sort(byOnset),
      controllers: [...around.controllers, ...clip.controllers],
    }
  }
