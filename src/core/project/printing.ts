import { activeSlots } from '../effects/catalogue'
import type { MusicalContext } from '../effects/noteEffect'
import { type Printed, printChain } from '../effects/print'
import { byOnset, type ControllerEvent, type Note, type NoteOrigin, noteEndTicks } from '../event/note'
import type { GeneratedNote } from '../generators/generated'
import { endOf, type Generator, notesBetween, streamsOf } from '../generators/generator'
import { nameWith } from '../text/bounded'
import type { Stretch } from '../time/timeSchemas'
import type { Ticks } from '../time/units'
import { changeTrack } from './commands'
import { contextOf } from './context'
import {
  instrumentOf,
  newClip,
  newTrack,
  notesAsPlayed,
  projectEndTicks,
  soundingControllers,
  soundingNotes,
} from './create'
import { replacedBy } from './madeFrom'
import type { Project, Track } from './schema'
import { isWithin } from './stretch'
import { carryWords } from './words'

/** The effects of a track that are at work: none while they rest. */
export function chainOf(track: Pick<Track, 'effects' | 'effectChanges' | 'doEffectsRest'>): {
  readonly slots: Track['effects']
  readonly changes: Track['effectChanges']
} {
  return track.doEffectsRest
    ? { slots: noSlots, changes: noChanges }
    : { slots: track.effects, changes: track.effectChanges }
}

const noSlots: Track['effects'] = []
const noChanges: Track['effectChanges'] = []

/** Whether there is an effect at work between the notes of a track and what is heard. */
export function hasEffects(track: Pick<Track, 'effects' | 'effectChanges' | 'doEffectsRest'>): boolean {
  const { slots, changes } = chainOf(track)
  return activeSlots(slots).length > 0 || changes.some((change) => activeSlots(change.slots).length > 0)
}

/** What comes out of the chain of a track. */
export function resultOf(track: Track, context: MusicalContext, nextNoteId: number): Printed {
  return printChain(soundingNotes(track), chainOf(track), context, nextNoteId)
}

export interface PrintOptions {
  /** Only what begins in here; null: the whole piece. */
  readonly stretch: Stretch | null
  /** Each channel, and so each voice that was dealt, on a track of its own. */
  readonly isSplit: boolean
}

export interface PrintResult {
  readonly project: Project
  readonly printedTrackIds: readonly string[]
  /** Notes left out because there were too many to the quarter. */
  readonly leftOut: number
}

/**
 * Prints the effects of tracks: their output becomes ordinary notes on new tracks right below. The effects and the source
 * tracks rest, so that nothing sounds twice; every setting stays as it was.
 */
export function printTracks(
  project: Project,
  trackIds: readonly string[],
  options: PrintOptions,
): PrintResult {
  const context = contextOf(project)
  const printedTrackIds: string[] = []
  let leftOut = 0
  let next = project
  for (const trackId of trackIds) {
    const source = next.tracks.find((track) => track.id === trackId)
    if (!source || !hasEffects(source)) continue
    const printed = resultOf(source, context, next.nextSerial)
    leftOut += printed.leftOut
    next = {
      ...next,
      tracks: replacedBy(next.tracks, [source.id], 'printing'),
      nextSerial: printed.nextNoteId,
    }
    const notes = printed.notes.filter((note) => isWithin(options.stretch, note.onsetTicks))
    const controllers = printed.controllers.filter((event) => isWithin(options.stretch, event.tick))
    const parts = partsOf(notes, controllers, options.isSplit)
    const created: Track[] = []
    for (const [index, part] of parts.entries()) {
      const result = newTrack(next, {
        name: nameWith(source.name, parts.length > 1 ? `, voice ${index + 1}` : ', printed'),
        instrument: source.instrument,
        volume: source.volume,
        pan: source.pan,
        writtenAs: source.writtenAs,
        isArmed: false,
        ...(parts.length > 1 && { channel: part.notes[0]!.channel }),
        madeFrom: { trackIds: [source.id], by: 'printing' },
        clips: [
          newClip(`clip-print-${next.nextSerial}`, 'Printed', part.notes, { controllers: part.controllers }),
        ],
      })
      created.push(result.track)
      next = result.project
    }
    printedTrackIds.push(...created.map((track) => track.id))
    next = carryWords(
      {
        ...next,
        tracks: placedBelow(next.tracks, created, { ...source, isMuted: true, doEffectsRest: true }),
      },
      [source.id],
      created,
    )
  }
  return { project: next, printedTrackIds, leftOut }
}

function placedBelow(tracks: readonly Track[], created: readonly Track[], source: Track): Track[] {
  const others = tracks.filter((track) => !created.includes(track))
  return others.flatMap((track) => (track.id === source.id ? [source, ...created] : [track]))
}

function partsOf(
  notes: readonly Note[],
  controllers: readonly ControllerEvent[],
  isSplit: boolean,
): { readonly notes: readonly Note[]; readonly controllers: readonly ControllerEvent[] }[] {
  const channels = [...new Set(notes.map((note) => note.channel))].sort((a, b) => a - b)
  if (!isSplit || channels.length < 2) return [{ notes, controllers }]
  return channels.map((channel) => ({
    notes: notes.filter((note) => note.channel === channel),
    controllers: controllers.filter((event) => event.channel === channel),
  }))
}

