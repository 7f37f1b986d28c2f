import { mostLines, type NoteId } from '../../event/note'
import { sumLedgers } from '../../ledger/ledger'
import type { Measure, MeterChange } from '../../time/meterMap'
import type { Ticks } from '../../time/units'
import { noDynamics } from '../dynamics'
import { noneTorn } from '../hands'
import { pitchAt, stepOf } from '../pitchSteps'
import type { ChordNote, Clef, ClefChange, Score, ScoreElement, ScorePart, VoiceInMeasure } from '../score'
import type { KeyChange, KeySignature } from '../scoreSettings'
import { tempoMarksOf } from '../tempoMarks'
import { nameOfTransposition, transpositions, writtenKey } from '../transposition'
import { type BarLength, barLengths } from './barLengths'
import { type LaidOutLine, layOutEntries, lineAddress, wholeRest } from './layOutEntries'
import { playingOrder } from './playingOrder'
import type { EntryNote, Place, Span, WrittenMusic, WrittenPart } from './writtenMusic'

/** Music of a file in the order in which it is played, every note with an identity of its own. */
export interface PerformedScore {
  /** Nothing in it is repeated: what is played again is there again. */
  readonly score: Score
  /** Index of the written bar that each bar plays. */
  readonly order: readonly number[]
  readonly meters: readonly MeterChange[]
  readonly tempos: readonly { readonly tick: Ticks; readonly tempoBpm: number }[]
  /** By head: how hard it is struck, where the file says so. */
  readonly velocities: ReadonlyMap<NoteId, number>
  readonly nextId: NoteId
}

/** @param firstId the identity of the first note; the others follow */
export function performedScore(music: WrittenMusic, firstId: NoteId): PerformedScore {
  const order = playingOrder(music.bars.map(({ flow }) => flow))
  const lengths = barLengths(music)
  const plays = new Plays(order, lengths)
  const { measures } = plays
  const concert = concertKeys(music, plays)
  const identity = new Identity(firstId)
  const parts = music.parts.map((part, index) =>
    performedPart(inNamedTransposition(part), `part-${index + 1}`, plays, concert, identity),
  )
  const tempos = temposOf(music, plays)
  const score: Score = {
    swing: music.swing,
    keys: concert,
    tempos: tempoMarksOf(tempos),
    sections: music.sections.flatMap(({ name, ...place }) => {
      const tick = plays.first(place)
      return tick === null ? [] : [{ tick, name }]
    }),
    texts: [],
    chordSymbols: music.chordSymbols
      .flatMap(({ text, ...place }) => plays.all(place).map((tick) => ({ tick, text })))
      .sort((a, b) => a.tick - b.tick),
    measures,
    repeats: [],
    returns: [],
    endings: [],
    barLines: measures.flatMap(({ index }) => {
      const style = music.bars[order[index]!]!.barLine
      // The last bar has its line anyway.
      return style === null || index === measures.length - 1 ? [] : [{ bar: index, style }]
    }),
    breaks: measures.flatMap(({ index }) => {
      const of = music.bars[order[index]!]!.breakBefore
      return of === null || index === 0 ? [] : [{ bar: index, of }]
    }),
    misfits: [],
    parts,
  }
  return {
    score,
    order,
    meters: metersOf(measures),
    tempos,
    velocities: identity.velocities,
    nextId: identity.next,
  }
}

/** Bars as they are played, and where written places come to lie in them. */
class Plays {
  readonly measures: readonly Measure[]
  private readonly ofBar = new Map<number, number[]>()

  constructor(
    readonly order: readonly number[],
    private readonly lengths: readonly BarLength[],
  ) {
    let startTicks = 0
    this.measures = order.map((bar, index): Measure => {
      const { lengthTicks, numerator, denominator, writtenIn } = lengths[bar]!
      const measure = {
        index,
        startTicks,
        lengthTicks,
        numerator,
        denominator,
        ...(writtenIn && { writtenIn }),
      }
      startTicks += lengthTicks
      return measure
    })
    for (const [play, bar] of order.entries()) {
      const own = this.ofBar.get(bar)
      if (own) own.push(play)
      else this.ofBar.set(bar, [play])
    }
  }

  playsOf(bar: number): readonly number[] {
    return this.ofBar.get(bar) ?? []
  }

  tickIn(play: number, offsetTicks: Ticks): Ticks {
    const { startTicks, lengthTicks } = this.measures[play]!
    return startTicks + Math.min(offsetTicks, lengthTicks)
  }

  /** When a place is played, each time. */
  all({ bar, offsetTicks }: Place): Ticks[] {
    return this.playsOf(bar).map((play) => this.tickIn(play, offsetTicks))
  }

