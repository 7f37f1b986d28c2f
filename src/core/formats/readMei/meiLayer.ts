import type { Articulation, Clef } from '../../notation/score'
import { ticksOfNoteValue } from '../../notation/values'
import {
  type Entry,
  type EntryChord,
  type EntryNote,
  mostChordNotes,
} from '../../notation/writtenMusic/writtenMusic'
import type { Ticks } from '../../time/units'
import { child, childrenOf, type XmlElement } from '../xmlTree'
import { clefOf, plainText, valueOfMei } from './meiValues'

export type Mutable<T> = { -readonly [K in keyof T]: T[K] }
/** A chord to which signs are still put. */
export type OpenChord = {
  -readonly [K in keyof EntryChord]: EntryChord[K] extends readonly (infer E)[] ? E[] : EntryChord[K]
}

const signOf: Readonly<Record<string, Articulation>> = {
  stacc: 'staccato',
  ten: 'tenuto',
  acc: 'accent',
  marc: 'marcato',
  stacciss: 'staccatissimo',
  spicc: 'staccatissimo',
  upbow: 'up bow',
  dnbow: 'down bow',
}

export const isTiedTo = (tie: string | undefined) => tie !== undefined && /[im]/.test(tie)
export const isTiedFrom = (tie: string | undefined) => tie !== undefined && /[mt]/.test(tie)

const isCount = (number: number) => Number.isInteger(number) && number >= 1 && number <= 128

/** So many notes in the time of how many. */
interface Ratio {
  readonly actual: number
  readonly normal: number
}

/** What a layer needs of the part it is of. */
export interface LayerHost {
  /** Index of the bar that is read. */
  readonly bar: number
  readonly barTicks: Ticks
  staffOf(name: string | undefined): number | null
  note(element: XmlElement, startTicks: Ticks, staff: number): Mutable<EntryNote> | null
  push(entry: Entry): void
  name(
    element: XmlElement,
    chord: OpenChord,
    note: Mutable<EntryNote> | null,
    start: Ticks,
    end: Ticks,
    voice: string,
  ): void
  clefChange(bar: number, offsetTicks: Ticks, staff: number, clef: Clef): void
  remark(kind: string, element: XmlElement): void
  unknown(element: XmlElement): void
}

/** Reads one layer of a bar: what follows each other on a staff. */
export function readLayer(part: LayerHost, staff: number, voice: string, layer: XmlElement): void {
  new LayerReader(part, staff, voice, layer)
}

class LayerReader {
  /** Not rounded: tuplets need not go into ticks. */
  private position = 0
  private graces: EntryNote[] = []
  private readonly entries: Mutable<Entry>[] = []

  constructor(
    private readonly part: LayerHost,
    private readonly staff: number,
    private readonly voice: string,
    layer: XmlElement,
  ) {
    this.read(layer, null)
  }

  private read(within: XmlElement, tuplet: Ratio | null): void {
    for (const element of within.children)
      switch (element.name) {
        case 'note':
        case 'chord':
          this.chord(element, tuplet)
          break
        case 'rest':
          this.rest(element, tuplet, element.attributes.visible === 'false')
          break
        case 'space':
          this.rest(element, tuplet, true)
          break
        case 'mRest':
        case 'mSpace':
        case 'multiRest':
          this.wholeRest(element.name === 'mSpace' || element.attributes.visible === 'false')
          break
        case 'tuplet':
          this.tuplet(element, tuplet)
          break
        case 'beam':
        case 'graceGrp':
        case 'bTrem':
          this.read(element, tuplet)
          if (element.name === 'bTrem') this.trembles()
          break
        case 'clef': {
          const clef = clefOf(element)
          if (clef) this.part.clefChange(this.part.bar, Math.round(this.position), this.staff, clef)
          break
        }
        case 'accid':
        case 'artic':
        case 'keySig':
        case 'meterSig':
        case 'barLine':
          break
        default:
          this.part.unknown(element)
      }
  }

  private tuplet(element: XmlElement, outer: Ratio | null): void {
    const [actual, normal] = [Number(element.attributes.num ?? 3), Number(element.attributes.numbase ?? 2)]
    if (!isCount(actual) || !isCount(normal)) {
      this.part.unknown(element)
      this.read(element, outer)
      return
    }
    const before = this.entries.length
    this.read(element, { actual: actual * (outer?.actual ?? 1), normal: normal * (outer?.normal ?? 1) })
    const own = this.entries.slice(before)
    for (const [index, entry] of own.entries())
      if (entry.tuplet)
        entry.tuplet = { ...entry.tuplet, edge: { starts: index === 0, stops: index === own.length - 1 } }
  }

