import type { NoteId } from '@/core/event/note'
import { type NoteColumns, unpackNotes } from '@/core/event/noteColumns'
import { writeMusicXml } from '@/core/formats/musicXml'
import type { Ledger } from '@/core/ledger/ledger'
import { sumLedgers } from '@/core/ledger/ledger'
import { ScoreBuilder } from '@/core/notation/buildScore'
import type { TornLines } from '@/core/notation/hands'
import type { ScoreHeadings } from '@/core/notation/headings'
import { type WalkDirection, walk } from '@/core/notation/noteWalk'
import { openTiesOf } from '@/core/notation/openTies'
import type { PlayedControls } from '@/core/notation/playedControls'
import type { ChordNote, Clef, NoteValue, Repeat, Score } from '@/core/notation/score'
import type { KeyChange } from '@/core/notation/scoreSettings'
import { breakIntoSystems, type ScoreSystem } from '@/core/notation/systems'
import { scoreSourceWith } from '@/core/project/onPage'
import type { ProjectHead } from '@/core/project/schema'
import type { Milliseconds, Ticks } from '@/core/time/units'
import { type EngravingToolkit, engraveLine, pixelsPerSpace } from './engraveLine'
import { usualSpacing } from './fillLine'
import { type LinePlaces, placesOf } from './linePlaces'
import { pageLabel } from './pageLabel'

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
}

/** Where and how a performed note is written. */
export interface WrittenPlace {
  readonly noteId: NoteId
  readonly systemIndex: number
  readonly bar: number
  readonly onsetTicks: Ticks
  readonly durationTicks: Ticks
  readonly value: NoteValue
  readonly staff: number
  readonly voice: number
  readonly mergedNotes: number
  /** In small print before what it leads to, whose place this is. */
  readonly isGrace: boolean
}

/** One line of music, drawn. */
export interface EngravedLine extends LinePlaces {
  readonly svg: string
}

const noHeadings: ScoreHeadings = {
  title: '',
  subtitle: '',
  composer: '',
  arranger: '',
  rights: '',
  parts: [],
}

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
  private revision = 0
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
      'tempos' | 'meters' | 'sections' | 'words' | 'keys' | 'scoreSettings' | 'amendments' | 'tracks'
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
    this.headings = { ...noHeadings, parts: written.map(({ track }) => track) }
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
    const engraved = { svg: line.svg, ...placesOf(line.given, this.score!, system) }
    this.cache.set(address, engraved)
    if (this.cache.size > mostCachedSystems) this.cache.delete(this.cache.keys().next().value!)
    return engraved
  }

  /** Where a performed note is on the page; null when it is filtered or not on the page. */
  locate(noteId: NoteId): WrittenPlace | null {
    const score = this.score
    if (!score) return null
    for (const part of score.parts)
      for (const [bar, voices] of part.measures.entries())
        for (const voice of voices)
          for (const element of voice.elements) {
            if (element.kind !== 'chord') continue
            const isNote = ({ noteIds, tiesFromPrevious }: ChordNote) =>
              noteIds.includes(noteId) && !tiesFromPrevious
            const grace = element.graces.find(isNote)
            const note = grace ?? element.notes.find(isNote)
            if (!note) continue
            return {
              noteId: note.noteIds[0]!,
              systemIndex: this.systems.findIndex((system) => bar >= system.from && bar < system.to),
              bar: bar + 1,
              onsetTicks: score.measures[bar]!.startTicks + element.startTicks,
              durationTicks: element.durationTicks,
              value: element.value,
              staff: voice.staff,
              voice: voice.voice,
              mergedNotes: note.noteIds.length - 1,
              isGrace: grace !== undefined,
            }
          }
    return null
  }

  /** The notehead one comes to from another by the arrow keys; null where there is none. */
  walk(from: NoteId | null, direction: WalkDirection): NoteId | null {
    return this.score && walk(this.score, from, direction)
  }

  private systemMusicXml(systemIndex: number): string {
    let musicXml = this.musicXmlOf.get(systemIndex)
    if (musicXml === undefined) {
      const { from, to } = this.systems[systemIndex]!
      const label = (name: string) => (from === 0 ? pageLabel(name) : '')
      const parts = this.headings.parts.map((part) => ({ ...part, name: label(part.name) }))
      musicXml = writeMusicXml(
        this.score!,
        { ...this.headings, parts },
        { measures: { from, to }, withNoteIds: true },
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