/** Prints what generators play in a stretch: a new track for each of their streams. The generators rest. */
export function printGenerators(
  project: Project,
  generatorIds: readonly string[],
  stretch: Stretch,
): PrintResult {
  const context = contextOf(project)
  const printedTrackIds: string[] = []
  let next = project
  for (const generator of project.generators.filter(({ id }) => generatorIds.includes(id))) {
    const notes = generatedNotes(generator, context, stretch, next.nextSerial)
    next = { ...next, nextSerial: next.nextSerial + notes.length }
    for (const stream of streamsOf(generator)) {
      const part = notes.filter((note) => note.channel === stream.channel)
      if (part.length === 0) continue
      const result = newTrack(next, {
        name: nameWith(stream.name, ', printed'),
        instrument: instrumentOf(stream),
        isArmed: false,
        channel: stream.channel,
        clips: [newClip(`clip-print-${next.nextSerial}`, 'Printed', part)],
      })
      printedTrackIds.push(result.track.id)
      next = result.project
    }
  }
  const generators = next.generators.map((generator) =>
    generatorIds.includes(generator.id) ? { ...generator, isPlaying: false } : generator,
  )
  return { project: { ...next, generators }, printedTrackIds, leftOut: 0 }
}

/** What a generator plays in a stretch as notes of the piece. */
export function generatedNotes(
  generator: Generator,
  context: MusicalContext,
  { startTicks, endTicks }: Stretch,
  firstId: number,
): Note[] {
  return notesOfGenerated(notesBetween(generator, context, startTicks, endTicks), firstId)
}

/** What a generator made as notes of the piece, numbered from `firstId`. */
export function notesOfGenerated(made: readonly GeneratedNote[], firstId: number): Note[] {
  const origin: NoteOrigin = { kind: 'generated' }
  const notes: Note[] = new Array(made.length)
  for (let index = 0; index < made.length; index++) {
    const { onsetTicks, durationTicks, key, velocity, channel } = made[index]!
    notes[index] = {
      id: firstId + index,
      onsetTicks,
      durationTicks,
      key,
      velocity,
      releaseVelocity: 64,
      channel,
      origin,
    }
  }
  return notes
}

/**
 * Takes the bars of a stretch and repeats them: they sound from the beginning of the stretch so many times, and nothing else
 * of the track does. What was there before stays beside it, asleep.
 */
export function takeAndRepeat(project: Project, trackId: string, stretch: Stretch, times: number): Project {
  const track = project.tracks.find((candidate) => candidate.id === trackId)
  if (!track) return project
  const inside = notesAsPlayed(track).filter((note) => isWithin(stretch, note.onsetTicks))
  const curves = soundingControllers(track).filter((event) => isWithin(stretch, event.tick))
  const lengthTicks = stretch.endTicks - stretch.startTicks
  const turns = Array.from({ length: Math.max(1, times) }, (_, turn) => turn)
  let serial = project.nextSerial
  const clip = newClip(
    `clip-${serial++}`,
    times > 1 ? `Repeated ${times} times` : 'Taken',
    turns
      .flatMap((turn) =>
        inside.map((note) => ({ ...note, id: serial++, onsetTicks: note.onsetTicks + turn * lengthTicks })),
      )
      .sort(byOnset),
    {
      controllers: turns.flatMap((turn) =>
        curves.map((event) => ({ ...event, tick: event.tick + turn * lengthTicks })),
      ),
    },
  )
  return {
    ...changeTrack(project, trackId, (old) => ({
      ...old,
      clips: [...old.clips.map((each) => ({ ...each, isSounding: false })), clip],
    })),
    nextSerial: serial,
  }
}

/** Whether there is anything that playing would sound. */
export function hasAnythingToPlay(project: Project): boolean {
  return projectEndTicks(project) > 0 || project.generators.some((generator) => generator.isPlaying)
}

/**
 * Where playing ends by itself: with the last note of the tracks, of what their effects make of them and of generators that
 * end; null: it goes on.
 */
export function playingEndTicks(project: Project): Ticks | null {
  const context = contextOf(project)
  let endTicks = projectEndTicks(project)
  for (const track of project.tracks)
    if (hasEffects(track)) endTicks = Math.max(endTicks, resultEndTicks(track, context))
  for (const generator of project.generators) {
    if (!generator.isPlaying) continue
    const ownEnd = endOf(generator, context)
    if (ownEnd === null) return null
    endTicks = Math.max(endTicks, ownEnd)
  }
  return endTicks
}

const resultEnds = new WeakMap<Track, { readonly context: MusicalContext; readonly endTicks: Ticks }>()

/** So many notes of the end of a track tell how long its effects go on: the press of play is not to wait for all of them. */
const notesOfTail = 256

/** Echoes go on after the last note that was played. */
function resultEndTicks(track: Track, context: MusicalContext): Ticks {
  let known = resultEnds.get(track)
  if (known?.context !== context) {
    const lastNotes = soundingNotes(track).slice(-notesOfTail)
    const ends = printChain(lastNotes, chainOf(track), context, 0).notes.map(noteEndTicks)
    known = { context, endTicks: ends.reduce((latest, end) => Math.max(latest, end), 0) }
    resultEnds.set(track, known)
  }
  return known.endTicks
}
