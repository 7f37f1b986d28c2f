import { type Note, type NoteId, noteEndTicks } from '@/core/event/note'
import { type NoteColumns, packNotes, unpackNotes } from '@/core/event/noteColumns'
import { writeMusicXml } from '@/core/formats/musicXml'
import type { Ledger } from '@/core/ledger/ledger'
import { sumLedgers } from '@/core/ledger/ledger'
import { abbreviation } from '@/core/notation/abbreviations'
import type { Amendment, Misfit } from '@/core/notation/amendments/amendment'
import { draw } from '@/core/notation/amendments/pen'
import type { ChosenOnPage, Drawn, Stroke } from '@/core/notation/amendments/stroke'
import { ScoreBuilder } from '@/core/notation/buildScore'
import type { FoundChord } from '@/core/notation/chordSymbols/findChords'
import { partsThatPlay } from '@/core/notation/emptyStaves'
import type { TornLines } from '@/core/notation/hands'
import { noHeadings, type ScoreHeadings } from '@/core/notation/headings'
import { standingIn } from '@/core/notation/heads'
import type { Manuscript } from '@/core/notation/manuscript/manuscript'
import { type WalkDirection, walk } from '@/core/notation/noteWalk'
import { openTiesOf } from '@/core/notation/openTies'
import { plainSound } from '@/core/notation/plainSound'
import type { PlayedControls } from '@/core/notation/playedControls'
import type { Clef, Return, Score } from '@/core/notation/score'
import type { KeyChange } from '@/core/notation/scoreSettings'
import { soundOfScore } from '@/core/notation/soundOfScore'
import { breakIntoSystems, type ScoreSystem } from '@/core/notation/systems'
import { contextOf } from '@/core/project/context'
import { byId } from '@/core/project/findNote'
import { type PageHead, scoreSourceWith } from '@/core/project/onPage'
import type { ProjectHead } from '@/core/project/schema'
import type { Milliseconds, Ticks } from '@/core/time/units'
import { chordsOf, notesBetween, notesIn, placeOf, type WrittenPlace } from './choosing'
import { type EngravingToolkit, engraveLine, pixelsPerSpace } from './engraveLine'
import { unknownSpacing } from './fillLine'
import { inPlace } from './inPlace'
import { type LinePlaces, placesOf } from './linePlaces'
import { type LiveLine, LiveLines, type LivePart } from './liveLines'
import { labelled } from './pageLabel'
import { engravedWidthPx, enlarged, type PageLook, placesEnlarged, stretchSpaces } from './pageLook'
import { SpacingGuess } from './spacingGuess'

/** What the page needs to know of a score before any line of it is engraved. */
export interface ScoreOutline {
  readonly revision: number
  readonly keys: readonly KeyChange[]
  readonly measures: readonly { readonly startTicks: Ticks; readonly lengthTicks: Ticks }[]
  readonly returns: readonly Return[]
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
  /** Only the first bars were read so far; the rest follows. */
  readonly isBeginning: boolean
}

/** One line of music, drawn. */
export interface EngravedLine extends LinePlaces {
  readonly svg: string
  /** Indices of the parts whose staves are in it. */
  readonly parts: readonly number[]
}

/** Some bars drawn by themselves, counted from 1. */
export interface Picture {
  readonly svg: string
  readonly from: number
  readonly to: number
}

const mostCachedSystems = 400

/** A track that is new, or whose notes or controllers are others now. */
export interface ChangedTrack {
  readonly trackId: string
  readonly notes: NoteColumns
  readonly controls: PlayedControls
  readonly manuscript: Manuscript | null
}

/**
 * Keeps the score of the open project up to date and engraves single lines of it on demand. A line whose music has not
 * changed comes from the cache.
 */
export class Engraver {
  private readonly builder = new ScoreBuilder()
  private readonly contents = new Map<
    string,
    Omit<ChangedTrack, 'trackId' | 'notes'> & { readonly notes: ReturnType<typeof unpackNotes> }
  >()
  private score: Score | null = null
  private headings: ScoreHeadings = noHeadings
  private systems: readonly ScoreSystem[] = []
  private musicXmlOf = new Map<number, string>()
  private readonly cache = new Map<string, EngravedLine>()
  private look: PageLook = { widthPx: 900, zoomPercent: 100, form: 'lines' }
  private hidesEmptyStaves = false
  private revision = 0
  private readonly guess = new SpacingGuess()
  private readonly liveLines: LiveLines

