import { type NoteColumns, unpackNotes } from '@/core/event/noteColumns'
import { writeMusicXml } from '@/core/formats/musicXml'
import { buildScore } from '@/core/notation/buildScore'
import { noHeadings } from '@/core/notation/headings'
import { openTiesOf } from '@/core/notation/openTies'
import { playedControlsOf } from '@/core/notation/playedControls'
import type { KeyChange } from '@/core/notation/scoreSettings'
import { isTwoStaffInstrument } from '@/core/notation/staves'
import { type PageHead, scoreSourceWith } from '@/core/project/onPage'
import { type EngravingToolkit, engraveLine } from './engraveLine'
import { heightPxOf, usualSpacing } from './fillLine'
import { inPlace } from './inPlace'
import { labelled } from './pageLabel'
import { enlarged, type PageLook } from './pageLook'

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

/** Pedal and breath are read when the take is there. */
const noControls = playedControlsOf([], 0)

/** Draws what is being played, a line of bars at a time. */
export class LiveLines {
  /** Note spacing of the last line, by how many bars it had. */
  private readonly spacings = new Map<number, number>()

  constructor(private readonly toolkit: EngravingToolkit) {}

  /**
   * Bars that are being played, drawn from what was played of them so far.
   *
   * @param keys of the piece: none is found from a few bars
   * @param bars by index, `to` not included; drawn as far as there is music
   * @returns null where nothing can be written yet
   */
  engrave(
    head: PageHead,
    keys: readonly KeyChange[],
    parts: readonly LivePart[],
    { from, to }: { readonly from: number; readonly to: number },
    { widthPx, zoomPercent }: PageLook,
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
    const source = {
      ...head,
      keys: [...keys],
      amendments: [],
      sections: [],
      words: [],
      // Bars stand where they are played.
      scoreSettings: { ...head.scoreSettings, foldsRepeats: false },
    }
    const score = buildScore(scoreSourceWith(source, played))
    const measures = { from, to: Math.min(to, score.measures.length) }
    if (measures.to <= from) return null
    const names = { ...noHeadings, parts: played.map(({ track }) => labelled(track, true)) }
    const musicXml = writeMusicXml(score, names, { measures, withNoteIds: true, goesOn: true })
    const line = engraveLine(
      this.toolkit,
      musicXml,
      Math.round((widthPx * 100) / zoomPercent),
      this.spacings.get(measures.to - from) ?? usualSpacing,
      openTiesOf(score, measures),
      from + 1,
    )
    this.spacings.set(measures.to - from, line.spacing)
    const svg = enlarged(inPlace(line.svg), zoomPercent)
    return {
      ...measures,
      svg,
      heightPx: heightPxOf(svg),
    }
  }
}