  first({ bar, offsetTicks }: Place): Ticks | null {
    const play = this.playsOf(bar)[0]
    return play === undefined ? null : this.tickIn(play, offsetTicks)
  }

  /** When something is played that lasts, each time: where the way leads elsewhere it ends, or is left out. */
  spans({ from, to }: Span, isWhole = false): { startTicks: Ticks; endTicks: Ticks }[] {
    return this.playsOf(from.bar).flatMap((play) => {
      let last = play
      while (this.order[last] !== to.bar && this.order[last + 1] === this.order[last]! + 1) last++
      const isEnd = this.order[last] === to.bar
      if (isWhole && !isEnd) return []
      const startTicks = this.tickIn(play, from.offsetTicks)
      const endTicks = this.tickIn(
        last,
        isEnd ? to.offsetTicks : this.lengths[this.order[last]!]!.lengthTicks,
      )
      return endTicks > startTicks ? [{ startTicks, endTicks }] : []
    })
  }
}

function metersOf(measures: readonly Measure[]): MeterChange[] {
  const changes: MeterChange[] = []
  for (const { startTicks: tick, numerator, denominator, writtenIn } of measures) {
    const before = changes.at(-1)
    const isSame =
      before?.numerator === numerator &&
      before.denominator === denominator &&
      before.writtenIn?.numerator === writtenIn?.numerator &&
      before.writtenIn?.denominator === writtenIn?.denominator
    if (!isSame) changes.push({ tick, numerator, denominator, ...(writtenIn && { writtenIn }) })
  }
  return changes
}

const usualTempoBpm = 120
const [slowestBpm, fastestBpm] = [4, 1000]

/** Tempi as they are played: where the way leads back, that in force there holds again. */
function temposOf({ tempos }: WrittenMusic, plays: Plays): { tick: Ticks; tempoBpm: number }[] {
  const bounded = tempos.map((each) => ({
    ...each,
    tempoBpm: Math.min(fastestBpm, Math.max(slowestBpm, each.tempoBpm)),
  }))
  const inForce = (bar: number) =>
    bounded.findLast((each) => each.bar < bar)?.tempoBpm ??
    bounded.find(({ bar, offsetTicks }) => bar === 0 && offsetTicks === 0)?.tempoBpm ??
    usualTempoBpm
  const byBar = new Map<number, typeof bounded>()
  for (const each of bounded) byBar.set(each.bar, [...(byBar.get(each.bar) ?? []), each])
  const all: { tick: Ticks; tempoBpm: number }[] = []
  const say = (tick: Ticks, tempoBpm: number) => {
    if (all.at(-1)?.tick === tick) all.pop()
    if (all.at(-1)?.tempoBpm !== tempoBpm) all.push({ tick, tempoBpm })
  }
  for (const [play, bar] of plays.order.entries()) {
    const { startTicks } = plays.measures[play]!
    if (play === 0 || plays.order[play - 1] !== bar - 1) say(startTicks, inForce(bar))
    for (const { offsetTicks, tempoBpm } of byBar.get(bar) ?? [])
      say(plays.tickIn(play, offsetTicks), tempoBpm)
  }
  return all
}

/** The keys that sound, from the first part that has pitches, in the order in which they are played. */
function concertKeys({ parts, bars }: WrittenMusic, plays: Plays): KeyChange[] {
  const part = parts.find(({ clefs, keys }) => clefs[0] !== 'percussion' && keys.length > 0)
  const ofBar: KeySignature[] = []
  let current: KeySignature = { fifths: 0, mode: 'major' }
  for (const bar of bars.keys()) {
    const told = part?.keys.findLast((key) => key.bar === bar)
    if (told && part) current = concertKey(told, part)
    ofBar.push(current)
  }
  const keys: KeyChange[] = []
  for (const [play, bar] of plays.order.entries()) {
    const { fifths, mode } = ofBar[bar]!
    if (keys.at(-1)?.fifths !== fifths || keys.at(-1)?.mode !== mode)
      keys.push({ tick: plays.measures[play]!.startTicks, fifths, mode })
  }
  return keys
}

function concertKey({ fifths, mode }: KeySignature, { transposition }: WrittenPart): KeySignature {
  for (let sounding = 0; sounding <= 7; sounding++)
    for (const each of [sounding, -sounding])
      if (writtenKey({ fifths: each, mode }, transposition).fifths === fifths) return { fifths: each, mode }
  return { fifths, mode }
}