  private chord(element: XmlElement, tuplet: Ratio | null): void {
    const all = element.name === 'note' ? [element] : childrenOf(element, 'note')
    const notes = all.slice(0, mostChordNotes)
    if (notes.length < all.length)
      this.part.remark(`chords of more than ${mostChordNotes} notes, shortened`, element)
    const isGrace =
      element.attributes.grace !== undefined ||
      notes.every(({ attributes }) => attributes.grace !== undefined)
    const staff = this.part.staffOf(element.attributes.staff ?? notes[0]?.attributes.staff) ?? this.staff
    const read = notes.flatMap((note) => {
      const found = this.part.note(note, Math.round(this.position), staff)
      return found ? [{ note, found }] : []
    })
    if (isGrace) {
      this.graces.push(...read.map(({ found }) => found))
      return
    }
    const value = valueOfMei(element, notes[0])
    const { start, ticks } = this.advance(value ? ticksOfNoteValue(value) : 0, tuplet)
    if (read.length === 0 || ticks <= 0) return
    const articulations = [element, ...notes].flatMap((each) => [
      ...(each.attributes.artic ?? '').split(/\s+/),
      ...childrenOf(each, 'artic').flatMap(({ attributes }) => (attributes.artic ?? '').split(/\s+/)),
    ])
    const chord: OpenChord = {
      kind: 'chord',
      notes: read.map(({ found }) => found),
      graces: this.graces,
      articulations: [...new Set(articulations.flatMap((name) => signOf[name] ?? []))],
      lyric: lyricOf(element) ?? notes.map(lyricOf).find(Boolean) ?? null,
    }
    this.graces = []
    const tied = element.name === 'chord' ? element.attributes.tie : undefined
    if (tied)
      for (const { found } of read) {
        found.tiesToNext ||= isTiedTo(tied)
        found.tiesFromPrevious ||= isTiedFrom(tied)
      }
    this.add({
      startTicks: start,
      durationTicks: ticks,
      voice: this.voice,
      staff,
      value,
      tuplet: tuplet && { ...tuplet, edge: null },
      content: chord,
    })
    this.part.name(
      element,
      chord,
      element.name === 'note' ? read[0]!.found : null,
      start,
      start + ticks,
      this.voice,
    )
    if (element.name === 'chord')
      for (const { note, found } of read) this.part.name(note, chord, found, start, start + ticks, this.voice)
  }

  private rest(element: XmlElement, tuplet: Ratio | null, isHidden: boolean): void {
    const value = valueOfMei(element)
    const { start, ticks } = this.advance(value ? ticksOfNoteValue(value) : 0, tuplet)
    if (ticks <= 0) return
    this.add({
      startTicks: start,
      durationTicks: ticks,
      voice: this.voice,
      staff: this.staff,
      value,
      tuplet: tuplet && { ...tuplet, edge: null },
      content: { kind: 'rest', isWholeMeasure: false, isHidden },
    })
  }

  private wholeRest(isHidden: boolean): void {
    this.add({
      startTicks: 0,
      durationTicks: this.part.barTicks,
      voice: this.voice,
      staff: this.staff,
      value: null,
      tuplet: null,
      content: { kind: 'rest', isWholeMeasure: true, isHidden },
    })
  }

  private advance(plain: Ticks, tuplet: Ratio | null): { start: Ticks; ticks: Ticks } {
    const start = Math.round(this.position)
    this.position += tuplet ? (plain * tuplet.normal) / tuplet.actual : plain
    return { start, ticks: Math.round(this.position) - start }
  }

  /** The last chord is repeated for as long as it lasts. */
  private trembles(): void {
    const last = this.entries.at(-1)
    if (last?.content.kind === 'chord')
      last.content = { ...last.content, articulations: [...last.content.articulations, 'tremolo'] }
  }

  private add(entry: Mutable<Entry>): void {
    this.entries.push(entry)
    this.part.push(entry)
  }
}

function lyricOf(element: XmlElement): EntryChord['lyric'] {
  const verse = childrenOf(element, 'verse')[0]
  const syllable = child(verse, 'syl') ?? child(element, 'syl')
  const text = plainText(syllable)
  if (!syllable || !text) return null
  const syllabic = { i: 'begin', m: 'middle', t: 'end', s: 'single' } as const
  return { text, syllabic: syllabic[syllable.attributes.wordpos as keyof typeof syllabic] ?? 'single' }
}
