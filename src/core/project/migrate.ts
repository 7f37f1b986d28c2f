import { z } from '../border/checks'
import { FileProblem } from '../border/fileProblem'
import { emptyProject, trackDefaults } from './create'
import { type AsidePart, type StandIns, salvage } from './salvage'
import { type ProjectHead, projectHeadSchema, projectSchemaVersion } from './schema'

/** Brings a project of one version up to the next. Keyed by the version it starts from. */
export type Migrations = Readonly<Record<number, (old: Record<string, unknown>) => Record<string, unknown>>>

type Stored = Record<string, unknown>
const isStored = (value: unknown): value is Stored => typeof value === 'object' && value !== null
/** What is no object in a list of objects is damaged: the check after the last step finds it, and it is kept aside. */
const each = (value: unknown, change: (element: Stored) => Stored): unknown[] =>
  (Array.isArray(value) ? value : []).map((element: unknown) =>
    isStored(element) ? change(element) : element,
  )

/**
 * Each change of the stored shape adds one here. What a step adds is written out in it, as it was meant when that form was new: what is usual
 * today may change, and old pieces do not change with it.
 */
const migrations: Migrations = {
  /** Tracks had one input; now routes with key ranges, monitoring, sends and snapping. Takes know how they lay. */
  1: (old) => {
    const tracks = each(old.tracks, ({ input, ...track }): Stored => {
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
        clips: each(track.clips, (clip) => ({ ...clip, combinedFrom: null })),
      }
    })
    const listeners = tracks
      .filter(isStored)
      .filter((track) => track.isArmed === true)
      .map((track) => ({ trackId: track.id, routes: track.routes }))
    const { countInBars, isClickOn, ...rest } = old
    return {
      ...rest,
      tracks,
      sources: each(old.sources, (source) => ({
        ...source,
        portName: '',
        group: '',
        compensationMs: 0,
      })),
      takes: each(old.takes, (take) => ({
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
    tracks: each(old.tracks, withChain),
    sources: each(old.sources, (source) => ({ ...source, effects: [] })),
    takes: each(old.takes, (take) => ({ ...take, chains: [] })),
    recording: { ...(old.recording as Stored), keeps: 'result' },
    generators: [],
  }),
  /** Printing switched effects off one by one; now they rest. */
  3: (old) => ({ ...old, tracks: each(old.tracks, withRest) }),
  /** Tracks could only be made by printing; now by taking apart too. Sections, tuning and names of keys are new. */
  4: (old) => ({
    ...old,
    tracks: each(old.tracks, withOriginOfTrack),
    sections: [],
    recording: { ...(old.recording as Stored), isThrownEachTurn: false },
  }),
  /** Words of the piece are new, how parts are written, and more that the page can show. */
  5: (old) => ({
    ...old,
    tracks: each(old.tracks, withWriting),
    words: [],
    composer: '',
    rights: '',
    scoreSettings: withNew(old.scoreSettings, {
      readsTouch: true,
      isConcertPitch: false,
      readsClefs: true,
      readsDynamics: true,
      writesWords: true,
    }),
  }),
  /** There was one key for the whole piece; now each from its bar on. */
  6: ({ key, ...old }) => ({
    ...old,
    keys: isStored(key) ? [{ tick: 0, ...key }] : [],
    scoreSettings: withNew(old.scoreSettings, {
      followsHands: false,
      readsSwing: true,
      readsOrnaments: true,
      readsSlurs: true,
      readsPedal: true,
    }),
  }),
  /** What the pedal holds, beams over rests and repeats can be asked for; pieces are laid out on paper. */
  7: (old) => ({
    ...old,
    arranger: '',
    page: {
      paper: 'A4',
      isAcross: false,
      scoreStaffMm: 5.5,
      partStaffMm: 7,
      marginMm: 15,
      barsToLine: null,
      linesToPage: null,
      gathersRests: true,
      turnsAtRests: true,
    },
    scoreSettings: withNew(old.scoreSettings, {
      holdsThroughPedal: false,
      beamsOverRests: false,
      foldsRepeats: false,
    }),
  }),
  /** Nothing could be changed on the page by hand; parts had no short names, and empty staves were always printed. */
  8: (old) => ({
    ...old,
    amendments: [],
    page: withNew(old.page, { hidesEmptyStaves: false }),
    tracks: each(old.tracks, (track) => ({ ...track, shortName: '' })),
  }),
  /** It could not be played slower, brackets were the usual ones, and parts had neither cues nor a key of their drums. */
  9: (old) => ({
    ...old,
    recording: { ...(isStored(old.recording) ? old.recording : {}), speedPercent: 100 },
    click: withNew(old.click, { channel: 10 }),
    page: withNew(old.page, { writesCues: false, writesDrumKey: true }),
    tracks: each(old.tracks, (track) => ({ ...track, bracket: 'usual' })),
  }),
  /** Whoever played sent notes; now sound is followed too. */
  10: (old) => ({ ...old, sources: each(old.sources, (source) => ({ ...source, soundInput: null })) }),
}

/** What is new beside what is there; some of it may be there already, since a form grew a little before its number did. */
function withNew(settings: unknown, added: Stored): Stored {
  return { ...added, ...(isStored(settings) ? settings : {}) }
}

function withChain(track: Stored): Stored {
  return { ...track, effects: each(track.effects, arpeggioSlot), effectChanges: [] }
}

function withRest(track: Stored): Stored {
  return { ...track, doEffectsRest: false }
}

function withOriginOfTrack({ printedFromTrackId, ...track }: Stored): Stored {
  const madeFrom = printedFromTrackId ? { trackIds: [printedFromTrackId], by: 'printing' } : null
  return { ...track, madeFrom, tuningCents: 0, keyNames: [] }
}

function withWriting(track: Stored): Stored {
  return { ...track, writtenAs: 'auto' }
}

/**
 * A stored set-up of an earlier version as today's has it: those did not say which project version their tracks and sources were of,
 * so what they have tells.
 */
export function migrateTemplate(stored: Readonly<Stored>): Stored {
  return {
    ...stored,
    templateVersion: 6,
    tracks: each(stored.tracks, (track) => {
      const chained = 'effectChanges' in track ? track : withChain(track)
      const resting = 'doEffectsRest' in chained ? chained : withRest(chained)
      const made = 'madeFrom' in resting ? resting : withOriginOfTrack(resting)
      const written = 'writtenAs' in made ? made : withWriting(made)
      return { shortName: '', bracket: 'usual', ...written }
    }),
    sources: each(stored.sources, (source) => ({ effects: [], soundInput: null, ...source })),
  }
}

/** The settings of the one effect there was, in today's terms. */
function arpeggioSlot(slot: Stored): Stored {
  const { rate, direction, octaves, gate, seed } = isStored(slot.settings) ? slot.settings : {}
  return {
    id: slot.id,
    kind: 'arpeggio',
    isOn: slot.isOn,
    seed,
    settings: { rate, order: direction, octaves, gate: Math.round(Number(gate) * 100) },
  }
}

/** A stored project that cannot be opened: says why. */
export class ProjectFormatError extends FileProblem {
  override name = 'ProjectFormatError'
}

const versioned = z.looseObject({ schemaVersion: z.number().int().min(1) })

/** Something of which more fields than this are missing is no project. */
const mostMissing = 4

/** What stands in for a single field that cannot be read. */
const standIns: StandIns = {
  '': emptyProject('', 'Untitled', 0),
  tracks: trackDefaults,
  sources: {
    name: 'A player',
    kind: 'midiPort',
    description: '',
    portName: '',
    group: '',
    compensationMs: 0,
    soundInput: null,
    effects: [],
  },
  takes: { name: 'A take', earlyMs: 0, loop: null, compensations: [], clockPoints: [], chains: [] },
  generators: { name: 'A generator', isPlaying: false, seed: 1, isSeedKept: true, earlierSeeds: [] },
}

/** The head of a project, with those parts of it that were damaged and had to be left out. */
export interface ReadHead {
  readonly head: ProjectHead
  readonly aside: readonly AsidePart[]
}

/**
 * Reads the head of a stored project, whatever version it was written by. A damaged part is left out and kept aside.
 *
 * @throws ProjectFormatError when it is newer than this program, or not a project
 */
export function readProjectHead(
  stored: unknown,
  steps: Migrations = migrations,
  current = projectSchemaVersion,
): ReadHead {
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
  const read = salvage(projectHeadSchema, value, standIns)
  const missing = read?.aside.filter(({ path, value }) => !path.includes('.') && value === undefined)
  if (!read || missing!.length > mostMissing)
    throw new ProjectFormatError('So much of the project is damaged or missing that none of it can be read')
  return { head: read.value, aside: read.aside }
}