/** Gives notes their identities, in the order in which they are played. */
class Identity {
  readonly velocities = new Map<NoteId, number>()

  constructor(public next: NoteId) {}

  take(velocity: number): NoteId {
    if (velocity > 0) this.velocities.set(this.next, velocity)
    return this.next++
  }
}

/** A part in a transposition that has no name here is written as it sounds. */
function inNamedTransposition(part: WrittenPart): WrittenPart {
  const { transposition } = part
  const name = nameOfTransposition(transposition)
  if (name !== null) return { ...part, transposition: transpositions[name] }
  const sounding = (note: EntryNote): EntryNote => ({
    ...note,
    pitch: pitchAt(stepOf(note.pitch) - transposition.steps, note.key),
  })
  return {
    ...part,
    transposition: transpositions['as it sounds'],
    entries: part.entries.map((bar) =>
      bar.map((entry) => {
        const { content } = entry
        if (content.kind === 'rest') return entry
        const [notes, graces] = [content.notes.map(sounding), content.graces.map(sounding)]
        return { ...entry, content: { ...content, notes, graces } }
      }),
    ),
  }
}

function performedPart(
  part: WrittenPart,
  id: string,
  plays: Plays,
  concert: readonly KeyChange[],
  identity: Identity,
): ScorePart {
  const laidOut = new Map<number, readonly LaidOutLine[]>()
  for (const [play, bar] of plays.order.entries())
    if (!laidOut.has(bar)) laidOut.set(bar, layOutEntries(part.entries[bar] ?? [], plays.measures[play]!))
  const numbers = lineNumbers([...laidOut.values()].flat(), part.clefs.length)
  const open = new Map<number, NoteId>()
  const measures = plays.order.map((bar, play): VoiceInMeasure[] =>
    part.clefs.flatMap((_, index) => {
      const staff = index + 1
      const own = laidOut
        .get(bar)!
        .filter((line) => Math.min(line.staff, part.clefs.length) === staff)
        .map((line) => ({
          voice: numbers.voices.get(line.address)!,
          staff,
          elements: line.elements,
        }))
        .sort((a, b) => a.voice - b.voice)
      const voices: { voice: number; staff: number; elements: readonly ScoreElement[] }[] =
        own.length > 0
          ? own
          : [
              {
                voice: numbers.firstOf[index]!,
                staff,
                elements: [wholeRest(plays.measures[play]!.lengthTicks, false)],
              },
            ]
      return voices.map((voice) => ({
        ...voice,
        elements: voice.elements.map((element) => withIdentity(element, voice.voice, open, identity)),
      }))
    }),
  )
  const voiceOf = (voice: string, place: Place): number | null => {
    const line = laidOut.get(place.bar)?.find((each) => each.voice === voice)
    return line ? numbers.voices.get(line.address)! : null
  }
  return {
    id,
    clefs: part.clefs,
    clefChanges: clefsAsPlayed(part, plays),
    octaveLines: part.octaveLines
      .filter(({ staff }) => staff <= part.clefs.length)
      .flatMap(({ staff, octaves, ...span }) =>
        plays.spans(span).map((times) => ({ staff, octaves, ...times })),
      ),
    transposition: part.transposition,
    keys: concert.map((key) => ({ tick: key.tick, ...writtenKey(key, part.transposition) })),
    splitKey: null,
    tornLines: noneTorn,
    measures,
    dynamics: {
      ...noDynamics,
      levels: part.levels
        .flatMap(({ mark, ...place }) => plays.all(place).map((tick) => ({ tick, mark })))
        .sort((a, b) => a.tick - b.tick)
        .filter(({ tick }, index, all) => all[index - 1]?.tick !== tick),
      hairpins: part.hairpins
        .flatMap(({ kind, ...span }) => plays.spans(span).map((times) => ({ ...times, kind })))
        .sort((a, b) => a.startTicks - b.startTicks),
    },
    lateMs: 0,
    isSung: false,
    unplacedSyllables: 0,
    slurs: withoutCrossing(
      part.slurs.flatMap(({ voice, endVoice, ...span }) => {
        const number = voiceOf(voice, span.from)
        return number === null || number !== voiceOf(endVoice, span.to)
          ? []
          : plays.spans(span, true).map((times) => ({ voice: number, ...times }))
      }),
    ),
    glissandi: part.glissandi.flatMap(({ voice, endVoice, ...span }) => {
      const [from, to] = [voiceOf(voice, span.from), voiceOf(endVoice, span.to)]
      return from === null || to === null
        ? []
        : plays.spans(span, true).map((times) => ({ voice: from, endVoice: to, ...times }))
    }),
    pedals: part.pedals.flatMap((span) => plays.spans(span)).sort((a, b) => a.startTicks - b.startTicks),
    texts: part.texts.flatMap(({ text, ...place }) => {
      const tick = plays.first(place)
      return tick === null ? [] : [{ tick, text }]
    }),
    ledger: sumLedgers([]),
    misfits: [],
  }
}