  constructor(private readonly toolkit: EngravingToolkit) {
    this.liveLines = new LiveLines(toolkit)
  }

  /**
   * Takes over a project.
   *
   * @param changed the sounding notes of tracks that are new or have changed since the last call
   */
  update(head: PageHead, changed: readonly ChangedTrack[], look: PageLook): ScoreOutline {
    this.take(changed)
    const written = this.written(head)
    return this.show(head, written, this.builder.build(scoreSourceWith(head, written)), look, false)
  }

  /** Takes over tracks that are new or have changed. */
  take(changed: readonly ChangedTrack[]): void {
    for (const { trackId, notes, ...others } of changed)
      this.contents.set(trackId, { notes: unpackNotes(notes), ...others })
  }

  /** Reads what `update` will write, part by part: in between something else can be done. */
  reading(head: PageHead): Generator<void> {
    return this.builder.reading(scoreSourceWith(head, this.written(head)))
  }

  /** The first bars of what was taken over, to be looked at while the rest is read. */
  beginning(head: PageHead, look: PageLook, bars: number): ScoreOutline {
    const written = beginningOf(head, this.written(head), bars)
    // What is read of a beginning is no help for the whole.
    return this.show(head, written, new ScoreBuilder().build(scoreSourceWith(head, written)), look, true)
  }

  /** The tracks on the page that have notes, with these. */
  private written(head: PageHead) {
    return head.tracks.flatMap((track) => {
      const content = this.contents.get(track.id)
      return track.isOnPage && content && content.notes.length > 0 ? [{ track, ...content }] : []
    })
  }

  private show(
    head: PageHead,
    written: ReturnType<Engraver['written']>,
    score: Score,
    look: PageLook,
    isBeginning: boolean,
  ): ScoreOutline {
    this.score = score
    // Nothing but names is drawn of these.
    this.headings = {
      ...noHeadings,
      parts: written.map(({ track }) => ({
        ...track,
        shortName: track.shortName || abbreviation(track.name),
      })),
    }
    const widthPx = engravedWidthPx(look)
    // Staves of an endless line go on.
    this.hidesEmptyStaves = head.page.hidesEmptyStaves && look.form === 'lines'
    this.look = look
    this.systems = breakIntoSystems(score, widthPx === null ? stretchSpaces : widthPx / pixelsPerSpace)
    this.musicXmlOf = new Map()
    this.revision++
    return this.outline(
      score,
      written.map(({ track }) => track),
      isBeginning,
    )
  }

  /** One line of music as SVG. */
  engrave(systemIndex: number): EngravedLine {
    const { zoomPercent } = this.look
    const line = this.engraveAtOwnSize(systemIndex)
    return { ...line, ...placesEnlarged(line, zoomPercent), svg: enlarged(line.svg, zoomPercent) }
  }

  private engraveAtOwnSize(systemIndex: number): EngravedLine {
    const musicXml = this.systemMusicXml(systemIndex)
    const widthPx = engravedWidthPx(this.look)
    const address = `${widthPx} ${musicXml}`
    const cached = this.cache.get(address)
    if (cached !== undefined) return cached
    const system = this.systems[systemIndex]!
    const lineSpaces = widthPx === null ? null : widthPx / pixelsPerSpace
    const line = engraveLine(
      this.toolkit,
      musicXml,
      widthPx,
      this.guess.expected(this.score!, system, lineSpaces),
      openTiesOf(this.score!, system),
      system.from + 1,
    )
    this.guess.wasFound(line, this.score!, system, lineSpaces)
    const engraved = {
      svg: inPlace(line.svg),
      parts: this.partsIn(system),
      ...placesOf(line.given, this.score!, system),
    }
    this.cache.set(address, engraved)
    if (this.cache.size > mostCachedSystems) this.cache.delete(this.cache.keys().next().value!)
    return engraved
  }

