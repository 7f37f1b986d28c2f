import { z } from 'zod'
import { type ProjectHead, projectHeadSchema, projectSchemaVersion } from './schema'

/** Brings a project of one version up to the next. Keyed by the version it starts from. */
export type Migrations = Readonly<Record<number, (old: Record<string, unknown>) => Record<string, unknown>>>

type Stored = Record<string, unknown>
const listOf = (value: unknown): Stored[] => (Array.isArray(value) ? (value as Stored[]) : [])

/** Each change of the stored shape adds one here. */
const migrations: Migrations = {
  /** Tracks had one input; now routes with key ranges, monitoring, sends and snapping. Takes know how they lay. */
  1: (old) => {
    const tracks = listOf(old.tracks).map(({ input, ...track }): Stored => {
      const address = input as { portId: string; channel: number | null } | null
      const isHearing = address !== null && address.portId !== 'nobody'
      return {
        ...track,
        routes: isHearing
          ? [
              {
                ...address,
                lowKey: 0,
                highKey: 127,
                toChannel: null,
                transposeSemitones: 0,
                velocity: { kind: 'asPlayed' },
              },
            ]
          : [],
        monitor: 'always',
        sendTo: null,
        offsetMs: 0,
        snapping: null,
        clips: listOf(track.clips).map((clip) => ({ ...clip, combinedFrom: null })),
      }
    })
    const listeners = tracks
      .filter((track) => track.isArmed === true)
      .map((track) => ({ trackId: track.id, routes: track.routes }))
    const { countInBars, isClickOn, ...rest } = old
    return {
      ...rest,
      tracks,
      sources: listOf(old.sources).map((source) => ({
        ...source,
        portName: '',
        group: '',
        compensationMs: 0,
      })),
      takes: listOf(old.takes).map((take) => ({
        ...take,
        tempos: old.tempos,
        listeners,
        compensations: [],
        earlyMs: 80,
        loop: null,
        clockPoints: [],
      })),
      countIn: countInBars,
      click: { isOn: isClickOn, hasAccent: true, subdivision: 1, level: 0.7, side: 'both', portId: null },
      recording: { stretch: null, isLooping: false, takeMode: 'fresh' },
      isListening: true,
      clock: { sendTo: [], follow: null },
      cables: [],
      backing: null,
      assets: [],
      foldedGroups: [],
      acceptedRemarks: [],
    }
  },
  /** There was one effect, on tracks; now any number, on sources too, and generators. */
  2: (old) => ({
    ...old,
    tracks: listOf(old.tracks).map(withChain),
    sources: listOf(old.sources).map((source) => ({ ...source, effects: [] })),
    takes: listOf(old.takes).map((take) => ({ ...take, chains: [] })),
    recording: { ...(old.recording as Stored), keeps: 'result' },
    generators: [],
  }),
  /** Printing switched effects off one by one; now they rest. */
  3: (old) => ({ ...old, tracks: listOf(old.tracks).map(withRest) }),
}

function withChain(track: Stored): Stored {
  return { ...track, effects: listOf(track.effects).map(arpeggioSlot), effectChanges: [] }
}

function withRest(track: Stored): Stored {
  return { ...track, doEffectsRest: false }
}

/**
 * A stored set-up of version 1 as version 2 has it: those did not say which project version their tracks and sources were of,
 * so what they have tells.
 */
export function migrateTemplate(stored: Readonly<Stored>): Stored {
  return {
    ...stored,
    templateVersion: 2,
    tracks: listOf(stored.tracks)
      .map((track) => ('effectChanges' in track ? track : withChain(track)))
      .map((track) => ('doEffectsRest' in track ? track : withRest(track))),
    sources: listOf(stored.sources).map((source) =>
      'effects' in source ? source : { ...source, effects: [] },
    ),
  }
}

/** The settings of the one effect there was, in today's terms. */
function arpeggioSlot(slot: Stored): Stored {
  const { rate, direction, octaves, gate, seed } = slot.settings as Stored
  return {
    id: slot.id,
    kind: 'arpeggio',
    isOn: slot.isOn,
    seed,
    settings: { rate, order: direction, octaves, gate: Math.round(Number(gate) * 100) },
  }
}

/** A stored project that cannot be opened: says why. */
export class ProjectFormatError extends Error {
  override name = 'ProjectFormatError'
}

const versioned = z.looseObject({ schemaVersion: z.number().int().min(1) })

/**
 * Reads the head of a stored project, whatever version it was written by.
 *
 * @throws ProjectFormatError when it is newer than this program, or not a project
 */
export function readProjectHead(
  stored: unknown,
  steps: Migrations = migrations,
  current = projectSchemaVersion,
): ProjectHead {
  const parsed = versioned.safeParse(stored)
  if (!parsed.success)
    throw new ProjectFormatError('This is not a project: it does not say which version it is')
  let value: Record<string, unknown> = parsed.data
  let version = parsed.data.schemaVersion
  if (version > current)
    throw new ProjectFormatError(
      `The project was written by a newer version of Unbroken Voice (format ${version}; this one reads up to ${current}). Nothing was changed`,
    )
  for (; version < current; version++) {
    const step = steps[version]
    if (!step)
      throw new ProjectFormatError(`The project is of format ${version}, which cannot be brought up to date`)
    value = { ...step(value), schemaVersion: version + 1 }
  }
  const head = projectHeadSchema.safeParse(value)
  if (!head.success) {
    const issue = head.error.issues[0]!
    throw new ProjectFormatError(`The project is damaged at "${issue.path.join('.')}": ${issue.message}`)
  }
  return head.data
}