/** Lines of one voice do not overlap with what they bind: of slurs within others the outer one stays. */
function withoutCrossing<
  S extends { readonly voice: number; readonly startTicks: Ticks; readonly endTicks: Ticks },
>(slurs: readonly S[]): S[] {
  const sorted = [...slurs].sort(
    (a, b) => a.voice - b.voice || a.startTicks - b.startTicks || b.endTicks - a.endTicks,
  )
  const kept: S[] = []
  for (const slur of sorted) {
    const before = kept.at(-1)
    if (!before || before.voice !== slur.voice || slur.startTicks >= before.endTicks) kept.push(slur)
  }
  return kept
}

/** A number for each line of a part: by staff, then as the file numbers them; one at least for each staff. */
function lineNumbers(lines: readonly LaidOutLine[], staves: number) {
  const known = new Map<string, { staff: number; voice: string }>()
  for (const { address, staff, voice } of lines) known.set(address, { staff: Math.min(staff, staves), voice })
  for (let staff = 1; staff <= staves; staff++)
    if (![...known.values()].some((each) => each.staff === staff))
      known.set(lineAddress(staff, 'none'), { staff, voice: '' })
  const sorted = [...known].sort(
    ([, a], [, b]) =>
      a.staff - b.staff || (Number.parseInt(a.voice, 10) || 0) - (Number.parseInt(b.voice, 10) || 0),
  )
  const voices = new Map(sorted.map(([address], index) => [address, Math.min(mostLines, index + 1)]))
  const firstOf = Array.from(
    { length: staves },
    (_, index) => voices.get(sorted.find(([, { staff }]) => staff === index + 1)![0])!,
  )
  return { voices, firstOf }
}

/** A note that is tied to one before is the same note. */
function withIdentity(
  element: ScoreElement,
  voice: number,
  open: Map<number, NoteId>,
  identity: Identity,
): ScoreElement {
  if (element.kind === 'rest') return element
  const graces = element.graces.map((note) => ({ ...note, noteIds: [identity.take(note.velocity)] }))
  const notes = element.notes.map((note): ChordNote => {
    const address = voice * 128 + note.key
    const begun = note.tiesFromPrevious ? open.get(address) : undefined
    const noteId = begun ?? identity.take(note.velocity)
    if (note.tiesToNext) open.set(address, noteId)
    else open.delete(address)
    return { ...note, noteIds: [noteId], tiesFromPrevious: begun !== undefined }
  })
  return { ...element, graces, notes }
}

/** Clefs as they are played: where the way leads elsewhere, that in force there holds. */
function clefsAsPlayed({ clefs, clefChanges }: WrittenPart, plays: Plays): ClefChange[] {
  const all: ClefChange[] = []
  for (const [index, first] of clefs.entries()) {
    const staff = index + 1
    const own = clefChanges
      .filter((change) => change.staff === staff)
      .sort((a, b) => a.bar - b.bar || a.offsetTicks - b.offsetTicks)
    const inForceBefore = (bar: number) => own.findLast((change) => change.bar < bar)?.clef ?? first
    let current: Clef = first
    const say = (bar: number, offsetTicks: Ticks, clef: Clef) => {
      if (clef !== current) all.push({ staff, bar, clef, ...(offsetTicks > 0 && { offsetTicks }) })
      current = clef
    }
    if (own.length === 0) continue
    for (const [play, bar] of plays.order.entries()) {
      const here = own.filter((change) => change.bar === bar)
      if (plays.order[play - 1] !== bar - 1 && !here.some(({ offsetTicks }) => offsetTicks === 0))
        say(play, 0, inForceBefore(bar))
      for (const { offsetTicks, clef } of here) {
        // One at the end of a bar is that of the next.
        if (offsetTicks >= plays.measures[play]!.lengthTicks) continue
        say(play, offsetTicks, clef)
      }
      const behind = here.find(({ offsetTicks }) => offsetTicks >= plays.measures[play]!.lengthTicks)
      if (behind && play + 1 < plays.order.length && plays.order[play + 1] === bar + 1)
        say(play + 1, 0, behind.clef)
    }
  }
  return all.sort((a, b) => a.bar - b.bar || (a.offsetTicks ?? 0) - (b.offsetTicks ?? 0))
}
