import { changeTrack } from '../../project/commands'
import type { Project, Source, Track } from '../../project/schema'
import { tracksOf } from '../reaching'
import type { WiringRemark } from '../wiringRemark'

/** The first link on the way to a track that keeps it silent or unrecorded. */
export function silentLinks(project: Project, source: Source): WiringRemark[] {
  const hasSolo = project.tracks.some((track) => track.isSolo)
  return tracksOf(project, source).flatMap((track): WiringRemark[] => {
    const link = silentLink(track, hasSolo)
    if (!link) return []
    return [
      {
        id: `${link.id} ${track.id}`,
        head: `${track.name} ${link.what}.`,
        text: `${source.name} reaches it, but ${link.why}.`,
        sourceIds: [source.id],
        trackIds: [track.id],
        fixes: [{ label: link.fix, change: (before) => changeTrack(before, track.id, link.change) }],
      },
    ]
  })
}

interface SilentLink {
  readonly id: string
  readonly what: 'is silent' | 'is not recorded'
  readonly why: string
  readonly fix: string
  readonly change: (track: Track) => Track
}

function silentLink(track: Track, hasSolo: boolean): SilentLink | null {
  const silent = (id: string, why: string, fix: string, change: SilentLink['change']): SilentLink => ({
    id,
    what: 'is silent',
    why,
    fix,
    change,
  })
  if (track.isMuted)
    return silent('muted', 'it is muted', `Unmute ${track.name}`, (old) => ({ ...old, isMuted: false }))
  if (hasSolo && !track.isSolo)
    return silent('not solo', 'another track plays solo', `Let ${track.name} be heard too`, (old) => ({
      ...old,
      isSolo: true,
    }))
  if (track.volume === 0)
    return silent('volume', 'its volume is zero', `Turn ${track.name} up`, (old) => ({ ...old, volume: 0.8 }))
  if (track.instrument.kind === 'none' && !track.sendTo)
    return silent('no instrument', 'it has no instrument and sends to no port', 'Give it a piano', (old) => ({
      ...old,
      instrument: { kind: 'program', program: 0 },
    }))
  if (track.monitor === 'off')
    return silent('not monitored', 'what arrives is not monitored', `Hear ${track.name}`, (old) => ({
      ...old,
      monitor: 'always',
    }))
  if (!track.isArmed)
    return {
      id: 'not armed',
      what: 'is not recorded',
      why: track.monitor === 'armed' ? 'it is not armed, so it is silent too' : 'it is not armed',
      fix: `Arm ${track.name}`,
      change: (old) => ({ ...old, isArmed: true }),
    }
  return null
}

/** Channel 10 is percussion by General MIDI; any other choice is allowed, and can be said to be meant. */
export function wrongKindOfInstrument(project: Project, source: Source): WiringRemark[] {
  const { channel } = source.address
  return tracksOf(project, source).flatMap((track): WiringRemark[] => {
    const isDrumTrack = track.instrument.kind === 'drums'
    const sendsDrums = channel === 10
    if (channel === null || isDrumTrack === sendsDrums || track.instrument.kind === 'none') return []
    return [
      {
        id: `instrument ${source.id} ${track.id}`,
        head: sendsDrums
          ? `${source.name} plays drums on a pitched instrument.`
          : `${source.name} plays on a drum kit.`,
        text: sendsDrums
          ? `It sends on channel 10, the drums’ channel; ${track.name} sounds as a pitched instrument.`
          : `It sends on channel ${channel}, but ${track.name} has a drum kit.`,
        sourceIds: [source.id],
        trackIds: [track.id],
        fixes: [
          {
            label: sendsDrums ? 'Take the drum kit' : 'Take a piano',
            change: (before) =>
              changeTrack(before, track.id, (old) => ({
                ...old,
                instrument: sendsDrums ? { kind: 'drums' } : { kind: 'program', program: 0 },
              })),
          },
        ],
      },
    ]
  })
}
