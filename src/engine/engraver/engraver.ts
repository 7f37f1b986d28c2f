import type { NoteId } from '@/core/event/note'
import { type NoteColumns, packNotes, unpackNotes } from '@/core/event/noteColumns'
import { writeMusicXml } from '@/core/formats/musicXml'
import type { Ledger } from '@/core/ledger/ledger'
import { sumLedgers } from '@/core/ledger/ledger'
import { abbreviation } from '@/core/notation/abbreviations'
import type { Amendment, Misfit, WrittenLevel } from '@/core/notation/amendments/amendment'
import { type ChosenOnPage, type Drawn, draw, type Stroke } from '@/core/notation/amendments/pen'
import { buildScore, ScoreBuilder } from '@/core/notation/buildScore'
import { type FoundChord, findChords } from '@/core/notation/chordSymbols/findChords'
import { partsThatPlay } from '@/core/notation/emptyStaves'
import type { TornLines } from '@/core/notation/hands'
import type { ScoreHeadings } from '@/core/notation/headings'
import { type Head, standingIn } from '@/core/notation/heads'
import { type WalkDirection, walk } from '@/core/notation/noteWalk'
import { openTiesOf } from '@/core/notation/openTies'
import { type PlayedControls, playedControlsOf } from '@/core/notation/playedControls'
import {
  type Articulation,
  type Clef,
  isUnpitched,
  type NoteValue,
  type Repeat,
  type Score,
  type SpelledPitch,
} from '@/core/notation/score'
import type { KeyChange } from '@/core/notation/scoreSettings'
import { soundOfScore } from '@/core/notation/soundOfScore'
import { isTwoStaffInstrument } from '@/core/notation/staves'
import { breakIntoSystems, type ScoreSystem } from '@/core/notation/systems'
import { byId } from '@/core/project/findNote'
import { scoreSourceWith } from '@/core/project/onPage'
import type { ProjectHead } from '@/core/project/schema'
import type { Milliseconds, Ticks } from '@/core/time/units'
import { type EngravingToolkit, engraveLine, pixelsPerSpace } from './engraveLine'
import { heightPxOf, usualSpacing } from './fillLine'
import { type LinePlaces, placesOf } from './linePlaces'
import { labelled } from './pageLabel'

/** What the page needs to know of a score before any line of it is engraved. */
export interface ScoreOutline {
  readonly revision: number
  readonly keys: readonly KeyChange[]
  readonly measures: readonly { readonly startTicks: Ticks; readonly lengthTicks: Ticks }[]
  readonly repeats: readonly Repeat[]
  readonly systems: readonly (ScoreSystem & { readonly fingerprint: string })[]
  readonly parts: readonly {
    readonly trackId: string
    readonly name: string
    readonly thread: number
    readonly clefs: readonly Clef[]
    readonly splitKey: number | null
    readonly tornLines: TornLines
    readonly lateMs: Milliseconds
    readonly unplacedSyllables: number
    readonly ledger: Ledger
  }[]
  readonly ledger: Ledger
  /** Changes by hand that do not fit what is read now. */
  readonly misfits: readonly Misfit[]
}

/** What is chosen on the page, as it is written: of several notes the first, and what they have in common. */
export interface WrittenPlace {
  /** null: a rest. */
  readonly noteId: NoteId | null
  /** Heads that are chosen. */
  readonly heads: number
  /** All notes that they stand for. */
  readonly noteIds: readonly NoteId[]
  readonly trackId: string
  readonly systemIndex: number
  readonly bar: number
  readonly onsetTicks: Ticks
  readonly durationTicks: Ticks
  readonly value: NoteValue
  readonly tuplet: number | null
  readonly pitch: SpelledPitch | null
  readonly staff: number
  readonly staves: number
  readonly voice: number
  /** Which of the lines of its staff. */
  readonly line: number
  readonly mergedNotes: number
  /** In small print before what it leads to, whose place this is. */
  readonly isGrace: boolean
  /** At all of the notes that are chosen. */
  readonly signs: readonly Articulation[]
  readonly fingering: string | null
  readonly level: WrittenLevel | null
}

/** One line of music, drawn. */
export interface EngravedLine extends LinePlaces {
  readonly svg: string
  /** Indices of the parts whose staves are in it. */
  readonly parts: readonly number[]
}

/** What was played of a track in the last bars, and between which keys it was played so far. */
export interface LivePart {
  readonly trackId: string
  readonly notes: NoteColumns
  readonly lowestKey: number
  readonly highestKey: number
}

/** A line of what is being played: bars by index, `to` not included. */
export interface LiveLine {
  readonly from: number
  readonly to: number
  readonly svg: string
  readonly heightPx: number
}