  /** Bars that are being played: `LiveLines.engrave`, in the key of the piece where it has one. */
  live(
    head: PageHead,
    parts: readonly LivePart[],
    bars: { readonly from: number; readonly to: number },
    look: PageLook,
  ): LiveLine | null {
    return this.liveLines.engrave(
      head,
      head.keys.length > 0 ? head.keys : (this.score?.keys ?? []),
      parts,
      bars,
      look,
      (trackId, startTicks, endTicks) =>
        this.contents
          .get(trackId)
          ?.notes.filter((note) => note.onsetTicks < endTicks && noteEndTicks(note) > startTicks) ?? [],
    )
  }

  /** What the page sounds like when it is played as it is written, by track. */
  sounds(): readonly { readonly trackId: string; readonly notes: NoteColumns }[] {
    return this.score
      ? [...soundOfScore(this.score)].map(([trackId, notes]) => ({ trackId, notes: packNotes(notes) }))
      : []
  }

  /** What the page has, as plainly as it can be sent, by track. */
  plain(): ReturnType<Engraver['sounds']> {
    return this.score
      ? [...plainSound(this.score)].map(([trackId, notes]) => ({ trackId, notes: packNotes(notes) }))
      : []
  }

  /** How what is chosen is written; null when it is filtered or not on the page. */
  locate(chosen: ChosenOnPage): WrittenPlace | null {
    return this.score && placeOf(this.score, this.systems, chosen)
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

  notesIn(
    fromBar: number,
    toBar: number,
    of: { readonly trackId: string; readonly staff: number } | null,
  ): readonly NoteId[] {
    return this.score ? notesIn(this.score, fromBar, toBar, of) : []
  }

  notesBetween(from: NoteId, to: NoteId): readonly NoteId[] {
    return this.score ? notesBetween(this.score, from, to) : []
  }

  /**
   * The bars of some notes as a drawing of their own, bars counted from 1; null where none of them is written.
   *
   * @param isOfAllParts otherwise of those parts that the notes are in
   */
  picture(noteIds: readonly NoteId[], isOfAllParts: boolean): Picture | null {
    if (!this.score) return null
    const { score } = this
    const standing = standingIn(score)
    const heads = noteIds.flatMap((id) => standing.head(id) ?? [])
    if (heads.length === 0) return null
    const bars = heads.map(({ bar }) => bar)
    const measures = { from: Math.min(...bars), to: Math.max(...bars) + 1 }
    const chosen = new Set(heads.map(({ partIndex }) => partIndex))
    const parts = [...score.parts.keys()].filter((index) => isOfAllParts || chosen.has(index))
    const names = this.headings.parts.map((part) => labelled(part, isOfAllParts))
    const musicXml = writeMusicXml(
      score,
      { ...this.headings, parts: isOfAllParts ? names : names.map((part) => ({ ...part, name: '' })) },
      { measures, withNoteIds: true, parts },
    )
    const { svg } = engraveLine(this.toolkit, musicXml, null, unknownSpacing, openTiesOf(score, measures))
    return { svg, from: measures.from + 1, to: measures.to }
  }

  /** Symbols of the chords that sound. */
  chords(): readonly FoundChord[] {
    return this.score ? chordsOf(this.score) : []
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
      const parts = this.headings.parts.map((part) =>
        from > 0 && this.look.form === 'endless'
          ? { ...part, name: '', shortName: '' }
          : labelled(part, from === 0),
      )
      musicXml = writeMusicXml(
        this.score!,
        { ...this.headings, parts },
        { measures: { from, to }, withNoteIds: true, parts: this.partsIn({ from, to }) },
      )
      this.musicXmlOf.set(systemIndex, musicXml)
    }
    return musicXml
  }

  private outline(score: Score, tracks: ProjectHead['tracks'], isBeginning: boolean): ScoreOutline {
    return {
      revision: this.revision,
      keys: score.keys,
      returns: score.returns,
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
      isBeginning,
      misfits: [...score.misfits, ...score.parts.flatMap(({ misfits }) => misfits)],
    }
  }
}

/** The first bars of some parts. Those that are silent there keep a note that is, so that they have their staff. */
function beginningOf<Part extends { readonly notes: readonly Note[] }>(
  head: PageHead,
  parts: readonly Part[],
  bars: number,
): Part[] {
  const endTicks = contextOf(head).meterMap.measure(bars).startTicks
  return parts.map((part) => {
    const notes = part.notes.filter(({ onsetTicks }) => onsetTicks < endTicks)
    return { ...part, notes: notes.length > 0 ? notes : part.notes.slice(0, 1) }
  })
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
