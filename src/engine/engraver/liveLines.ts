import { byOnset, type Note } from '@/core/event/note'
import { type NoteColumns, unpackNotes } from '@/core/event/noteColumns'
import { writeMusicXml } from '@/core/formats/musicXml'
import { buildScore } from '@/core/notation/buildScore'
import { noHeadings } from '@/core/notation/headings'
import { openTiesOf } from '@/core/notation/openTies'
import { playedControlsOf } from '@/core/notation/playedControls'
import type { KeyChange } from '@/core/notation/scoreSettings'
import { isTwoStaffInstrument } from '@/core/notation/staves'
import { contextOf } from '@/core/project/context'
import { type PageHead, scoreSourceWith } from '@/core/project/onPage'
import type { TakeWay } from '@/core/project/schema'
import type { Ticks } from '@/core/time/units'
import { type EngravingToolkit, engraveLine } from './engraveLine'
import { heightPxOf, unknownSpacing, usualSpacing } from './fillLine'
import { inPlace } from './inPlace'
import { firstLiveNoteId } from './liveNoteIds'
import { labelled } from './pageLabel'
import { enlarged, type PageLook } from './pageLook'

/** What was played of a track in the last bars, and between which keys it was played so far. */
export interface LivePart {
  readonly trackId: string
  readonly notes: NoteColumns
  /** Where it lies among what is there already. */
  readonly way: TakeWay
  readonly lowestKey: number
  readonly highestKey: number
}

/** A line of what is being played: bars by index, `to` not included. */
export interface LiveLine {
  readonly from: number
  readonly to: number
  readonly svg: string
  readonly heightPx: number
  /** Nothing in it was there before. */
  readonly isAllNew: boolean
}

/** Pedal and breath are read when the take is there. */
const noControls = playedControlsOf([], 0)

/** A note that is being played: its id has ten digits. */
const newNote = /(<g id="n1\d{9}[-\w]*" class="note)"/g

/** Draws what is being played, a line of bars at a time. */
export class LiveLines {
  /** Note spacing of the last line, by how many bars it had. */
  private readonly spacings = new Map<number, number>()

  constructor(private readonly toolkit: EngravingToolkit) {}

  /**
   * Bars that are being played, drawn from what was played of them so far.
   *
   * @param keys of the piece: none is found from a few bars
   * @param thereOf what a track has already in a stretch
   * @param bars by index, `to` not included; drawn as far as there is music
   * @returns null where nothing can be written yet
   */
  engrave(
    head: PageHead,
    keys: readonly KeyChange[],
    parts: readonly LivePart[],
    { from, to }: { readonly from: number; readonly to: number },
    { widthPx, zoomPercent }: PageLook,
    thereOf: (trackId: string, startTicks: Ticks, endTicks: Ticks) => readonly Note[],
  ): LiveLine | null {
    const { meterMap } = contextOf(head)
    // A bar before and one behind tell how a line begins and ends.
    const startTicks = meterMap.measure(Math.max(0, from - 1)).startTicks
    const endTicks = meterMap.measure(to + 1).startTicks
    const written = parts.flatMap(({ trackId, notes, way, lowestKey, highestKey }) => {
      const track = head.tracks.find(({ id }) => id === trackId)
      if (!track) return []
      // What was played on both sides of the split once has both staves from then on.
      const { splitKey } = head.scoreSettings
      const isOnTwo =
        track.staffSplitKey === 'auto' &&
        isTwoStaffInstrument(track.instrument) &&
        lowestKey < splitKey &&
        highestKey >= splitKey
      const asPart = (own: readonly Note[], fields: { id: string; name: string } = track) => ({
        track: { ...track, ...fields, ...(isOnTwo && { staffSplitKey: splitKey }) },
        notes: own,
        controls: noControls,
        manuscript: null,
      })
      const played = unpackNotes(notes)
      const there = way === 'fresh' ? [] : thereOf(trackId, startTicks, endTicks)
      if (there.length === 0) return [asPart(played)]
      switch (way) {
        case 'staff':
          return [asPart(there), asPart(played, { id: `${trackId} new`, name: '' })]
        case 'voice':
          return [asPart([...there, ...played.map((note) => ({ ...note, voice: 2 }))].sort(byOnset))]
        default:
          return [asPart([...there, ...played].sort(byOnset))]
      }
    })
    if (written.every(({ notes }) => notes.length === 0)) return null
    const source = {
      ...head,
      keys: [...keys],
      amendments: [],
      sections: [],
      words: [],
      // Bars stand where they are played.
      scoreSettings: { ...head.scoreSettings, foldsRepeats: false },
    }
    const score = buildScore(scoreSourceWith(source, written))
    const measures = { from, to: Math.min(to, score.measures.length) }
    if (measures.to <= from) return null
    const names = { ...noHeadings, parts: written.map(({ track }) => labelled(track, true)) }
    const musicXml = writeMusicXml(score, names, { measures, withNoteIds: true, goesOn: true })
    const line = engraveLine(
      this.toolkit,
      musicXml,
      Math.round((widthPx * 100) / zoomPercent),
      { ...unknownSpacing, spacing: this.spacings.get(measures.to - from) ?? usualSpacing },
      openTiesOf(score, measures),
      from + 1,
    )
    this.spacings.set(measures.to - from, line.spacing)
    const svg = enlarged(inPlace(line.svg), zoomPercent).replace(newNote, '$1 is-new"')
    const isAllNew = written.every(({ notes }) => notes.every(({ id }) => id >= firstLiveNoteId))
    return {
      ...measures,
      svg,
      heightPx: heightPxOf(svg),
      isAllNew,
    }
  }
}