const noHeadings: ScoreHeadings = {
  title: '',
  subtitle: '',
  composer: '',
  arranger: '',
  rights: '',
  parts: [],
}

/** Pedal and breath are read when the take is there. */
const noControls = playedControlsOf([], 0)

/** What only notes have. */
const nothingAtRest = {
  noteId: null,
  heads: 0,
  noteIds: [],
  pitch: null,
  line: 1,
  mergedNotes: 0,
  isGrace: false,
  signs: [],
  fingering: null,
  level: null,
} as const

const mostCachedSystems = 400

/** A track that is new, or whose notes or controllers are others now. */
export interface ChangedTrack {
  readonly trackId: string
  readonly notes: NoteColumns
  readonly controls: PlayedControls
}

/**
 * Keeps the score of the open project up to date and engraves single lines of it on demand. A line whose music has not
 * changed comes from the cache.
 */
export class Engraver {
  private readonly builder = new ScoreBuilder()
  private readonly contents = new Map<
    string,
    { readonly notes: ReturnType<typeof unpackNotes>; readonly controls: PlayedControls }
  >()
  private score: Score | null = null
  private headings: ScoreHeadings = noHeadings
  private systems: readonly ScoreSystem[] = []
  private musicXmlOf = new Map<number, string>()
  private readonly cache = new Map<string, EngravedLine>()
  private widthPx = 900
  private hidesEmptyStaves = false
  private revision = 0
  /** Of the last line that was being played, by how many bars it had. */
  private readonly liveSpacings = new Map<number, number>()
  /** Note spacing that last filled the line that begins at a measure. */
  private readonly spacings = new Map<number, number>()

  constructor(private readonly toolkit: EngravingToolkit) {}

  /**
   * Takes over a project.
   *
   * @param changed the sounding notes of tracks that are new or have changed since the last call
   */
  update(
    head: Pick<
      ProjectHead,
      'tempos' | 'meters' | 'sections' | 'words' | 'keys' | 'scoreSettings' | 'amendments' | 'page' | 'tracks'
    >,
    changed: readonly ChangedTrack[],
    widthPx: number,
  ): ScoreOutline {
    for (const { trackId, notes, controls } of changed)
      this.contents.set(trackId, { notes: unpackNotes(notes), controls })
    const written = head.tracks.flatMap((track) => {
      const content = this.contents.get(track.id)
      return track.isOnPage && content && content.notes.length > 0 ? [{ track, ...content }] : []
    })
    const score = this.builder.build(scoreSourceWith(head, written))
    this.score = score
    // Nothing but names is drawn of these.
    this.headings = {
      ...noHeadings,
      parts: written.map(({ track }) => ({
        ...track,
        shortName: track.shortName || abbreviation(track.name),
      })),
    }
    this.hidesEmptyStaves = head.page.hidesEmptyStaves
    this.widthPx = widthPx
    this.systems = breakIntoSystems(score, widthPx / pixelsPerSpace)
    this.musicXmlOf = new Map()
    this.revision++
    return this.outline(
      score,
      written.map(({ track }) => track),
    )
  }

  /** One line of music as SVG. */
  engrave(systemIndex: number): EngravedLine {
    const musicXml = this.systemMusicXml(systemIndex)
    const address = `${this.widthPx} ${musicXml}`
    const cached = this.cache.get(address)
    if (cached !== undefined) return cached
    const system = this.systems[systemIndex]!
    const line = engraveLine(
      this.toolkit,
      musicXml,
      this.widthPx,
      this.spacings.get(system.from) ?? usualSpacing,
      openTiesOf(this.score!, system),
      system.from + 1,
    )
    this.spacings.set(system.from, line.spacing)
    const engraved = {
      svg: line.svg,
      parts: this.partsIn(system),
      ...placesOf(line.given, this.score!, system),
    }
    this.cache.set(address, engraved)
    if (this.cache.size > mostCachedSystems) this.cache.delete(this.cache.keys().next().value!)
    return engraved
  }

  /**
   * Bars that are being played, drawn from what was played of them so far.
   *
   * @param bars by index, `to` not included; drawn as far as there is music
   * @returns null where nothing can be written yet
   */
  live(
    head: Parameters<Engraver['update']>[0],
    parts: readonly LivePart[],
    { from, to }: { readonly from: number; readonly to: number },
    widthPx: number,
  ): LiveLine | null {
    const played = parts.flatMap(({ trackId, notes, lowestKey, highestKey }) => {
      const track = head.tracks.find(({ id }) => id === trackId)
      if (!track) return []
      // What was played on both sides of the split once has both staves from then on.
      const { splitKey } = head.scoreSettings
      const isOnTwo =
        track.staffSplitKey === 'auto' &&
        isTwoStaffInstrument(track.instrument) &&
        lowestKey < splitKey &&
        highestKey >= splitKey
      return [
        {
          track: isOnTwo ? { ...track, staffSplitKey: splitKey } : track,
          notes: unpackNotes(notes),
          controls: noControls,
        },
      ]
    })
    if (played.every(({ notes }) => notes.length === 0)) return null
    // A key is not found from a few bars: that of the piece holds, where it has one.
    const keys = head.keys.length > 0 ? head.keys : (this.score?.keys ?? [])
    const source = { ...head, keys: [...keys], amendments: [], sections: [], words: [] }
    const score = buildScore(scoreSourceWith(source, played))
    const measures = { from, to: Math.min(to, score.measures.length) }
    if (measures.to <= from) return null
    const names = {
      ...noHeadings,
      parts: played.map(({ track }) => labelled(track, true)),
    }
    const musicXml = writeMusicXml(score, names, { measures, withNoteIds: true, goesOn: true })
    const line = engraveLine(
      this.toolkit,
      musicXml,
      widthPx,
      this.liveSpacings.get(measures.to - from) ?? usualSpacing,
      openTiesOf(score, measures),
      from + 1,
    )
    this.liveSpacings.set(measures.to - from, line.spacing)
    return {
      ...measures,
      svg: line.svg,
      heightPx: heightPxOf(line.svg),
    }
  }

  /** What the page sounds like when it is played as it is written, by track. */
  sounds(): readonly { readonly trackId: string; readonly notes: NoteColumns }[] {
    return this.score
      ? [...soundOfScore(this.score)].map(([trackId, notes]) => ({ trackId, notes: packNotes(notes) }))
      : []
  }

  /** How what is chosen is written; null when it is filtered or not on the page. */
  locate(chosen: ChosenOnPage): WrittenPlace | null {
    const score = this.score
    if (!score) return null
    const standing = standingIn(score)
    const lineOfMusic = (bar: number) => this.systems.findIndex(({ from, to }) => bar >= from && bar < to)
    if (chosen.kind === 'rest') {
      const found = [...standing.rests].find(
        ({ partIndex, voice, onsetTicks }) =>
          score.parts[partIndex]!.id === chosen.partId &&
          voice === chosen.voice &&
          onsetTicks === chosen.tick,
      )
      if (!found) return null
      const { rest, partIndex, bar, staff, voice, onsetTicks } = found
      const part = score.parts[partIndex]!
      return {
        ...nothingAtRest,
        trackId: part.id,
        systemIndex: lineOfMusic(bar),
        bar: bar + 1,
        onsetTicks,
        durationTicks: rest.durationTicks,
        value: rest.value,
        tuplet: rest.tuplet?.actual ?? null,
        staff,
        staves: part.clefs.length,
        voice,
      }
    }
    const found = chosen.noteIds.flatMap((id) => standing.head(id) ?? [])
    const first = found.reduce<Head | undefined>(
      (a, b) => (a && a.onsetTicks <= b.onsetTicks ? a : b),
      undefined,
    )
    if (!first) return null
    const { note, chord, partIndex, bar, staff, voice, line, onsetTicks, endTicks, isGrace } = first
    const part = score.parts[partIndex]!
    return {
      noteId: note.noteIds[0]!,
      heads: new Set(found.map((each) => each.note)).size,
      noteIds: [...new Set(found.flatMap((each) => each.note.noteIds))],
      trackId: part.id,
      systemIndex: lineOfMusic(bar),
      bar: bar + 1,
      onsetTicks,
      durationTicks: endTicks - onsetTicks,
      value: chord.value,
      tuplet: chord.tuplet?.actual ?? null,
      pitch: isUnpitched(part) ? null : note.pitch,
      staff,
      staves: part.clefs.length,
      voice,
      line,
      mergedNotes: note.noteIds.length - 1,
      isGrace,
      signs: chord.articulations.filter((sign) =>
        found.every((each) => each.chord.articulations.includes(sign)),
      ),
      fingering: note.fingering,
      level: part.dynamics.levels.find(({ tick }) => tick === onsetTicks)?.mark ?? null,
    }
  }

  /** What one comes to from what is chosen by the arrow keys; null where there is nothing. */
  walk(from: ChosenOnPage | null, direction: WalkDirection): ChosenOnPage | null {
    return this.score && walk(this.score, from, direction)
  }

  /** What a stroke of the pen changes of the page as it is now. */
  draw(existing: readonly Amendment[], chosen: ChosenOnPage, stroke: Stroke): Drawn {
    if (!this.score) return { isDrawn: false, why: 'The page is not written yet.' }
    const heardAt = (id: NoteId): Ticks => {
      for (const { notes } of this.contents.values()) {
        const note = byId(notes).get(id)
        if (note) return note.onsetTicks
      }
      return 0
    }
    return draw(this.score, existing, heardAt, chosen, stroke)
  }

  /** Notes of a stretch of bars: of one staff of a part, or of all parts. */
  notesIn(fromBar: number, toBar: number, of: { readonly trackId: string; readonly staff: number } | null) {
    if (!this.score) return []
    const { parts } = this.score
    return [...standingIn(this.score).heads].flatMap(({ bar, partIndex, staff, note }) =>
      bar + 1 >= fromBar &&
      bar + 1 <= toBar &&
      (of === null || (parts[partIndex]!.id === of.trackId && staff === of.staff))
        ? [note.noteIds[0]!]
        : [],
    )
  }

  /** Noteheads from one to another: on their staves and those between, from the earlier to the later. */
  notesBetween(from: NoteId, to: NoteId): readonly NoteId[] {
    if (!this.score) return []
    const standing = standingIn(this.score)
    const [a, b] = [standing.head(from), standing.head(to)]
    if (!a || !b) return [to]
    const rank = ({ partIndex, staff }: Head) => partIndex * 4 + staff
    const [low, high] = [Math.min(rank(a), rank(b)), Math.max(rank(a), rank(b))]
    const [first, last] = [Math.min(a.onsetTicks, b.onsetTicks), Math.max(a.onsetTicks, b.onsetTicks)]
    return [...standing.heads].flatMap((head) =>
      rank(head) >= low && rank(head) <= high && head.onsetTicks >= first && head.onsetTicks <= last
        ? [head.note.noteIds[0]!]
        : [],
    )
  }

  /** Symbols of the chords that sound. */
  chords(): readonly FoundChord[] {
    if (!this.score) return []
    const { score } = this
    const notes = [...standingIn(score).heads].flatMap(
      ({ partIndex, note, onsetTicks, endTicks, isGrace }) =>
        isGrace || isUnpitched(score.parts[partIndex]!) ? [] : [{ key: note.key, onsetTicks, endTicks }],
    )
    return findChords(notes, score.measures, score.keys)
  }

  private partsIn(system: ScoreSystem): readonly number[] {
    return this.hidesEmptyStaves
      ? partsThatPlay(this.score!, system)
      : this.score!.parts.map((_, index) => index)
  }

  private systemMusicXml(systemIndex: number): string {
    let musicXml = this.musicXmlOf.get(systemIndex)
    if (musicXml === undefined) {
      const { from, to } = this.systems[systemIndex]!
      const parts = this.headings.parts.map((part) => labelled(part, from === 0))
      musicXml = writeMusicXml(
        this.score!,
        { ...this.headings, parts },
        { measures: { from, to }, withNoteIds: true, parts: this.partsIn({ from, to }) },
      )
      this.musicXmlOf.set(systemIndex, musicXml)
    }
    return musicXml
  }

  private outline(score: Score, tracks: ProjectHead['tracks']): ScoreOutline {
    return {
      revision: this.revision,
      keys: score.keys,
      repeats: score.repeats,
      measures: score.measures.map(({ startTicks, lengthTicks }) => ({ startTicks, lengthTicks })),
      systems: this.systems.map((system) => ({ ...system, fingerprint: fingerprint(score, system) })),
      parts: score.parts.map(
        ({ id, clefs, splitKey, tornLines, lateMs, unplacedSyllables, ledger }, index) => ({
          trackId: id,
          name: tracks[index]!.name,
          thread: tracks[index]!.thread,
          clefs,
          splitKey,
          tornLines,
          lateMs,
          unplacedSyllables,
          ledger,
        }),
      ),
      ledger: sumLedgers(score.parts.map((part) => part.ledger)),
      misfits: [...score.misfits, ...score.parts.flatMap(({ misfits }) => misfits)],
    }
  }
}

/** Numbers for parts of a score that stay the same as long as the objects do: unchanged measures keep their arrays. */
const identities = new WeakMap<object, number>()
let nextIdentity = 1

function identityOf(object: object): number {
  let identity = identities.get(object)
  if (identity === undefined) {
    identity = nextIdentity++
    identities.set(object, identity)
  }
  return identity
}

/** Changes whenever the music of a line may have changed. */
function fingerprint(score: Score, system: ScoreSystem): string {
  const pieces: (string | number)[] = [system.from, system.to, score.parts.length]
  for (const part of score.parts) pieces.push(identityOf(part))
  return pieces.join('.')
}
